#!/usr/bin/env bash
# Installs what is needed on Debian 12, builds, and runs all tests.
source "$(dirname "$0")/lib.sh"
need $build_packages $test_packages
build release
step headers cmake --build --preset release --target all_verify_interface_header_sets
echo "running the tests"
ctest --preset release --parallel 2 --output-on-failure --quiet --output-log build/log/tests.log || {
  grep -E "Failed|\*\*\*|Failure" -A 8 build/log/tests.log | head -n 120
  exit 1
}
tail -n 4 build/log/tests.log
