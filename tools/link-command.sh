#!/usr/bin/env bash
# Puts the command `ochre` on the PATH: a link to the one inside the installed package.
set -euo pipefail
target=$(Rscript -e 'cat(system.file("bin", "ochre", package = "ochre"))')
folder=/usr/local/bin
[ -w "$folder" ] || folder="$HOME/.local/bin"
mkdir -p "$folder"
ln -sf "$target" "$folder/ochre"
