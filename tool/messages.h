// Faults of a command line in words of our own.
#pragma once

#include <string>

namespace CLI {
class App;
class Error;
}

namespace astasis::tool {

// One sentence, and which help to see.
std::string message_of(const CLI::App& app, const CLI::Error& error);

// That there is no such command, and which there are.
std::string no_command(const CLI::App& app, const std::string& given);

}
