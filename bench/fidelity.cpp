// Runs the mechanics cases and prints docs/fidelity.md. Arguments: parts of names, as "ST FR01"; --quick
// leaves out the lengthy ones; --plane, --space one dimension only.
#include "fidelity/outcome.h"

#include <chrono>
#include <cstdio>
#include <cstring>
#include <string>

using namespace astasis::fidelity;

namespace {

bool is_asked(const Case& c, int argc, char** argv) {
    bool named = false, any = false;
    for (int i = 1; i < argc; i++) {
        if (!std::strcmp(argv[i], "--quick")) {
            if (c.lengthy) return false;
        } else if (!std::strcmp(argv[i], "--plane")) {
            if (c.dimensions != 2) return false;
        } else if (!std::strcmp(argv[i], "--space")) {
            if (c.dimensions != 3) return false;
        } else {
            any = true;
            named = named || std::strncmp(c.name, argv[i], std::strlen(argv[i])) == 0;
        }
    }
    return named || !any;
}

constexpr const char* kHead =
    "# How near mechanics is\n\n"
    "Cases with known answers, all at one configuration: 60 ticks a second and the defaults of the library "
    "(`tests/fidelity/configuration.h`).\n*Good* is the tolerance that has to be kept, *best* the one to "
    "strive for; "
    "*off by* is a share where tolerances are shares.\nOf lists the worst entry stands here. Written by "
    "`build/release/bench/fidelity`; the quick cases are tests too, the granular ones (GR) take hours and "
    "are "
    "for the soak.\n";
constexpr const char* kColumns = "| case | | what | measured | wanted | off by | good | best | "
                                 "|\n|---|---|---|---|---|---|---|---|---|\n";

const char* verdict(const Quantity& q) { return q.is_best() ? "best" : q.is_good() ? "good" : "**short**"; }

std::string row_of(const Case& c, const Quantity& q) {
    char row[500];
    std::snprintf(row, sizeof row, "| %s | %dD | %s | %.7g %s | %s | %.2g | %.2g | %.2g | %s |\n", c.name,
                  c.dimensions, q.name.c_str(), q.measured, q.unit.c_str(), q.wanted.c_str(), q.error, q.good,
                  q.best, verdict(q));
    return row;
}

}

int main(int argc, char** argv) {
    int all = 0, good = 0, best = 0;
    std::string short_of_best, rest;
    for (const Case& c : cases()) {
        if (!is_asked(c, argc, argv)) continue;
        Outcome outcome;
        const auto start = std::chrono::steady_clock::now();
        c.run(outcome);
        const std::chrono::duration<double> took = std::chrono::steady_clock::now() - start;
        for (const Quantity& q : outcome.quantities()) (q.is_best() ? rest : short_of_best) += row_of(c, q);
        std::fprintf(stderr, "%s %dD %-45s %s %7.2f s\n", c.name, c.dimensions, c.title,
                     outcome.is_best()   ? "best "
                     : outcome.is_good() ? "good "
                                         : "SHORT",
                     took.count());
        all++, good += outcome.is_good(), best += outcome.is_best();
    }
    std::printf("%sCases asked for:", kHead);
    for (int i = 1; i < argc; i++) std::printf(" %s", argv[i]);
    std::printf("%s.\n\n## Short of best\n%s%s\n## Within the best\n%s%s", argc > 1 ? "" : " all", kColumns,
                short_of_best.c_str(), kColumns, rest.c_str());
    std::printf("\n%d cases, %d within the good tolerance, %d within the best.\n", all, good, best);
    return good == all ? 0 : 1;
}
