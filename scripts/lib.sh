# What the scripts share: packages, quiet steps. Sourced, not run.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."

build_packages="g++ cmake ninja-build pkg-config libcairo2-dev fonts-dejavu-core libfmt-dev libcli11-dev nlohmann-json3-dev libtinyobjloader-dev gnuplot-nox"
test_packages="libgtest-dev libeigen3-dev libbenchmark-dev clang"
house_packages="clang-format clang-tidy"
sanitizer_packages="clang libclang-rt-dev"

# Installs what is missing of the packages named.
need() {
  local missing=()
  for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q "ok installed" || missing+=("$package")
  done
  [ ${#missing[@]} -eq 0 ] && return
  local as_root=()
  if [ "$(id -u)" -ne 0 ]; then as_root=(sudo); fi
  echo "installing ${missing[*]}"
  step packages "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get update -qq
  step packages "${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}"
}

# Runs a command with its output in build/log/NAME.log; shows the end of it only if the command fails.
step() {
  local log="build/log/$1.log"
  shift
  mkdir -p build/log
  if ! "$@" >"$log" 2>&1; then
    echo "failed: $*"
    tail -n 40 "$log"
    echo "all of it is in $log"
    exit 1
  fi
}

# Configures and builds a preset; further arguments go to the build.
build() {
  local preset=$1
  shift
  echo "building $preset"
  step "$preset" cmake --preset "$preset"
  step "$preset" cmake --build --preset "$preset" "$@"
}
