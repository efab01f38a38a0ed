#include "tool/options.h"

#include "tool/command.h"
#include "tool/messages.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include <charconv>

namespace astasis::tool {
namespace {

// The parser's own range texts print bounds with hundreds of digits.
template<typename Number> CLI::Validator within(const Accepts<Number>& accepts) {
    return {[=](const std::string& given) -> std::string {
                Number value{};
                const char* const end = given.data() + given.size();
                const auto read = std::from_chars(given.data(), end, value);
                if (read.ec == std::errc() && read.ptr == end && value >= accepts.low &&
                    value <= accepts.high)
                    return {};
                return "given " + given + ", accepted: " + accepts.sentence;
            },
            ""};
}

CLI::Option* as_told(CLI::Option* option, const Told& told) {
    option->type_name(told.type);
    if (told.group != nullptr) option->group(told.group);
    return option;
}

bool is_command(const CLI::App& app, const std::string& name) {
    for (const CLI::App* sub : app.get_subcommands([](const CLI::App*) { return true; }))
        if (sub->get_name() == name) return true;
    return false;
}

}

void Options::footer(const std::string& text) { app_.footer(text); }
void Options::scene(std::string& to, bool required) {
    app_.add_option("scene", to, "Scene file (JSON, see docs/scene-format.md)")
        ->type_name("SCENE")
        ->required(required);
}
void Options::table(std::string& to) {
    app_.add_option("table", to, "What astasis run wrote or printed")->type_name("TABLE")->required();
}
void Options::flag(const char* name, bool& to, const char* text) { app_.add_flag(name, to, text); }
void Options::text(const char* name, std::string& to, const Told& told) {
    CLI::Option* option = as_told(app_.add_option(name, to, told.text), told);
    if (!to.empty()) option->capture_default_str();
}
void Options::texts(const char* name, std::vector<std::string>& to, const Told& told) {
    as_told(app_.add_option(name, to, told.text), told)->allow_extra_args(false);
}
void Options::number(const char* name, std::optional<double>& to, const Told& told) {
    as_told(app_.add_option(name, to, told.text), told);
}
void Options::number(const char* name, std::optional<double>& to, const Accepts<double>& accepts,
                     const Told& told) {
    as_told(app_.add_option(name, to, told.text), told)->check(within(accepts));
}
void Options::whole(const char* name, std::optional<std::uint64_t>& to, const Accepts<std::uint64_t>& accepts,
                    const Told& told) {
    as_told(app_.add_option(name, to, told.text), told)->check(within(accepts));
}
void Options::work(std::function<void()> work) { app_.callback(std::move(work)); }

Commands::Commands(const char* name, const char* text, const std::string& version)
    : app_(std::make_unique<CLI::App>(text, name)) {
    app_->set_version_flag("--version", version);
    app_->require_subcommand(1);
    app_->failure_message([this](const CLI::App*, const CLI::Error& e) { return message_of(*app_, e); });
}
Commands::~Commands() = default;

Options Commands::add(const char* name, const char* text) {
    return Options(*app_->add_subcommand(name, text));
}

bool Commands::run(int argc, char** argv) {
    // The parser would only say that a subcommand is missing.
    if (argc > 1 && argv[1][0] != '-' && !is_command(*app_, argv[1])) {
        complain("astasis: {}\nSee astasis --help.\n", no_command(*app_, argv[1]));
        return false;
    }
    try {
        app_->parse(argc, argv);
        return true;
    } catch (const CLI::ParseError& e) {
        return app_->exit(e) == 0;
    }
}

}
