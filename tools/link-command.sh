#!/usr/bin/env bash
# Puts the command `ochre` on the PATH (below PREFIX, where that is set): a link to the one inside the
# installed package; with its manual page, and what bash needs to complete it.
set -euo pipefail
target=$(Rscript -e 'cat(system.file("bin", "ochre", package = "ochre"))')
folder=${PREFIX:-/usr/local}/bin
[ -n "${PREFIX:-}" ] || [ -w "$folder" ] || folder="$HOME/.local/bin"
mkdir -p "$folder"
ln -sf "$target" "$folder/ochre"
share=${folder%/bin}/share
mkdir -p "$share/man/man1" "$share/bash-completion/completions"
"$target" manual > "$share/man/man1/ochre.1"
"$target" completion bash > "$share/bash-completion/completions/ochre"
