// astasis check SCENE: what is wrong with it, and how it is put right.
#include "check/check.h"

#include "tool/command.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include <algorithm>
#include <memory>

namespace astasis::tool {
namespace {

struct CheckWishes {
    std::string file, explain;
    bool json = false;
};

std::string explained(const std::string& name) {
    const auto rules = check::rules();
    const auto found =
        std::find_if(rules.begin(), rules.end(), [&](const auto& r) { return name == r.name; });
    if (found != rules.end()) return fmt::format("{}: {}\n{}\n", found->name, found->title, found->story);
    std::string known;
    for (const check::Rule& rule : rules) known += (known.empty() ? "" : ", ") + std::string(rule.name);
    throw UsageError(fmt::format("--explain: given {}, accepted: {}", name, known));
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

std::string as_json(const std::string& file, const std::vector<check::Finding>& findings) {
    std::string out = fmt::format("{{\"scene\": {}, \"findings\": [", quoted_json(file));
    for (std::size_t k = 0; k < findings.size(); k++)
        out +=
            fmt::format("{}\n  {{\"rule\": {}, \"kind\": {}, \"text\": {}}}", k > 0 ? "," : "",
                        quoted_json(findings[k].rule), quoted_json(findings[k].is_error ? "error" : "advice"),
                        quoted_json(findings[k].text));
    return out + (findings.empty() ? "]}\n" : "\n]}\n");
}

std::string as_text(const std::string& file, const std::vector<check::Finding>& findings) {
    if (findings.empty()) return fmt::format("{}: nothing found by {} rules\n", file, check::rules().size());
    std::string out = file + "\n";
    for (const check::Finding& f : findings)
        out += fmt::format("  {}  {}: {}\n", f.is_error ? "ERROR " : "advice", f.rule, f.text);
    return out + fmt::format("See astasis check --explain RULE, as --explain {}\n", findings[0].rule);
}

void run_check(const CheckWishes& wishes) {
    if (!wishes.explain.empty()) {
        fmt::print("{}", explained(wishes.explain));
        return;
    }
    if (wishes.file.empty())
        throw UsageError("check wants the name of a scene file, as scenes/tote_bin.json");
    const scene::SceneFile file = scene::read_scene(wishes.file);
    const auto findings =
        std::visit([&](const auto& s) { return check::check(s, file.document); }, file.scene);
    fmt::print("{}", wishes.json ? as_json(wishes.file, findings) : as_text(wishes.file, findings));
    if (std::any_of(findings.begin(), findings.end(), [](const auto& f) { return f.is_error; }))
        throw FoundErrors();
}

}

void add_check(CLI::App& app) {
    auto wishes = std::make_shared<CheckWishes>();
    CLI::App* sub =
        app.add_subcommand("check", "Look for mistakes in a scene, and say how to put them right");
    sub->footer("Examples:\n"
                "  astasis check scenes/tote_bin.json\n"
                "  astasis check --explain mass_ratio\n"
                "A copy of the scene is stepped for up to two seconds; nothing is written.\n"
                "Exit status: 0 no errors (advice may be given), 1 errors were found, 2 the call or the file "
                "is at fault.");
    sub->add_option("scene", wishes->file, "Scene file (JSON, see docs/scene-format.md)")->type_name("SCENE");
    sub->add_flag("--json", wishes->json, "Print the findings as JSON");
    sub->add_option("--explain", wishes->explain, "Tell the longer story of a rule")->type_name("RULE");
    sub->callback([=] { run_check(*wishes); });
}

}
