#!/usr/bin/env bash
# Builds and installs the package: `tools/build-package.sh STAMP [options of R CMD INSTALL]`. A
# header that is newer than STAMP means that all of the core is compiled anew, because R's make
# knows no headers there.
set -euo pipefail
cd "$(dirname "$0")/.."
stamp=$1
shift
echo "Building Ochre …" >&2
if [ -n "$(find src -name '*.h*' -newer "$stamp" 2>/dev/null)" ]; then
  rm -f src/*.o src/core/*.o
fi
# What a build that was killed left behind.
library=$(printf '%s\n' "$@" | sed -n 's/^--library=//p')
rm -rf "${library:-$(Rscript -e 'cat(.libPaths()[1])')}/00LOCK-ochre"
R_MAKEVARS_USER=$PWD/tools/Makevars MAKEFLAGS=-j2 R CMD INSTALL "$@" .
