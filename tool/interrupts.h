// SIGINT and SIGTERM as a wish to end: what is in hand is finished first.
#pragma once

namespace astasis::tool {

// While it lives the two signals only leave their number; the second of them ends the program at once, as
// always.
class Interrupts {
public:
    Interrupts();
    ~Interrupts();
    Interrupts(const Interrupts&) = delete;
    Interrupts& operator=(const Interrupts&) = delete;
};

// The number of the signal that came, or 0.
int signal_seen();

}
