#!/usr/bin/env bash
# Fails on C++ in which clang-tidy (Debian's, 16) finds a fault: check_tidy.sh [FOLDER...]
# A folder is app/cut, core/play, devices …; without any: all of them. Each is looked at as one, as
# TUVVO_TOGETHER compiles it; nothing is built for that. What is looked for stands in .clang-tidy.
set -euo pipefail
cd "$(dirname "$0")/.."
build="${TUVVO_TIDY_BUILD:-build-tidy}"
cmake -S . -B "$build" -G Ninja -DTUVVO_TOGETHER=ON -DCMAKE_EXPORT_COMPILE_COMMANDS=ON >"$build.log" 2>&1 || {
  cat "$build.log"
  exit 1
}
rm -f "$build.log"
mapfile -t units < <(find "$build"/{core,devices,cli,app}/CMakeFiles -name 'unity_*.cxx' | sort)
[ ${#units[@]} -gt 0 ] || { echo "There is nothing to look at in $build."; exit 1; }
wanted=()
for unit in "${units[@]}"; do
  # The folder of the sources that the unit puts together.
  source=$(sed -n 's/^#include "\(.*\)"$/\1/p' "$unit" | head -1)
  [ -n "$source" ] || continue
  folder=$(dirname "$(realpath --relative-to=. "$source")")
  if [ $# -eq 0 ] || [[ " $* " == *" $folder "* ]]; then wanted+=("$unit"); fi
done
[ ${#wanted[@]} -gt 0 ] || { echo "No such folder: $*"; exit 2; }
# Only what is found is shown; the count of what was left out is noise.
printf '%s\0' "${wanted[@]}" | xargs -0 -n 1 -P "${TUVVO_JOBS:-2}" \
  clang-tidy-16 -p "$build" --quiet --extra-arg=-Wno-unknown-warning-option 2>/dev/null
