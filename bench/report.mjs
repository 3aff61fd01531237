// What the benchmarks in a browser have in common: small runs, and the log that keep.R reads.
import { appendFileSync } from "node:fs";

export const small = process.env.OCHRE_BENCH === "small";
export const median = (v) => [...v].sort((a, b) => a - b)[v.length >> 1];

export function report(row, ratio, floor, goal, detail = "") {
  const more = detail && `; ${detail}`;
  console.log(`${row}: ${ratio.toFixed(2)} of ${floor} (goal ${goal})${more}`);
  const log = process.env.OCHRE_BENCH_LOG;
  if (log) appendFileSync(log, `${row}\t${ratio.toFixed(4)}\t${goal}\t${floor}\n`);
}
