#!/usr/bin/env bash
# The form of the code: clang-format everywhere, clang-tidy over all our own sources.
source "$(dirname "$0")/lib.sh"
need $build_packages $test_packages $house_packages
echo "checking the format"
git ls-files '*.h' '*.cpp' | xargs clang-format --dry-run -Werror
build release --target astasis_core
echo "running clang-tidy"
# The build is g++'s: what it is told not to warn of, clang does not know.
git ls-files 'src/*.cpp' 'scene/*.cpp' 'record/*.cpp' 'check/*.cpp' 'paint/*.cpp' 'tool/*.cpp' |
  xargs -P 2 -n 1 clang-tidy --quiet -p build/release --extra-arg=-Wno-unknown-warning-option >build/log/tidy.log 2>&1 || { grep -E "error:|warning:" build/log/tidy.log; exit 1; }
