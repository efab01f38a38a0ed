#!/usr/bin/env bash
# Writes docs/decisions/constants.md: what other values of tuned constants would do. Builds the library once for each value, in a copy of the
# sources; takes half an hour. Arguments are names of constants: their rows alone are printed.
. "$(dirname "${BASH_SOURCE[0]}")/lib.sh"

asked=" $* "
need $build_packages $test_packages
copy=build/constants
rm -rf "$copy/source"
mkdir -p "$copy/source"
git archive HEAD | tar -x -C "$copy/source"
step constants cmake -S "$copy/source" -B "$copy/build" -G Ninja -DCMAKE_BUILD_TYPE=Release

# What one build does: cases of the quick battery; deepest overlap of a pour and of small things that fall on one another.
row() {
  step constants cmake --build "$copy/build" --target fidelity crowds_bench
  local cases deepest
  cases=$("$copy/build/bench/fidelity" --quick 2>/dev/null | tail -1 | sed -E 's/^[0-9]+ cases, ([0-9]+) within.*, ([0-9]+) within.*/\1 | \2/') || true
  deepest() { "$copy/build/bench/crowds_bench" "$1" | tail -1 | awk -F'|' '{ print $8 "|" $9 }'; }
  echo "| $1 | $2 | $cases |$(deepest pour)|$(deepest small)|"
}

# A constant, its file, other values than the one taken.
sweep() {
  local name=$1 file=$2 value
  shift 2
  [ "$asked" = "  " ] || [[ "$asked" == *" $name "* ]] || return 0
  for value in "$@"; do
    sed -E "s/\b$name = [0-9.e-]+f?/$name = $value/" "$file" >"$copy/source/$file"
    row "\`$name\`" "$value"
  done
  cp "$file" "$copy/source/$file"
}

sweeps() {
  sweep kFirmSoftness src/islands/islands.h 0.03f 0.12f
  sweep kMostManifolds src/islands/islands.h 250 1000
  sweep plain_iterations src/solve/contact_kernels.h 1 4
  sweep kStale src/world/advance_contacts.cpp 0.04f 0.1f
  sweep kSlowed src/world/advance_sweeps.cpp 0.125f 0.5f
  sweep kPressed src/world/advance_stops.cpp 0.02f 0.1f
  sweep kHere src/solve/impacts.cpp 0.002f 0.01f
  sweep kWindow src/solve/impacts.cpp 0.015625f 0.0625f
}
if [ "$asked" != "  " ]; then
  sweeps
  exit
fi
{
  cat <<'HEAD'
# Constants that were tuned

**Problem.** A number that is copied from elsewhere, or from one scene, is right there and nowhere else.

**Choice.** A value stays as long as its neighbours do no better in all of these measures. Written by `scripts/constants.sh`: the first row is the library as it is, each other
one has one constant changed. *Good* and *best* count cases of the quick battery; *deepest* is the largest overlap at any time, and at rest, in % of the
thickness, of a thousand boxes that are poured and of a thousand of 2 cm that fall on one another at 20 m/s.

| constant | value | good | best | pour: deepest | at rest | small: deepest | at rest |
|---|---|---|---|---|---|---|---|
HEAD
  row "none" ""
  sweeps
} >"$copy/page.md"
cp "$copy/page.md" docs/decisions/constants.md
echo "wrote docs/decisions/constants.md"
