#!/usr/bin/env bash
# The form of the code: clang-format everywhere, clang-tidy over all our own sources.
source "$(dirname "$0")/lib.sh"
need $build_packages $test_packages $house_packages
echo "checking the format"
git ls-files '*.h' '*.cpp' | xargs clang-format --dry-run -Werror
# Without headers that are read once: they are g++'s, and each file is to include what it uses.
step tidy-build cmake --preset release -B build/tidy -DCMAKE_DISABLE_PRECOMPILE_HEADERS=ON
echo "running clang-tidy"
# The build is g++'s: what it is told not to warn of, clang does not know.
git ls-files 'src/*.cpp' 'scene/*.cpp' 'record/*.cpp' 'check/*.cpp' 'paint/*.cpp' 'tool/*.cpp' |
  xargs -P 2 -n 1 clang-tidy --quiet -p build/tidy --extra-arg=-Wno-unknown-warning-option >build/log/tidy.log 2>&1 || { grep -E "error:|warning:" build/log/tidy.log; exit 1; }
