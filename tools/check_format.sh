#!/usr/bin/env bash
# Fails on C++ that clang-format (Debian's, 14) would write otherwise: check_format.sh [FILE...]
# Without files: all of the tree, but what is generated.
set -euo pipefail
cd "$(dirname "$0")/.."
if [ $# -eq 0 ]; then
  mapfile -t files < <(find app bench cli core devices support tests tools words \( -name '*.h' -o -name '*.cpp' \) \
    ! -path 'core/mix/faust/*' ! -name hit_weights.h | sort)
  set -- "${files[@]}"
fi
printf '%s\0' "$@" | xargs -0 -n 40 -P 2 clang-format --dry-run -Werror
