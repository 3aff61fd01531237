#!/usr/bin/env bash
# The page in Chromium and in Firefox, both at once: `tools/test-pages.sh MAPS`.
set -euo pipefail
cd "$(dirname "$0")/../tests/page"
export OCHRE_MAPS=$1
log=$(mktemp)
trap 'rm -f "$log"' EXIT
in_firefox="accessible.test.mjs article.test.mjs page.test.mjs periods.test.mjs print.test.mjs
  reading.test.mjs"
OCHRE_BROWSER=firefox node --test --test-reporter=spec $in_firefox > "$log" 2>&1 &
firefox=$!
failed=0
node --test --test-reporter=spec . || failed=1
wait $firefox || failed=1
echo "== in Firefox"
cat "$log"
exit $failed
