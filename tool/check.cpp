// astasis check SCENE: what is wrong with it, and how it is put right.
#include "astasis/check.h"

#include "paint/picture.h"
#include "record/file_out.h"
#include "scene/nearest.h"
#include "tool/command.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <memory>

namespace astasis::tool {
namespace {

struct CheckWishes {
    std::string file, explain, picture;
    bool json = false;
};

const checks::Rule& rule_named(const std::string& name) {
    const auto rules = checks::rules();
    const auto found =
        std::find_if(rules.begin(), rules.end(), [&](const auto& r) { return name == r.name; });
    if (found != rules.end()) return *found;
    std::vector<std::string> known;
    for (const checks::Rule& rule : rules) known.emplace_back(rule.name);
    const std::string near = scene::nearest(name, known);
    throw UsageError(fmt::format("--explain: given {}, accepted: {}{}", name, fmt::join(known, ", "),
                                 near.empty() ? "" : "; did you mean " + near + "?"));
}

std::vector<checks::Finding> findings_of(const scene::SceneFile& file) {
    return std::visit([&](const auto& s) { return checks::check_scene(s, file.document); }, file.scene);
}

// The scene with the mistake, as it is at its start.
template<int Dim>
void draw_mistake(scene::Scene<Dim> scene, const scene::Document& document, const checks::Rule& rule,
                  const record::FileOut& out) {
    scene.title = fmt::format("{}: {}", rule.name, rule.title);
    paint::Picture<Dim> picture;
    picture.show.names = true;
    paint::draw_picture(scene, scene::make_world(scene, document), out.part(), paint::kind_of(out.path()),
                        picture);
}

// A value that is refused where it stands in the file is a mistake of the scene; no scene at all is a fault
// of the call.
std::vector<checks::Finding> findings_in(const std::string& name) {
    try {
        return findings_of(scene::read_scene(name));
    } catch (const scene::FileError& e) {
        const std::string what = e.what();
        if (what.find(": $") == std::string::npos) throw;
        return {{"refused", true, what}};
    }
}

std::string explained(const CheckWishes& wishes) {
    const checks::Rule& rule = rule_named(wishes.explain);
    const scene::SceneFile file = scene::read_scene_text(std::string(rule.name) + ".json", rule.bad);
    std::string out =
        fmt::format("{}: {}\n{}\nAs in this scene:\n{}\n", rule.name, rule.title, rule.story, rule.bad);
    for (const checks::Finding& f : findings_of(file))
        if (f.rule == std::string(rule.name)) out += fmt::format("Of which it says: {}\n", f.text);
    if (wishes.picture.empty()) return out;
    paint::kind_of(wishes.picture);
    record::FileOut picture(wishes.picture);
    std::visit([&](const auto& s) { draw_mistake(s, file.document, rule, picture); }, file.scene);
    picture.finish();
    return out + fmt::format("The scene is drawn in {}\n", wishes.picture);
}

std::string quoted_json(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\') out += '\\';
        if (static_cast<unsigned char>(c) < 0x20) out += fmt::format("\\u{:04x}", static_cast<int>(c));
        else out += c;
    }
    return out + "\"";
}

std::string as_json(const std::string& file, const std::vector<checks::Finding>& findings) {
    std::string out = fmt::format("{{\"scene\": {}, \"findings\": [", quoted_json(file));
    for (std::size_t k = 0; k < findings.size(); k++)
        out +=
            fmt::format("{}\n  {{\"rule\": {}, \"kind\": {}, \"text\": {}}}", k > 0 ? "," : "",
                        quoted_json(findings[k].rule), quoted_json(findings[k].is_error ? "error" : "advice"),
                        quoted_json(findings[k].text));
    return out + (findings.empty() ? "]}\n" : "\n]}\n");
}

std::string as_text(const std::string& file, const std::vector<checks::Finding>& findings) {
    if (findings.empty()) return fmt::format("{}: nothing found by {} rules\n", file, checks::rules().size());
    std::string out = file + "\n";
    for (const checks::Finding& f : findings)
        out += fmt::format("  {}  {}: {}\n", f.is_error ? "ERROR " : "advice", f.rule, f.text);
    return out + fmt::format("See astasis check --explain RULE, as --explain {}\n", findings[0].rule);
}

void run_check(const CheckWishes& wishes) {
    if (!wishes.explain.empty()) {
        fmt::print("{}", explained(wishes));
        return;
    }
    if (!wishes.picture.empty())
        throw UsageError("--picture goes with --explain: it draws a scene with the mistake");
    if (wishes.file.empty())
        throw UsageError("check wants the name of a scene file, as scenes/tote_bin.json");
    const auto findings = findings_in(wishes.file);
    fmt::print("{}", wishes.json ? as_json(wishes.file, findings) : as_text(wishes.file, findings));
    if (std::any_of(findings.begin(), findings.end(), [](const auto& f) { return f.is_error; }))
        throw FoundErrors();
}

}

void add_check(Commands& commands) {
    auto wishes = std::make_shared<CheckWishes>();
    Options check = commands.add("check", "Look for mistakes in a scene, and say how to put them right");
    check.footer(
        "Examples:\n"
        "  astasis check scenes/tote_bin.json\n"
        "  astasis check --explain mass_ratio --picture mass_ratio.png\n"
        "A copy of the scene is stepped for up to two seconds; nothing is written but a picture.\n"
        "Exit status: 0 no errors (advice may be given), 1 errors were found, 2 the call or the file "
        "is at fault.");
    check.scene(wishes->file, false);
    check.flag("--json", wishes->json, "Print the findings as JSON");
    check.text("--explain", wishes->explain, {"RULE", "Tell the longer story of a rule"});
    check.text("--picture", wishes->picture,
               {"FILE", "With --explain: draw a scene with the mistake, .png or .svg"});
    check.work([=] { run_check(*wishes); });
}

}
