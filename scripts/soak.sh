#!/usr/bin/env bash
# The long checks: 20000 random cases a pair of shapes against the oracles, and what else takes longer than the tests may.
# Prints the counts of cases and failures; the last figures stand in docs/soak.md.
. "$(dirname "${BASH_SOURCE[0]}")/lib.sh"

need $build_packages $test_packages
build release --target core_test fidelity
failed=0
for filter in ConvexPairs.* TouchPlane.* Surface.* Queries*Rays* Queries*Nearest* Queries*Times* Look* SweepTest*Shot* SleepTest*RandomEdits; do
  echo "$filter"
  ASTASIS_CASES=${ASTASIS_CASES:-20000} build/release/tests/core_test --gtest_filter="$filter" >build/log/soak.log || failed=1
  grep -E "cases,|rays,|casts,|asked,|OK|FAILED|Failure" build/log/soak.log
done
echo "all demo scenes are without findings, the largest too"
build release --target tool_test
ASTASIS_CASES=1 build/release/tests/tool_test --gtest_filter=Check.DemoScenes* >build/log/soak.log || failed=1
grep -E "OK|FAILED|Failure" build/log/soak.log
need $sanitizer_packages
build asan --target core_test
echo "SleepTest*RandomEdits under the address and undefined-behaviour sanitizers"
ASTASIS_CASES=$((${ASTASIS_CASES:-20000} / 5)) ASAN_OPTIONS=detect_leaks=1 UBSAN_OPTIONS=print_stacktrace=1 \
  build/asan/tests/core_test --gtest_filter='SleepTest*RandomEdits' >build/log/soak.log || failed=1
grep -E "OK|FAILED|Failure|ERROR" build/log/soak.log
echo "mechanics cases, the lengthy ones too"
build/release/bench/fidelity >build/log/fidelity.md || failed=1
tail -1 build/log/fidelity.md
scripts/same_ticks.sh 360 120 gcc-debug clang-debug clang-release || failed=1
scripts/same_ticks.sh 120 120 aarch64 || failed=1
scripts/fuzz.sh 14400 1000000 || failed=1
exit $failed
