#!/usr/bin/env bash
# The verbs on tables of a database, on two ClickHouse servers too. Installs the server (Debian's
# package) and RClickhouse (CRAN, with what it needs newer than Debian has, into a library of its own
# that is kept): some five minutes the first time. With --if-kept it tests only where that is done.
set -euo pipefail
cd "$(dirname "$0")/.."
kept=$(Rscript -e 'cat(tools::R_user_dir("ochre", "cache"))')/cluster
if [ ! -d "$kept/RClickhouse" ] || ! command -v clickhouse-server >/dev/null; then
  if [ "${1:-}" = --if-kept ]; then
    echo "RClickhouse is not installed: make test-cluster installs it and tests with it."
    exit 0
  fi
  if ! command -v clickhouse-server >/dev/null; then
    export DEBIAN_FRONTEND=noninteractive
    apt-get update -qq
    apt-get install -y -qq --no-install-recommends clickhouse-server >/dev/null
  fi
  mkdir -p "$kept"
  R_MAKEVARS_USER=$PWD/tools/Makevars MAKEFLAGS=-j2 R_LIBS=$kept Rscript \
    -e 'r <- getOption("repos"); if (identical(unname(r["CRAN"]), "@CRAN@")) chooseCRANmirror(ind = 1)' \
    -e 'install.packages("RClickhouse", lib = commandArgs(TRUE), quiet = TRUE)' "$kept"
  test -d "$kept/RClickhouse"
fi
OCHRE_CLUSTER=yes R_LIBS=$kept:${R_LIBS:-} Rscript tests/testthat.R prepare-lazy join-cells
