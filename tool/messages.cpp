#include "tool/messages.h"

#include "scene/nearest.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>

#include <algorithm>
#include <vector>

namespace astasis::tool {
namespace {

const CLI::App& command_of(const CLI::App& app) {
    const auto given = app.get_subcommands();
    return given.empty() ? app : *given[0];
}

std::string meant(const std::string& given, const std::vector<std::string>& words) {
    const std::string word = scene::nearest(given, words);
    return word.empty() ? std::string() : fmt::format("; did you mean {}?", word);
}

std::vector<std::string> options_of(const CLI::App& command) {
    std::vector<std::string> out;
    for (const CLI::Option* option : command.get_options())
        for (const std::string& name : option->get_lnames()) out.push_back("--" + name);
    return out;
}

// What stands on the line but belongs to nothing: an option first, since its value is left over with it.
std::string left_over(const CLI::App& app, const CLI::App& command) {
    const std::vector<std::string> rest = app.remaining(true);
    const auto option =
        std::find_if(rest.begin(), rest.end(), [](const std::string& word) { return word.starts_with("-"); });
    if (option != rest.end()) {
        const std::string name = option->substr(0, option->find('='));
        return fmt::format("there is no option {}{}", name, meant(name, options_of(command)));
    }
    const std::string first = rest.empty() ? std::string() : rest[0];
    if (command.get_option_no_throw("table") != nullptr)
        return fmt::format("{}: {} already has its table; one call takes one", first, command.get_name());
    if (command.get_option_no_throw("scene") == nullptr)
        return fmt::format("{} takes options only, given {}", command.get_name(), first);
    return fmt::format("{}: {} already has its file; one call takes one scene", first, command.get_name());
}

std::vector<std::string> commands(const CLI::App& app) {
    std::vector<std::string> out;
    for (const CLI::App* sub : app.get_subcommands([](const CLI::App*) { return true; }))
        out.push_back(sub->get_name());
    return out;
}
std::string commands_of(const CLI::App& app) { return fmt::format("{}", fmt::join(commands(app), ", ")); }

}

std::string message_of(const CLI::App& app, const CLI::Error& error) {
    const CLI::App& command = command_of(app);
    const auto code = static_cast<CLI::ExitCodes>(error.get_exit_code());
    const std::string what = error.what();
    const std::string option = what.substr(0, what.find(':'));
    std::string text = what;
    const auto rest = app.remaining(true);
    const bool has_option =
        std::any_of(rest.begin(), rest.end(), [](const std::string& word) { return word.starts_with("-"); });
    if (code == CLI::ExitCodes::ExtrasError || (code == CLI::ExitCodes::RequiredError && has_option))
        text = left_over(app, command);
    else if (code == CLI::ExitCodes::RequiredError && &command == &app)
        text = fmt::format("a command is missing; there are {}", commands_of(app));
    else if (code == CLI::ExitCodes::RequiredError && command.get_option_no_throw("table") != nullptr)
        text = fmt::format("{} wants the name of a table that a run wrote, as chute.csv", command.get_name());
    else if (code == CLI::ExitCodes::RequiredError)
        text = fmt::format("{} wants the name of a scene file, as scenes/tote_bin.json", command.get_name());
    else if (code == CLI::ExitCodes::ArgumentMismatch && what.find("At Most") != std::string::npos)
        text = option + " is given twice";
    else if (code == CLI::ExitCodes::ArgumentMismatch) text = option + " wants a value behind it";
    else if (code == CLI::ExitCodes::ConversionError) {
        const auto from = what.find("--"), to = what.find(" = ");
        if (from != std::string::npos && to != std::string::npos && from < to)
            text = fmt::format("{}: given {}, accepted: a number of the kind that {} {} --help names",
                               what.substr(from, to - from), what.substr(to + 3), app.get_name(),
                               command.get_name());
    }
    const std::string help = &command == &app ? app.get_name() : app.get_name() + " " + command.get_name();
    return fmt::format("astasis: {}\nSee {} --help.\n", text, help);
}

std::string no_command(const CLI::App& app, const std::string& given) {
    const std::string word = meant(given, commands(app));
    return fmt::format("there is no command \"{}\"{} {}", given,
                       word.empty() ? std::string("; there are") : word + " There are", commands_of(app));
}

}
