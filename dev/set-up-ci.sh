#!/usr/bin/env bash
# What the optional tests need beside the packages: a browser and a PostgreSQL server from Debian's packages, and the R
# package that speaks to the server; and a cache of compiled files, since R CMD check compiles the package again.
# Elsewhere than on Debian with root nothing is done, and those tests are skipped.
set -eu
cd "$(dirname "$0")/.."
command -v apt-get >/dev/null && [ "$(id -u)" = 0 ] || exit 0
wanted=
command -v chromium >/dev/null || wanted="$wanted chromium fonts-dejavu-core"
ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || wanted="$wanted postgresql"
command -v ccache >/dev/null || wanted="$wanted ccache"
has_rpostgres() { Rscript -e 'quit(status = !requireNamespace("RPostgres", quietly = TRUE))' >/dev/null 2>&1; }
has_rpostgres || wanted="$wanted libpq-dev r-cran-lubridate r-cran-plogr r-cran-cpp11"
if [ -n "$wanted" ]; then
  echo "set-up: a browser, a database and a compiler cache for the tests ($(echo $wanted))" >&2
  export DEBIAN_FRONTEND=noninteractive
  apt-get update -qq >/dev/null 2>&1 || true
  apt-get install -y -qq --no-install-recommends $wanted >/dev/null || echo "set-up: apt could not install all of them" >&2
fi
has_rpostgres || Rscript dev/install-from-cran.R RPostgres >&2 || true
