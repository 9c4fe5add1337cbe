#!/usr/bin/env bash
# Makes the C++ of core/mix/faust/*.dsp with Debian's faust: make_faust.sh [FOLDER]
# The generated files are kept in the tree, so that nobody needs Faust to build; a test compares them.
set -euo pipefail
cd "$(dirname "$0")/../core/mix/faust"
to=${1:-.}
for dsp in *.dsp; do
  name=${dsp%.dsp}
  faust -lang cpp -double -inpl -nvi -scn "" -ns tuvvo::faust -cn "${name^}" "$dsp" -o "$to/$name.h"
done
