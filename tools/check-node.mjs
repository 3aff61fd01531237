// Ends with 1 when this Node is older than the viewer states, or when a package that it pins
// wants a newer one than stated: Debian's own must do.
import { readFileSync } from "node:fs";

const read = (name) =>
  JSON.parse(readFileSync(new URL(`../viewer/${name}`, import.meta.url), "utf8"));
const least = (range) =>
  (/>=\s*(\d+)(?:\.(\d+))?/.exec(range) ?? [0, 0, 0]).slice(1, 3).map((part) => Number(part ?? 0));
const below = (a, b) => a[0] < b[0] || (a[0] === b[0] && a[1] < b[1]);
// Does one of the ranges of "^18.18.0 || >=20" take a version? "18" is every 18.
const takes = (ranges, version) =>
  ranges.split("||").some((range) => {
    const [, sign, major, minor] = /^\s*(\^|~|>=?|)\s*v?(\d+)(?:\.(\d+))?/.exec(range) ?? [];
    if (major === undefined) return true;
    const from = [Number(major), Number(minor ?? 0)];
    return !below(version, from) && (sign.startsWith(">") || version[0] === from[0]);
  });

const stated = least(read("package.json").engines.node);
const faults = [];
const here = process.versions.node.split(".").map(Number);
if (below(here, stated))
  faults.push(
    `Node ${process.versions.node} is older than ${stated.join(".")}, ` +
      "which the tests of the page need.",
  );
for (const [name, about] of Object.entries(read("package-lock.json").packages)) {
  if (name && !takes(about.engines?.node ?? "", stated))
    faults.push(`${name} wants Node ${about.engines.node}; the viewer states ${stated.join(".")}.`);
}
if (faults.length) {
  console.error(faults.join("\n"));
  process.exit(1);
}
