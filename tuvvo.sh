#!/usr/bin/env bash
# The one script: ./tuvvo.sh build|demo|package|test|fuzz|bench|listen-bench|screenshots|demo-sounds|fit-listening   (README.md says more)
set -euo pipefail
cd "$(dirname "$0")"
export DEBIAN_FRONTEND=noninteractive

say() { printf 'tuvvo: %s\n' "$*" >&2; }

as_root() {
  if [ "$(id -u)" -eq 0 ]; then "$@"; else sudo "$@"; fi
}

# Installs what is missing from a list (packages.txt by default); a second call installs nothing.
install_packages() {
  local list=${1:-packages.txt} wanted=() missing=() package
  mapfile -t wanted < <(grep -v -e '^#' -e '^$' "$list")
  mapfile -t missing < <(comm -23 <(printf '%s\n' "${wanted[@]}" | sort) \
    <(dpkg-query -W -f='${db:Status-Status} ${Package}\n' "${wanted[@]}" 2>/dev/null | sed -n 's/^installed //p' | sort))
  [ ${#missing[@]} -eq 0 ] && return 0
  say "installing ${missing[*]}"
  as_root apt-get update -qq
  # One after the other where the order matters, so that the right JACK headers are there first.
  for package in libjack-jackd2-dev; do
    printf '%s\n' "${missing[@]}" | grep -qx "$package" && as_root apt-get install -y -qq --no-install-recommends "$package" >/dev/null
  done
  as_root apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}

# Keeps a build's lines in a file and shows how far it is: in one line on a terminal, else every tenth of the way.
show_progress() {
  local line shown=0 done all
  : > "$1"
  while IFS= read -r line; do
    printf '%s\n' "$line" >> "$1"
    [[ $line =~ ^\[([0-9]+)/([0-9]+)\] ]] || continue
    done=${BASH_REMATCH[1]} all=${BASH_REMATCH[2]}
    if [ -t 2 ]; then
      printf '\rtuvvo: %d of %d steps ' "$done" "$all" >&2
    elif [ "$all" -gt 10 ] && [ $((10 * done / all)) -gt $shown ]; then
      shown=$((10 * done / all))
      say "$done of $all steps"
    fi
  done
  [ -t 2 ] && printf '\r' >&2
  return 0
}

# configure_and_build FOLDER TARGETS... -- CMAKE-OPTIONS...
configure_and_build() {
  local folder=$1; shift
  local targets=()
  while [ $# -gt 0 ] && [ "$1" != -- ]; do targets+=("$1"); shift; done
  [ $# -gt 0 ] && shift
  local options="-DTUVVO_TOGETHER=ON $*"
  # Ninja configures again by itself when a CMakeLists.txt has changed.
  if [ ! -f "$folder/build.ninja" ] || [ "$(cat "$folder/options.txt" 2>/dev/null)" != "$options" ]; then
    # shellcheck disable=SC2086 # the options are words
    cmake -S . -B "$folder" -G Ninja $options >"$folder.log" 2>&1 || { cat "$folder.log"; return 1; }
    printf '%s' "$options" > "$folder/options.txt"
  fi
  cmake --build "$folder" ${targets[@]+--target "${targets[@]}"} 2>&1 | show_progress "$folder.log" || { cat "$folder.log"; return 1; }
  rm -f "$folder.log"
}

build() { install_packages; say "building"; configure_and_build build "$@"; }

run_demo() {
  local headless=0
  [ "${1:-}" = --headless ] && headless=1
  build tuvvo tuvvo-cli
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

# timed NAME COMMAND...: keeps how long it took for the list at the end; a failure is noted and the rest goes on.
timed() {
  local name=$1 from=$SECONDS; shift
  "$@" || { failed=1; say "$name: failed"; }
  times+=("$(printf '%5d s  %s' $((SECONDS - from)) "$name")")
}

run_tests() {
  local failed=0 times=() jobs=$(($(nproc) + 1)) # many of them wait more than they work
  export QT_QPA_PLATFORM=offscreen
  timed "packages" install_packages
  timed "packages of the tests" install_packages packages-test.txt
  timed "packages of the sanitizers" install_packages packages-sanitize.txt
  say "building"
  timed "build" configure_and_build build
  timed "tests" ctest --test-dir build -j $jobs --output-on-failure --timeout 900
  say "building the core and the fuzzers under AddressSanitizer and UBSan"
  timed "build under AddressSanitizer" build_sanitized
  timed "tests under AddressSanitizer, fuzzers" ctest --test-dir build-address -j $jobs --output-on-failure --timeout 900
  say "building the engine, the crate and the catcher under ThreadSanitizer"
  timed "build under ThreadSanitizer" configure_and_build build-thread tst_engine_threads tst_crate tst_catcher -- -DTUVVO_SANITIZE=thread
  timed "tests under ThreadSanitizer" ctest --test-dir build-thread -j $jobs --output-on-failure --timeout 900 -R "_threads|tst_crate$"
  printf '%s\n' "${times[@]}" "$(printf '%5d s  in all' "$SECONDS")" >&2
  [ $failed -eq 0 ] && say "all tests passed" || say "some tests failed"
  return $failed
}

# Makes the Debian package, in build-package/.
make_package() {
  install_packages
  install_packages packages-package.txt
  say "building the package"
  configure_and_build build-package tuvvo tuvvo-cli -- -DTUVVO_PACKAGED=ON -DCMAKE_INSTALL_PREFIX=/usr
  (cd build-package && cpack -G DEB >cpack.log 2>&1) || { cat build-package/cpack.log; return 1; }
  say "made build-package/$(cd build-package && echo tuvvo_*.deb)"
}

# Installs it into a bare Debian, starts both programs there, and takes it away again.
try_package() {
  make_package
  local bare deb
  deb=$(echo "$PWD"/build-package/tuvvo_*.deb)
  bare=$(mktemp -d)
  say "trying it in a bare Debian"
  as_root mmdebstrap --quiet --variant=apt bookworm "$bare" >/dev/null
  as_root cp "$deb" "$bare/tuvvo.deb"
  as_root chroot "$bare" sh -euc '
    export DEBIAN_FRONTEND=noninteractive
    apt-get update -qq
    apt-get install -y -qq --no-install-recommends /tuvvo.deb >/install.log 2>&1 || { cat /install.log; exit 1; }
    tuvvo-cli --version
    tuvvo-cli flip "/usr/share/tuvvo/demo/pier nine break.flac" --project /tmp/x.tuvvo --out /tmp/x.wav
    tuvvo-cli check /tmp/x.tuvvo
    HOME=/tmp/home QT_QPA_PLATFORM=offscreen tuvvo --demo --stage beat --screenshot /tmp/x.png 2>/dev/null
    test -s /tmp/x.png
    rm -rf /tmp/* /install.log
    apt-get purge -y -qq tuvvo >/dev/null 2>&1
    if find / -xdev \( -iname "*tuvvo*" ! -path "/tuvvo.deb" ! -path "/proc/*" \) | grep .; then echo "something is left behind"; exit 1; fi
  ' || { say "it does not install, start or go away as it should; see $bare"; return 1; }
  as_root rm -rf "$bare"
  say "it installs, starts and goes away again"
}

run_screenshots() {
  build tuvvo tuvvo-cli
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
  install_packages packages-test.txt
  install_packages packages-listen-bench.txt
  say "building"
  configure_and_build build -- -DTUVVO_LISTEN_BENCH=ON
  /usr/bin/python3 bench/listening/run.py build data
  say "reading breaks and rebuilding them"
  /usr/bin/python3 bench/listening/breaks.py build
  say "the figures are in build/bench/listening.json and breaks.json"
}

# Fits again what was learnt: with every origin of the corpus left out in turn, for listen-bench, and
# with none, which is what ships.
fit_listening() {
  install_packages
  install_packages packages-listen-bench.txt
  install_packages packages-fit-listening.txt
  local bench=bench/listening work=build/bench python=/usr/bin/python3 origin place check
  configure_and_build build -- -DTUVVO_LISTEN_BENCH=ON
  $python $bench/corpus.py $work/corpus data
  $python $bench/corpus.py $work/crossed data crossed
  for place in $work/corpus $work/crossed; do
    build/bin/learning-inputs beats $place/*.wav > $place/beat-inputs.bin
    build/bin/learning-inputs tones $place/*.wav > $place/tone-inputs.bin
  done
  $python $bench/drums.py $work/drums data 9000
  build/bin/learning-inputs hits $work/drums/*.wav > $work/hits.bin
  for origin in games travels styles keyboards none; do
    say "fitting without $origin"
    place=$bench/without/$origin/listen check=$work
    if [ $origin = none ]; then place=core/listen check=tests/listen; fi
    mkdir -p $place
    $python $bench/fit_beats.py $origin $place/beat_weights.h $check/beat_sense.json $work/corpus $work/crossed
    $python $bench/fit_tones.py $origin $place/tone_weights.h $check/tone_sense.json $work/corpus $work/crossed
    $python $bench/fit_hits.py $origin $work/drums/truth.json $work/hits.bin $place/hit_weights.h $check/hit_names.json
    cmake --build build --target hear-$origin
    build/bin/hear-$origin --evidence $work/corpus/*.wav > $work/corpus/evidence.jsonl
    $python $bench/fit_tempo.py $origin $place/tempo_weights.h $work/corpus
    cmake --build build --target hear-$origin
    build/bin/hear-$origin --evidence $work/corpus/*.wav > $work/corpus/evidence.jsonl
    $python $bench/fit_bars.py $origin $place/bar_weights.h $work/corpus
  done
}

case "${1:-}" in
  build) build tuvvo tuvvo-cli ;;
  demo) shift; run_demo "$@" ;;
  test) run_tests ;;
  fuzz) shift; run_fuzz "$@" ;;
  bench) shift; install_packages packages-test.txt; build tuvvo-bench; QT_QPA_PLATFORM=offscreen build/bin/tuvvo-bench "$@" ;;
  listen-bench) listen_bench ;;
  fit-listening) fit_listening ;;
  package) if [ "${2:-}" = --try ]; then try_package; else make_package; fi ;;
  screenshots) run_screenshots ;;
  demo-sounds)
    install_packages
    dpkg-query -W libfluidsynth-dev >/dev/null 2>&1 || as_root apt-get install -y -qq --no-install-recommends libfluidsynth-dev >/dev/null
    configure_and_build build make-demo -- -DTUVVO_DEMO_TOOL=ON
    build/bin/make-demo data ;;
  *) echo "usage: ./tuvvo.sh build | demo [--headless] | package [--try] | test | fuzz [MINUTES] | bench | listen-bench | screenshots | demo-sounds | fit-listening" >&2; exit 2 ;;
esac
