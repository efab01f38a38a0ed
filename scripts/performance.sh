#!/usr/bin/env bash
# Writes docs/performance.md from what the benchmarks print; takes a quarter of an hour on a quiet machine.
. "$(dirname "${BASH_SOURCE[0]}")/lib.sh"

need $build_packages $test_packages
build release --target events_bench joints_bench prices_bench crowds_bench step_bench rest_bench manifolds_bench broad_bench
page=docs/performance.md
bench=build/release/bench
# A heading, a sentence, and what a benchmark prints: as it is if it prints a table, else as text.
table() { printf '\n## %s\n%s\n\n' "$1" "$2"; shift 2; "$@"; }
text() { printf '\n## %s\n%s\n\n```\n' "$1" "$2"; shift 2; "$@" 2>/dev/null; printf '```\n'; }

{
  cat <<'HEAD'
# What things cost

Written by `scripts/performance.sh` in one run on a two-core machine, one thread. Read ratios, not times: the same program takes up to
one and a half times as long in another hour. Every benchmark checks what it times first.
HEAD
  table "Crowds" "All awake. *At rest* is the mean tick of the same bodies when they lie still; *deepest* is the largest overlap at any time, and in the end." \
    $bench/crowds_bench
  table "Prices" "What the budget sells ([budget](decisions/budget.md)), as measured and as priced, in units of one manifold solved in one pass." \
    $bench/prices_bench
  text "A tick by stage" "Median after 3 s of settling; sleeping is off." $bench/step_bench
  table "Joints and fields" "All awake; a thing is a box, a link or a body. The row above is of resting contacts or of free bodies, as many; in a column they bear one another, as links do. *Bought* is the extra work of the budget." \
    $bench/joints_bench
  table "Events, sensors, hooks" "A pile of 1000 boxes, all awake, against a twin without, ticks in turn; the median of the ratios." \
    $bench/events_bench
  text "Asleep and awake" "What sleeps costs nothing; what wakes costs what wakes." $bench/rest_bench
  text "Contacts of one pair" "Finding where two shapes touch, the mean over random poses that touch or nearly do." \
    $bench/manifolds_bench --benchmark_min_time=0.2
  text "Pairs and queries" "Boxes of about 1 m that fly at up to 5 m/s along each axis, with room for 9 m2 (plane) or 8 m3 (space) each; \`looked_at\` counts nodes of the tree for each moving box and tick. Queries are among balls and boxes of 1 m with room for 3 m each way; ways are up to 15 m along each axis." \
    $bench/broad_bench --benchmark_min_time=0.2
  text "How fat a box is" "A box of the tree is wider than its shape by \`margin\` (a share of the mean side) on all sides, and longer by \`ahead\` ticks of its motion. Taken: 0.1 and 8. With too little of either boxes are put anew in most ticks; with too much, pairs are kept that never meet." \
    $bench/broad_bench --fattening
} >$page
echo "wrote $page"
