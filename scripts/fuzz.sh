#!/usr/bin/env bash
# Fuzzes what takes bytes from strangers, under the address and undefined-behaviour sanitizers: scene files, meshes and rays,
# snapshots with the right sum, sequences of calls. Arguments: seconds of each (60), then runs at most of each (no end).
# A finding is kept in build/fuzz/findings; mended, it goes to tests/fuzz/findings, where a test runs it.
source "$(dirname "$0")/lib.sh"
need $build_packages $test_packages $sanitizer_packages
seconds=${1:-60} runs=${2:--1}
targets="scene mesh bytes calls"
build asan --target fuzz_corpus $(printf 'fuzz_%s ' $targets)
# Beside what the demo scenes give, inputs that reached something new in earlier runs are begun with again.
mkdir -p build/fuzz/findings build/log
build/asan/tests/fuzz_corpus build/fuzz/start scenes/*.json scenes/*.obj
failed=0
fuzz() { # the entropic schedule costs four times what the targets do
  local at=build/fuzz
  mkdir -p "$at/found/$1"
  timeout $((seconds * 2 + 120)) "build/asan/tests/fuzz_$1" -max_total_time="$seconds" -runs="$runs" -entropic=0 -timeout=20 -rss_limit_mb=3000 -max_len=40000 -dict="tests/fuzz/words/$1.dict" \
    -artifact_prefix="$at/findings/$1-" "$at/found/$1" "$at/start/$1" "tests/fuzz/findings/$1" >"build/log/fuzz-$1.log" 2>&1
}
for pair in "scene mesh" "bytes calls"; do # two at a time
  set -- $pair
  fuzz "$1" & first=$!
  fuzz "$2" || { failed=1; echo "failed: fuzz_$2, see build/log/fuzz-$2.log"; }
  wait $first || { failed=1; echo "failed: fuzz_$1, see build/log/fuzz-$1.log"; }
done
for target in $targets; do
  echo "$target: $(grep -a -o 'Done [0-9]* runs in [0-9]* second' "build/log/fuzz-$target.log" | tail -1 | sed 's/$/s/' || true)"
  if [ $failed -ne 0 ]; then grep -a -E "ERROR|SUMMARY|runtime error|Test unit written" "build/log/fuzz-$target.log" | head -n 5 || true; fi
done
exit $failed
