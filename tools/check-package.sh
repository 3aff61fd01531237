#!/usr/bin/env bash
# R CMD check without the tests (they run by themselves before), without the PDF manual and the
# vignettes (R CMD build has just made them), of what `make library` installed; fails on an error or
# a warning.
set -euo pipefail
cd "$(dirname "$0")/.."
folder=$PWD/build/check
rm -rf "$folder"
mkdir -p "$folder"
export _R_CHECK_FORCE_SUGGESTS_=false MAKEFLAGS=-j2 R_MAKEVARS_USER=$PWD/tools/Makevars
(cd "$folder" && R CMD build "$OLDPWD" > build.log 2>&1) || { tail -30 "$folder/build.log"; exit 1; }
(cd "$folder" && R CMD check --no-manual --no-tests --no-vignettes --install=skip \
  --library="$OLDPWD/build/library" ochre_*.tar.gz > check.log 2>&1) || true
grep -E '(WARNING|ERROR|NOTE)$|^Status' "$folder/check.log" || true
if ! grep -q '^Status' "$folder/check.log" || grep -E '^Status:.*(ERROR|WARNING)' "$folder/check.log" >/dev/null; then
  tail -60 "$folder/check.log"
  exit 1
fi
