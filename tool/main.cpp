// The astasis command: reads the command line, runs a subcommand, turns faults into a sentence and a status.
// 0: done (warnings are printed with the summary). 2: the call, the scene or an output file is at fault;
// nothing was written. 1: `check` found errors. 130 and 143: ended by SIGINT or SIGTERM after the tick in
// hand, files complete.
#include "tool/command.h"

#include "tool/interrupts.h"

#include "astasis/version.h"

#include <fmt/core.h>

#include <algorithm>
#include <cstdio>

// What was printed may still wait to be written.
static int status_of(int signal) {
    if (std::fflush(stdout) != 0 || std::ferror(stdout) != 0) {
        astasis::tool::complain("astasis: what it printed could not be written in full; is the disk full?\n");
        return 2;
    }
    return signal == 0 ? 0 : 128 + signal;
}

int main(int argc, char** argv) {
    using namespace astasis::tool;
    Commands commands(
        "astasis",
        "Steps rigid bodies of a scene file, in the plane or in space, with no monitor and no network.\n"
        "Begin with: astasis demo",
        std::string("astasis ") + astasis::kVersion);
    add_run(commands);
    add_draw(commands);
    add_check(commands);
    add_time(commands);
    add_chart(commands);
    add_demo(commands);
    try {
        if (!commands.run(argc, argv)) return 2;
        return status_of(signal_seen());
    } catch (const FoundErrors&) {
        return std::max(1, status_of(0));
    } catch (const std::exception& e) {
        complain("astasis: {}\n", e.what());
        return 2;
    }
}
