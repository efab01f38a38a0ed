#!/usr/bin/env bash
# The same fingerprints after every tick of all demo scenes on x86-64 and on aarch64: the core and the reader of scenes are
# built for both, the second run under qemu-user. Argument: ticks of each scene, 120 by default.
source "$(dirname "$0")/lib.sh"
need $build_packages $test_packages g++-aarch64-linux-gnu qemu-user
ticks=${1:-120}
build release --target fingerprints
build aarch64 --target fingerprints
scenes=$(ls scenes/*.json | grep -v '\.rays\.json$')
build/release/tests/elsewhere/fingerprints "$ticks" $scenes >build/log/fingerprints-release.txt
qemu-aarch64 -L /usr/aarch64-linux-gnu build/aarch64/tests/elsewhere/fingerprints "$ticks" $scenes >build/log/fingerprints-aarch64.txt
if ! cmp -s build/log/fingerprints-release.txt build/log/fingerprints-aarch64.txt; then
  echo "failed: the first ticks that differ, x86-64 left and aarch64 right"
  diff --side-by-side --suppress-common-lines build/log/fingerprints-release.txt build/log/fingerprints-aarch64.txt | head
  exit 1
fi
echo "$(echo $scenes | wc -w) scenes, $ticks ticks each: the same $(wc -l <build/log/fingerprints-aarch64.txt) fingerprints on x86-64 and aarch64"
