#!/usr/bin/env bash
# The one script: ./tuvvo.sh build|demo|test|fuzz|bench|listen-bench|screenshots|demo-sounds|fit-listening   (README.md says more)
set -euo pipefail
cd "$(dirname "$0")"
export DEBIAN_FRONTEND=noninteractive

say() { printf 'tuvvo: %s\n' "$*" >&2; }

as_root() {
  if [ "$(id -u)" -eq 0 ]; then "$@"; else sudo "$@"; fi
}

# Installs what is missing from a list (packages.txt by default); a second call installs nothing.
install_packages() {
  local missing=() package list=${1:-packages.txt}
  while read -r package; do
    case $package in ''|'#'*) continue ;; esac
    dpkg-query -W -f='${db:Status-Status}\n' "$package" 2>/dev/null | grep -qx installed || missing+=("$package")
  done < "$list"
  [ ${#missing[@]} -eq 0 ] && return 0
  say "installing ${missing[*]}"
  as_root apt-get update -qq
  # One after the other where the order matters, so that the right JACK headers are there first.
  for package in libjack-jackd2-dev; do
    printf '%s\n' "${missing[@]}" | grep -qx "$package" && as_root apt-get install -y -qq --no-install-recommends "$package" >/dev/null
  done
  as_root apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

# configure_and_build FOLDER TARGETS... -- CMAKE-OPTIONS...
configure_and_build() {
  local folder=$1; shift
  local targets=()
  while [ $# -gt 0 ] && [ "$1" != -- ]; do targets+=("$1"); shift; done
  [ $# -gt 0 ] && shift
  cmake -S . -B "$folder" -G Ninja "$@" >"$folder.log" 2>&1 || { cat "$folder.log"; return 1; }
  cmake --build "$folder" ${targets[@]+--target "${targets[@]}"} >"$folder.log" 2>&1 || { cat "$folder.log"; return 1; }
  rm -f "$folder.log"
}

build() { install_packages; say "building"; configure_and_build build; }

run_demo() {
  local headless=0
  [ "${1:-}" = --headless ] && headless=1
  build
  if [ $headless -eq 0 ] && { [ -n "${DISPLAY:-}" ] || [ -n "${WAYLAND_DISPLAY:-}" ]; }; then
    exec build/bin/tuvvo --demo
  fi
  if [ $headless -eq 0 ]; then
    say "there is no display. Start it on a desktop, or use ./tuvvo.sh demo --headless to see a picture."
    return 1
  fi
  # A real window on a virtual display; it opens the demo, draws itself and ends.
  say "no display is used: the window opens under Xvfb and its picture is written to build/demo.png"
  XDG_DATA_HOME=$(mktemp -d) xvfb-run -a -s "-screen 0 1920x1200x24" build/bin/tuvvo --demo --stage beat --screenshot build/demo.png
  local printed=build/demo.wav project
  project=$(mktemp -d)/demo.tuvvo
  build/bin/tuvvo-cli flip "data/demo/pier nine break.flac" --project "$project" --out "$printed"
  build/bin/tuvvo-cli check "$project"
  say "build/demo.png and build/demo.wav are there"
}

# The core, its tests and the fuzzers in one build: libFuzzer is clang's.
build_sanitized() {
  install_packages packages-sanitize.txt
  configure_and_build build-address "$@" -- -DTUVVO_SANITIZE=address -DCMAKE_CXX_COMPILER=clang++-16
}

# run_fuzz [MINUTES]: every fuzzer for so long, two at a time; what they find is written to build-address/fuzz/.
run_fuzz() {
  local minutes=${1:-5} failed=0 fuzzer name
  case $minutes in ''|*[!0-9]*) say "fuzz takes a number of minutes"; return 2 ;; esac
  install_packages
  say "building the fuzzers"
  build_sanitized
  fuzz_one() {
    local name=$1 corpus=build-address/fuzz/$1
    mkdir -p "$corpus"
    if build-address/bin/fuzz_"$name" -max_total_time=$((minutes * 60)) -timeout=20 -rss_limit_mb=4096 -verbosity=0 \
        -artifact_prefix="$corpus-" -print_final_stats=1 "$corpus" tests/fuzz/seeds/"$name" >"$corpus.log" 2>&1; then
      say "$name: nothing ($(sed -n 's/stat::number_of_executed_units: *//p' "$corpus.log") runs)"
    else
      say "$name: FOUND something, see $corpus.log"
      return 1
    fi
  }
  for fuzzer in tests/fuzz/seeds/*/; do
    name=$(basename "$fuzzer")
    while [ "$(jobs -rp | wc -l)" -ge "$(nproc)" ]; do wait -n || failed=1; done
    fuzz_one "$name" &
  done
  while [ "$(jobs -rp | wc -l)" -gt 0 ]; do wait -n || failed=1; done
  return $failed
}

run_tests() {
  install_packages
  say "building"
  configure_and_build build
  export QT_QPA_PLATFORM=offscreen
  local failed=0
  ctest --test-dir build -j "$(nproc)" --output-on-failure --timeout 300 || failed=1
  say "building the core and the fuzzers under AddressSanitizer and UBSan"
  build_sanitized
  ctest --test-dir build-address -j "$(nproc)" --output-on-failure --timeout 600 || failed=1
  say "building the engine, the crate and the catcher under ThreadSanitizer"
  configure_and_build build-thread tst_engine_threads tst_crate tst_catch -- -DTUVVO_SANITIZE=thread
  ctest --test-dir build-thread --output-on-failure --timeout 600 -R "_threads|tst_crate" || failed=1
  [ $failed -eq 0 ] && say "all tests passed" || say "some tests failed"
  return $failed
}

run_screenshots() {
  build
  mkdir -p docs/screenshots
  local stage home
  home=$(mktemp -d)
  export QT_QPA_PLATFORM=offscreen XDG_DATA_HOME=$home/data XDG_CONFIG_HOME=$home/config
  picture() { build/bin/tuvvo --demo --screenshot "docs/screenshots/$1.png" --stage "${@:2}"; }
  for stage in crate cut beat song print; do picture $stage $stage; done
  picture keys keys/kick/layers
  for stage in timing catch sifter; do picture keys-$stage keys/$stage; done
  for stage in break bass change; do picture beat-$stage beat/$stage; done
  picture cut-drift "cut/pier nine break/straight"
  picture cut-treat "cut/pier nine break/treat"
  picture cut-daylight "cut/lantern row" --daylight
  picture crate-loop "crate/beat/lantern row"
  picture crate-field "crate/beat/quay at night"
  picture crate-service crate/service
  build/bin/tuvvo-cli crate scan data/service data/demo data/kit
  picture crate-everything "crate/crate/gate four" --play
  rm -r "$home"
  say "docs/screenshots/ is current"
}

listen_bench() {
  install_packages
  install_packages packages-listen-bench.txt
  say "building"
  configure_and_build build -- -DTUVVO_LISTEN_BENCH=ON
  /usr/bin/python3 bench/listening/run.py build data
  say "reading breaks and rebuilding them"
  /usr/bin/python3 bench/listening/breaks.py build
  say "the figures are in build/bench/listening.json and breaks.json"
}

# Fits again what was learnt (the bar's picture, the names of hits) on the open half of the corpus.
fit_listening() {
  install_packages
  install_packages packages-listen-bench.txt
  install_packages packages-fit-listening.txt
  configure_and_build build -- -DTUVVO_LISTEN_BENCH=ON
  local bench=bench/listening work=build/bench
  /usr/bin/python3 $bench/corpus.py $work/corpus data
  build/bin/tempo-evidence $work/corpus/*.wav > $work/evidence.jsonl
  /usr/bin/python3 $bench/fit_bars.py $work/corpus/truth.json $work/evidence.jsonl
  /usr/bin/python3 $bench/drums.py $work/drums data 11000
  build/bin/hit-features $work/drums/*.wav > $work/hits.bin
  /usr/bin/python3 $bench/fit_hits.py $work/drums/truth.json $work/hits.bin core/listen/hit_weights.h tests/listen/hit_names.json
  say "hit_weights.h is written; the bar's weights above go into core/listen/bar_weights.h"
}

case "${1:-}" in
  build) build ;;
  demo) shift; run_demo "$@" ;;
  test) run_tests ;;
  fuzz) shift; run_fuzz "$@" ;;
  bench) shift; build; QT_QPA_PLATFORM=offscreen build/bin/tuvvo-bench "$@" ;;
  listen-bench) listen_bench ;;
  fit-listening) fit_listening ;;
  screenshots) run_screenshots ;;
  demo-sounds)
    install_packages
    dpkg-query -W libfluidsynth-dev >/dev/null 2>&1 || as_root apt-get install -y -qq --no-install-recommends libfluidsynth-dev >/dev/null
    configure_and_build build make-demo -- -DTUVVO_DEMO_TOOL=ON
    build/bin/make-demo data ;;
  *) echo "usage: ./tuvvo.sh build | demo [--headless] | test | fuzz [MINUTES] | bench | listen-bench | screenshots | demo-sounds | fit-listening" >&2; exit 2 ;;
esac
