// Which file knows which: no circle, counting types too.
import assert from "node:assert/strict";
import { readdirSync, readFileSync } from "node:fs";
import { test } from "node:test";

test("no file knows itself by way of others", () => {
  const files = readdirSync("src").filter((file) => file.endsWith(".ts"));
  const known = new Map(
    files.map((file) => {
      const found = readFileSync(`src/${file}`, "utf8").matchAll(/from "\.\/([^"]+)"/g);
      return [file, [...found].map(([, name]) => `${name}.ts`)];
    }),
  );
  assert.ok(known.get("main.ts")?.includes("columns.ts"));
  // What is left when files that know none of the rest are taken away again and again.
  const left = new Set(files);
  for (let before = 0; before !== left.size;) {
    before = left.size;
    for (const file of left)
      if (!known.get(file)?.some((other) => left.has(other))) left.delete(file);
  }
  assert.deepEqual([...left], []);
});
