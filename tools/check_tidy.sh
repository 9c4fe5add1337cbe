#!/usr/bin/env bash
# Fails on C++ in which clang-tidy (Debian's, 16) finds a fault: check_tidy.sh [--changed | FOLDER...]
# A folder is app/cut, core/play, devices …; without any: all of them. --changed: those that changed
# within a day before the last commit, and since; all of them where there is no history.
# Each is looked at as one, as TUVVO_TOGETHER compiles it; nothing is built for that. What is looked
# for stands in .clang-tidy.
set -euo pipefail
cd "$(dirname "$0")/.."
only_changed=0
if [ "${1:-}" = --changed ]; then
  only_changed=1
  shift
  before=""
  if last=$(git log -1 --format=%cI 2>/dev/null); then
    before=$(git rev-list -1 --before="$(date -d "$last - 1 day" -Is)" HEAD)
  fi
  if [ -n "$before" ]; then
    mapfile -t changed < <(git diff --name-only "$before" -- core words app devices cli .clang-tidy |
      sed -n -e 's#^\.clang-tidy$#.clang-tidy#p' -e 's#/[^/]*\.\(h\|cpp\)$##p' | sort -u)
    [ ${#changed[@]} -gt 0 ] || { echo "nothing has changed"; exit 0; }
    # Other rules: everything is looked at by them.
    [[ " ${changed[*]} " == *" .clang-tidy "* ]] || set -- "${changed[@]}"
  fi
fi
build="${TUVVO_TIDY_BUILD:-build-tidy}"
cmake -S . -B "$build" -G Ninja -DTUVVO_TOGETHER=ON -DCMAKE_EXPORT_COMPILE_COMMANDS=ON >"$build.log" 2>&1 || {
  cat "$build.log"
  exit 1
}
rm -f "$build.log"
mapfile -t units < <(find "$build"/{core,words,devices,cli,app}/CMakeFiles -name 'unity_*.cxx' | sort)
[ ${#units[@]} -gt 0 ] || { echo "There is nothing to look at in $build."; exit 1; }
wanted=()
for unit in "${units[@]}"; do
  # The folder of the sources that the unit puts together.
  source=$(sed -n 's/^#include "\(.*\)"$/\1/p' "$unit" | head -1)
  [ -n "$source" ] || continue
  folder=$(dirname "$(realpath --relative-to=. "$source")")
  if [ $# -eq 0 ] || [[ " $* " == *" $folder "* ]]; then wanted+=("$unit"); fi
done
if [ ${#wanted[@]} -eq 0 ]; then
  [ $only_changed -eq 1 ] && { echo "nothing has changed that is compiled by itself"; exit 0; }
  echo "No such folder: $*"
  exit 2
fi
# A gate that finds nothing wherever it looks is none: here is a fault that it has to see.
printf 'double half(int n) { return n / 2; }\n' >"$build/faulty.cpp"
if clang-tidy-16 --config-file=.clang-tidy --quiet "$build/faulty.cpp" -- -std=c++20 >/dev/null 2>&1; then
  echo "clang-tidy does not see a fault that is there: look at .clang-tidy."
  exit 1
fi
# Only what is found is shown; the count of what was left out is noise.
printf '%s\0' "${wanted[@]}" | xargs -0 -n 1 -P "${TUVVO_JOBS:-2}" \
  clang-tidy-16 -p "$build" --config-file=.clang-tidy --quiet --extra-arg=-Wno-unknown-warning-option 2>/dev/null
