// What the subcommands share.
#pragma once

#include <CLI/App.hpp>

#include <stdexcept>

namespace astasis::tool {

// A call that cannot be carried out as given; the message says what to do. Exit status 2.
class UsageError : public std::runtime_error {
    using std::runtime_error::runtime_error;
};

// Each adds its subcommand, options and help; the work is done when the command line has been read.
void add_run(CLI::App& app);
void add_draw(CLI::App& app);
void add_demo(CLI::App& app);

}
