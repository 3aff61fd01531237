#!/usr/bin/env bash
# Fails when the built viewer under inst/htmlwidgets/ is not what viewer/src/ builds.
set -euo pipefail
cd "$(dirname "$0")/.."
built=inst/htmlwidgets/lib/ochre
before=$(cat $built/ochre-view.js $built/ochre-view.css | sha256sum)
(cd viewer && npm run -s build)
after=$(cat $built/ochre-view.js $built/ochre-view.css | sha256sum)
[ "$before" = "$after" ] || { echo "The built viewer was out of date: run 'make viewer' and commit it."; exit 1; }
echo "The built viewer is current."
