#!/usr/bin/env bash
# As somebody has it who has just cloned the project: the README's first command, in a new folder, with
# an R library and a place for the command that are empty; and every other `make` that README and
# CONTRIBUTING name is known there.
set -euo pipefail
cd "$(dirname "$0")/.."
fresh=$PWD/build/stranger
rm -rf "$fresh"
mkdir -p "$fresh/library" "$fresh/local"
git clone -q . "$fresh/clone"
cd "$fresh/clone"
export R_LIBS=$fresh/library PREFIX=$fresh/local
make demo > "$fresh/demo.log" 2>&1 || { tail -30 "$fresh/demo.log"; exit 1; }
for file in maps/map.html maps/map.png "$fresh/library/ochre/DESCRIPTION"; do
  test -s "$file" || { echo "make demo made no $file"; exit 1; }
done
"$PREFIX/bin/ochre" --version
for target in $(grep -ohE '\bmake [a-z-]+' README.md CONTRIBUTING.md | cut -d' ' -f2 | sort -u); do
  make -n "$target" > "$fresh/$target.log" 2>&1 || { tail -5 "$fresh/$target.log"; exit 1; }
done
rm -rf "$fresh"
echo "A fresh clone makes its demo."
