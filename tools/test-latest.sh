#!/usr/bin/env bash
# Runs the R tests with today's versions of all packages from CRAN, in a library of their own under
# build/latest, beside those of the machine that `make test` uses.
set -euo pipefail
cd "$(dirname "$0")/.."
library=$PWD/build/latest
mkdir -p "$library"
export R_MAKEVARS_USER=$PWD/tools/Makevars MAKEFLAGS=-j2 R_LIBS=$library
Rscript tools/install-latest.R "$library"
tools/build-package.sh build/latest-made --library="$library" > build/latest.log 2>&1 \
  || { tail -30 build/latest.log; exit 1; }
touch build/latest-made
Rscript tests/testthat.R
