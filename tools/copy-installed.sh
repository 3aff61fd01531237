#!/usr/bin/env bash
# Copies the package that `make install` has just put into R's library, in place of building it
# again: `tools/copy-installed.sh STAMP LIBRARY`. Fails when that is not what the sources are now.
set -euo pipefail
cd "$(dirname "$0")/.."
[ -e "$1" ] || exit 1
newer=$(find R src inst DESCRIPTION NAMESPACE -newer "$1" -type f -not -name '*.o' \
  -not -name '*.so' -print -quit)
[ -z "$newer" ] || exit 1
installed=$(env -u R_LIBS Rscript -e 'cat(system.file(package = "ochre"))')
# A later stamp than the package's: nobody else has installed another one since.
[ -n "$installed" ] && [ "$installed/DESCRIPTION" -ot "$1" ] || exit 1
rm -rf "$2/ochre"
cp -r "$installed" "$2/"
