#!/usr/bin/env bash
# The same scene gives the same bytes of CSV from gcc and clang, in debug and release; or from the builds named.
source "$(dirname "$0")/lib.sh"
need $build_packages $test_packages
builds=${*:-release gcc-debug clang-debug clang-release} # release: as users build it, by gcc on Debian
for b in $builds; do build "$b"; done
out=$(mktemp -d)
trap 'rm -rf "$out"' EXIT
for scene in parcel_chute belt_line mixed_goods tote_bin tube_rack diverter_arm kerb_cart steps_dummy; do
  for b in $builds; do
    "build/$b/tool/astasis" run "scenes/$scene.json" --duration 6 --csv "$out/$scene-$b.csv" >/dev/null
  done
  for b in $builds; do
    cmp "$out/$scene-release.csv" "$out/$scene-$b.csv" || { echo "failed: $scene differs between release and $b"; exit 1; }
  done
  echo "$scene: the same $(wc -l <"$out/$scene-release.csv") lines of CSV from $builds ($(sha256sum "$out/$scene-release.csv" | cut -c1-12))"
done
