#!/usr/bin/env bash
# R CMD check on a built package; fails on an error or a warning. FJORDLINE_CHECK_TESTS=no leaves the tests out.
set -eu
cd "$(dirname "$0")/.."
export MAKEFLAGS="-j$(getconf _NPROCESSORS_ONLN 2>/dev/null || echo 2)"
mkdir -p build/check
R CMD build . >build/check/build.log 2>&1 || { cat build/check/build.log; exit 1; }
rm -f build/check/*.tar.gz
mv fjordline_*.tar.gz build/check/
cd build/check
tests=; [ "${FJORDLINE_CHECK_TESTS:-yes}" = no ] && tests=--no-tests
_R_CHECK_FORCE_SUGGESTS_=false R CMD check --no-manual --no-build-vignettes $tests fjordline_*.tar.gz || true
grep '^Status' fjordline.Rcheck/00check.log
! grep -qE '^Status:.*(ERROR|WARNING)' fjordline.Rcheck/00check.log
