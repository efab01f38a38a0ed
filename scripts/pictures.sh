#!/usr/bin/env bash
# Draws the pictures of docs/screenshots anew, from the demo scenes.
source "$(dirname "$0")/lib.sh"
need $build_packages
build release --target astasis
draw() { # NAME SCENE OPTIONS...
  local name=$1 scene=$2
  shift 2
  build/release/tool/astasis run "scenes/$scene.json" --picture "${OUT:-docs/screenshots}/$name.png" "$@" >/dev/null
  echo "drew $name.png"
}
draw run_picture parcel_chute
draw mixed_goods mixed_goods
draw tile_floor tile_floor
draw sorting_line sorting_line
draw belt_line belt_line
draw drum_floor drum_floor
draw tote_bin_rays tote_bin --rays scenes/tote_bin.rays.json
draw islands parcel_chute --show islands
draw swept_paths sorter_gate --show paths
draw diverter_arm diverter_arm --at 2
draw yard_crane yard_crane --at 6
draw magnet_post magnet_post --at 2
draw kerb_cart kerb_cart --at 3
draw light_barrier light_barrier --at 4
draw lift_gate lift_gate --at 8.9
build/release/tool/astasis time scenes/parcel_chute.json --picture "${OUT:-docs/screenshots}/time.png" >/dev/null
tables=$(mktemp -d)
build/release/tool/astasis run scenes/air_table.json --csv "$tables/air.csv" --every 0.1 >/dev/null
(cd "$tables" && "$OLDPWD/build/release/tool/astasis" chart air.csv --histogram --law maxwell --from 2 --picture chart.png >/dev/null)
mv "$tables/chart.png" "${OUT:-docs/screenshots}/chart.png"
rm -r "$tables"
build/release/tool/astasis check --explain slope --picture "${OUT:-docs/screenshots}/check.png" >/dev/null
