#!/usr/bin/env bash
# Builds the kernels with libFuzzer and the address and undefined-behaviour sanitizers (clang, with its runtime), and
# feeds them whatever it thinks of. usage: dev/fuzz.sh [SECONDS, 60]   What it found before lies in tests/fuzz/found.
set -eu
cd "$(dirname "$0")/.."
include() { Rscript -e "cat(system.file('include', package = '$1', mustWork = TRUE))"; }
out=build/fuzz; mkdir -p "$out/corpus"
headers="-Isrc -isystem $(include dqrng) -isystem $(include sitmo) -isystem $(include Rcpp)"
headers="$headers -isystem $(Rscript -e 'cat(R.home("include"))') -isystem /usr/share/R/include"
flags="-std=gnu++17 -O1 -g -fno-omit-frame-pointer -fsanitize=fuzzer,address,undefined -fno-sanitize-recover=all"
for source in $(ls src/*.cpp tests/fuzz/*.cpp | grep -v -e /bind- -e RcppExports); do
  object=$out/$(basename "$source" .cpp).o
  [ "$object" -nt "$source" ] || echo "clang++ $flags $headers -c $source -o $object"
done | tr '\n' '\0' | xargs -0 -r -P 2 -I{} bash -c '{}'
# shellcheck disable=SC2086
clang++ $flags "$out"/*.o -o "$out/kernels"
found=tests/fuzz/found
[ -d "$found" ] || found=
"$out/kernels" -max_total_time="${1:-60}" -max_len=700 -len_control=0 -timeout=20 -rss_limit_mb=3000 -artifact_prefix="$out/" \
  "$out/corpus" $found
