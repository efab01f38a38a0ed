#include "tool/interrupts.h"

#include <csignal>
#include <initializer_list>

namespace astasis::tool {
namespace {

volatile std::sig_atomic_t seen = 0;

extern "C" void note_signal(int number) {
    seen = number;
    std::signal(number, SIG_DFL);
}

}

Interrupts::Interrupts() {
    for (const int number : {SIGINT, SIGTERM})
        if (std::signal(number, note_signal) == SIG_IGN) std::signal(number, SIG_IGN); // as with nohup
}

Interrupts::~Interrupts() {
    for (const int number : {SIGINT, SIGTERM})
        if (std::signal(number, SIG_DFL) == SIG_IGN) std::signal(number, SIG_IGN);
}

int signal_seen() { return seen; }

}
