// The astasis command: reads the command line, runs a subcommand, turns faults into a sentence and a status.
// 0: done (warnings are printed with the summary). 2: the call, the scene or an output file is at fault;
// nothing was written. 1: `check` found errors. 130 and 143: ended by SIGINT or SIGTERM after the tick in
// hand, files complete.
#include "tool/command.h"

#include "tool/interrupts.h"
#include "tool/messages.h"

#include "astasis/version.h"

#include <CLI/CLI.hpp>
#include <fmt/core.h>

#include <algorithm>
#include <cstdio>

static bool is_command(const CLI::App& app, const std::string& name) {
    for (const CLI::App* sub : app.get_subcommands([](const CLI::App*) { return true; }))
        if (sub->get_name() == name) return true;
    return false;
}

// What was printed may still wait to be written.
static int status_of(int signal) {
    if (std::fflush(stdout) != 0 || std::ferror(stdout) != 0) {
        astasis::tool::complain("astasis: what it printed could not be written in full; is the disk full?\n");
        return 2;
    }
    return signal == 0 ? 0 : 128 + signal;
}

int main(int argc, char** argv) {
    CLI::App app(
        "Steps rigid bodies of a scene file, in the plane or in space, with no monitor and no network.\n"
        "Begin with: astasis demo",
        "astasis");
    app.set_version_flag("--version", std::string("astasis ") + astasis::kVersion);
    app.require_subcommand(1);
    app.failure_message(
        [&](const CLI::App*, const CLI::Error& e) { return astasis::tool::message_of(app, e); });
    astasis::tool::add_run(app);
    astasis::tool::add_draw(app);
    astasis::tool::add_check(app);
    astasis::tool::add_time(app);
    astasis::tool::add_demo(app);
    // The parser would only say that a subcommand is missing.
    if (argc > 1 && argv[1][0] != '-' && !is_command(app, argv[1])) {
        astasis::tool::complain("astasis: {}\nSee astasis --help.\n",
                                astasis::tool::no_command(app, argv[1]));
        return 2;
    }
    try {
        app.parse(argc, argv);
        return status_of(astasis::tool::signal_seen());
    } catch (const CLI::ParseError& e) {
        if (app.exit(e) != 0) return 2;
        return status_of(0);
    } catch (const astasis::tool::FoundErrors&) {
        return std::max(1, status_of(0));
    } catch (const std::exception& e) {
        astasis::tool::complain("astasis: {}\n", e.what());
        return 2;
    }
}
