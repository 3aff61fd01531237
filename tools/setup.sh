#!/usr/bin/env bash
# Installs what is missing: `tools/setup.sh demo` for building and running Ochre, `tools/setup.sh
# test` for its tests too. On Debian and systems like it, as root, it takes Debian's packages where
# they exist and CRAN for the rest; elsewhere CRAN for all of R's, and it says what else is needed.
set -euo pipefail
cd "$(dirname "$0")/.."
what=${1:-demo}

r_demo="Rcpp rlang cli tibble data.table stringi stringdist farver yaml jsonlite optparse filelock
  ggplot2 ragg systemfonts svglite htmlwidgets htmltools digest wk xml2 httpuv"
r_test="codetools lintr testthat roxygen2 processx png jpeg knitr rmarkdown DBI RSQLite readxl
  logger zip webfakes httr2 dplyr dbplyr lpSolve shiny bslib DT"
# Ochre takes addresses apart with a newer curl than Debian 12 has.
cran_demo="RcppSimdJson curl=6.0.0"
# PROJ needs a newer wk than Debian 12 has; install.packages() brings it.
# readODS needs a newer tzdb, which install.packages() does not notice.
cran_test="$cran_demo PROJ mirai nanoparquet RPostgres writexl tzdb=0.5.0 readODS"
apt_demo="g++ make fonts-dejavu-core fonts-open-sans libcurl4-openssl-dev"
apt_test="chromium firefox-esr poppler-utils clang-format clang-tidy doctest-dev pandoc clang libclang-rt-14-dev
  libproj-dev proj-bin proj-data libpq-dev postgresql-15 postgresql-15-postgis-3
  libsqlite3-mod-spatialite zip g++-mingw-w64-x86-64-posix libc++-dev libc++abi-dev texlive-xetex texlive-fonts-recommended lmodern curl locales"

r_wanted=$r_demo
cran_only=$cran_demo
apt_wanted=$apt_demo
if [ "$what" = test ]; then
  r_wanted="$r_demo $r_test"
  cran_only=$cran_test
  apt_wanted="$apt_demo $apt_test"
  command -v node >/dev/null && command -v npm >/dev/null || apt_wanted="$apt_wanted nodejs npm"
fi

installed() { dpkg-query -W -f='${db:Status-Abbrev}' "$1" 2>/dev/null | grep -q '^ii'; }
# Names, or NAME=VERSION for at least that version.
r_missing() {
  Rscript -e 'for (p in strsplit(commandArgs(TRUE), "=")) if (!nzchar(system.file(package = p[1])) || (length(p) > 1 && packageVersion(p[1]) < p[2])) cat(p[1], "")' "$@"
}

if command -v apt-get >/dev/null && [ "$(id -u)" = 0 ]; then
  missing=""
  for p in $apt_wanted; do installed "$p" || missing="$missing $p"; done
  for p in $(r_missing $r_wanted); do missing="$missing r-cran-$(echo "$p" | tr '[:upper:]' '[:lower:]')"; done
  if [ -n "$missing" ]; then
    echo "Installing:$missing"
    export DEBIAN_FRONTEND=noninteractive
    apt-get update -qq
    apt-get install -y -qq --no-install-recommends $missing >/dev/null
  fi
fi

missing=$(r_missing $r_wanted $cran_only)
if [ -n "$missing" ]; then
  echo "Installing from CRAN: $missing"
  R_MAKEVARS_USER=$PWD/tools/Makevars MAKEFLAGS=-j2 Rscript -e 'r <- getOption("repos"); if (identical(unname(r["CRAN"]), "@CRAN@")) chooseCRANmirror(ind = 1)' \
    -e 'p <- commandArgs(TRUE); install.packages(p, quiet = TRUE); if (!all(p %in% rownames(installed.packages()))) quit(status = 1)' $missing
fi

if [ "$what" = test ]; then
  for tool in node npm pandoc; do
    command -v $tool >/dev/null || { echo "Please install $tool, which the tests need."; exit 1; }
  done
  node tools/check-node.mjs
fi
