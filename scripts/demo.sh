#!/usr/bin/env bash
# Installs what is needed on Debian 12, builds the astasis command and runs its demo. Leaves ./astasis-demo.
source "$(dirname "$0")/lib.sh"
need $build_packages
build gcc-release
build/gcc-release/tool/astasis demo --out astasis-demo
echo "The command is build/gcc-release/tool/astasis; try: build/gcc-release/tool/astasis run --help"
