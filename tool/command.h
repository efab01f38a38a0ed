// What the subcommands share.
#pragma once

#include "tool/options.h"

#include <fmt/format.h>

#include <cstdio>
#include <stdexcept>
#include <utility>

namespace astasis::tool {

// A call that cannot be carried out as given; the message says what to do. Exit status 2.
class UsageError : public std::runtime_error {
    using std::runtime_error::runtime_error;
};

// Errors that `check` has found and printed. Exit status 1.
class FoundErrors : public std::exception {};

// Prints on standard error, whatever becomes of it there.
template<typename... Args> void complain(fmt::format_string<Args...> text, Args&&... args) {
    std::fputs(fmt::format(text, std::forward<Args>(args)...).c_str(), stderr);
}

// Each adds its subcommand, options and help; the work is done when the command line has been read.
void add_run(Commands& commands);
void add_draw(Commands& commands);
void add_check(Commands& commands);
void add_time(Commands& commands);
void add_chart(Commands& commands);
void add_demo(Commands& commands);

}
