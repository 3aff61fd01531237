#!/usr/bin/env bash
# Runs each fuzz target for so many seconds, two at a time, from its seeds and the inputs that once
# failed; stops at the first that fails and says where its input lies.
set -euo pipefail
cd "$(dirname "$0")/.."
seconds=$1; shift
# The short run is the same each time, so that a change is what makes it fail; the long one is not.
[ "$seconds" -lt 60 ] && seed=1 || seed=0
run() {
  local name=$1 work=build/fuzz/work/$1
  mkdir -p "$work/corpus"
  fuzz "$name" "$work" > "$work/log" 2>&1 \
    || { tail -40 "$work/log"; echo "$name fails: its input is in $work; copy it to tests/fuzz/found/$name when it is mended."; return 1; }
  echo "$name: $(sed -n 's/^stat::number_of_executed_units: //p' "$work/log") inputs in $seconds seconds"
}
fuzz() {
  local name=$1 work=$2
  case $name in
    fuzz-addresses | fuzz-templates | fuzz-sheets)
      Rscript tests/fuzz/fuzz-words.R "${name#fuzz-}" "$seconds" "$seed" "$work"
      return ;;
  esac
  build/fuzz/"$name" -seed="$seed" -max_total_time="$seconds" -timeout=10 -rss_limit_mb=2048 -max_len=4096 -artifact_prefix="$work/" -verbosity=0 -print_final_stats=1 \
    "$work/corpus" tests/fuzz/seeds/"$name" tests/fuzz/found/"$name"
}
status=0
while [ $# -gt 0 ]; do
  pids=()
  for name in "${@:1:2}"; do [ -f "tests/fuzz/$name.cpp" ] && mkdir -p tests/fuzz/seeds/"$name" tests/fuzz/found/"$name"; run "$name" & pids+=($!); done
  for p in "${pids[@]}"; do wait "$p" || status=1; done
  shift $(( $# > 1 ? 2 : 1 ))
done
exit $status
