#!/usr/bin/env bash
# The same fingerprints after every tick of all demo scenes from gcc's release build and from other builds. Arguments: ticks of
# each scene, ticks of those with thousands of bodies, presets: clang-debug, gcc-debug, clang-release, asan, or aarch64, which
# runs under qemu-user, a hundred times slower.
source "$(dirname "$0")/lib.sh"
ticks=$1 ticks_of_large=$2
shift 2
need $build_packages $test_packages
case " $* " in *" aarch64 "*) need g++-aarch64-linux-gnu qemu-user ;; esac
case " $* " in *" asan "*) need $sanitizer_packages ;; esac
for preset in release "$@"; do build "$preset" --target fingerprints; done
out=build/fingerprints
rm -rf "$out"
mkdir -p "$out"
print() { # preset, scene: the fingerprints of its ticks in $out/SCENE.PRESET
  local name runner="" count=$ticks
  name=$(basename "$2" .json)
  case $name in hundred_heaps | tote_floor) count=$ticks_of_large ;; esac
  if [ "$1" = aarch64 ]; then runner="qemu-aarch64 -L /usr/aarch64-linux-gnu"; fi
  $runner "build/$1/tests/elsewhere/fingerprints" "$count" "$2" >"$out/$name.$1"
}
compare() { # a scene, presets
  local name preset
  name=$(basename "$1" .json)
  print release "$1"
  for preset in "${@:2}"; do
    print "$preset" "$1"
    cmp -s "$out/$name.release" "$out/$name.$preset" || {
      echo "failed: the first ticks of $name that differ, release left and $preset right"
      diff --side-by-side --suppress-common-lines "$out/$name.release" "$out/$name.$preset" | head -n 3
      exit 1
    }
  done
}
export -f print compare
export out ticks ticks_of_large
ls scenes/*.json | grep -v '\.rays\.json$' | xargs -P 2 -I{} bash -c 'compare "$@"' _ {} "$@"
echo "$(ls "$out"/*.release | wc -l) scenes: the same $(cat "$out"/*.release | wc -l) fingerprints from release and $*"
