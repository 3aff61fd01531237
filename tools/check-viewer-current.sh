#!/usr/bin/env bash
# Fails when the built viewer under inst/htmlwidgets/ is not what viewer/src/ builds.
set -euo pipefail
cd "$(dirname "$0")/.."
sum() { cat inst/htmlwidgets/lib/ochre/ochre-{view.js,view.css,held.js,sections.js} | sha256sum; }
before=$(sum)
(cd viewer && npm run -s build)
if [ "$before" != "$(sum)" ]; then
  echo "The built viewer was out of date: run 'make viewer' and commit it."
  exit 1
fi
echo "The built viewer is current."
