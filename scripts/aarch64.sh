#!/usr/bin/env bash
# The same fingerprints after every tick of all demo scenes on x86-64 and on aarch64: the core and the reader of scenes are
# built for both, the second run under qemu-user, which is a hundred times slower. Arguments: ticks of each scene (30), ticks
# of those with thousands of bodies (2).
source "$(dirname "$0")/lib.sh"
need $build_packages $test_packages g++-aarch64-linux-gnu qemu-user
ticks=${1:-30} ticks_of_large=${2:-2}
build release --target fingerprints
build aarch64 --target fingerprints
out=build/fingerprints
rm -rf "$out"
mkdir -p "$out"
compare() { # a scene
  local name ticks=$ticks
  name=$(basename "$1" .json)
  case $name in hundred_heaps | tote_floor) ticks=$ticks_of_large ;; esac
  build/release/tests/elsewhere/fingerprints "$ticks" "$1" >"$out/$name.x86-64"
  qemu-aarch64 -L /usr/aarch64-linux-gnu build/aarch64/tests/elsewhere/fingerprints "$ticks" "$1" >"$out/$name.aarch64"
  cmp -s "$out/$name.x86-64" "$out/$name.aarch64" || {
    echo "failed: the first ticks of $name that differ, x86-64 left and aarch64 right"
    diff --side-by-side --suppress-common-lines "$out/$name.x86-64" "$out/$name.aarch64" | head -n 3
    exit 1
  }
}
export -f compare
export out ticks ticks_of_large
ls scenes/*.json | grep -v '\.rays\.json$' | xargs -P 2 -I{} bash -c 'compare {}'
echo "$(ls "$out"/*.aarch64 | wc -l) scenes: the same $(cat "$out"/*.aarch64 | wc -l) fingerprints on x86-64 and aarch64"
