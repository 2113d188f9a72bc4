#!/usr/bin/env bash
# Builds the kernels and their C++ tests with the address and undefined-behaviour sanitizers, and runs them. With
# `plain` as argument: without sanitizers, optimised as R does it.
set -eu
cd "$(dirname "$0")/.."
include() { Rscript -e "cat(system.file('include', package = '$1', mustWork = TRUE))"; }
if [ "${1:-}" = plain ]; then flags="-O2"; out=build/cpp-plain; else
  flags="-O1 -g -fno-omit-frame-pointer -fsanitize=address,undefined -fno-sanitize-recover=all"; out=build/cpp-sanitized
fi
mkdir -p "$out"
headers="-Isrc -isystem $(include dqrng) -isystem $(include sitmo) -isystem $(include Rcpp) -isystem $(include testthat)"
headers="$headers -isystem $(Rscript -e 'cat(R.home("include"))') -isystem /usr/share/R/include"
sources=$(ls src/*.cpp tests/cpp/*.cpp | grep -v -e /bind- -e RcppExports)
for source in $sources; do
  # shellcheck disable=SC2086
  echo "${CXX:-g++} -std=gnu++17 -Wall -Wextra -fopenmp -DCATCH_CONFIG_NO_POSIX_SIGNALS $flags $headers -c $source -o $out/$(basename "$source" .cpp).o"
done | tr '\n' '\0' | xargs -0 -P 2 -I{} bash -c '{}'
# shellcheck disable=SC2086
${CXX:-g++} -fopenmp $flags "$out"/*.o -o "$out/tests"
"$out/tests"
