// The sheet's JSON Schema, judged by a validator that is not ours: it is a valid schema, accepts
// the demo's sheet, and agrees with Ochre's own check on sheets spoilt in many ways.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test } from "node:test";

const Ajv = createRequire(new URL("../../viewer/", import.meta.url))("ajv/dist/2020").default;
const schema = JSON.parse(
  readFileSync(new URL("../../inst/schema/sheet.schema.json", import.meta.url), "utf8"),
);

const R = (code, cwd) => execFileSync("Rscript", ["-e", code], { cwd, encoding: "utf8" });

test("another validator agrees with Ochre on the demo's sheet and on spoilt ones", () => {
  const folder = mkdtempSync(join(tmpdir(), "ochre-schema-"));
  const sheet = JSON.parse(
    R(
      `sheet <- ochre:::load_sheet(ochre::ochre_demo("map.ochre.yml"))
      cat(jsonlite::toJSON(sheet$content, auto_unbox = TRUE))`,
    ),
  );
  const validate = new Ajv({ strict: false }).compile(schema);
  assert.equal(validate(sheet), true);

  // Every value in turn is renamed, dropped, or replaced by something of each other type.
  const cases = [];
  const visit = (node, path) => {
    for (const key of Object.keys(node)) {
      const spoil = (change) => {
        const copy = structuredClone(sheet);
        change(path.reduce((at, k) => at[k], copy));
        cases.push(copy);
      };
      for (const value of ["text", 7, 1.5, true, ["text"], { other: "text" }])
        spoil((at) => {
          at[key] = value;
        });
      if (!Array.isArray(node)) {
        spoil((at) => {
          delete at[key];
        });
        spoil((at) => {
          at[key + "x"] = at[key];
          delete at[key];
        });
      }
      if (node[key] !== null && typeof node[key] === "object") visit(node[key], [...path, key]);
    }
  };
  visit(sheet, []);
  assert.ok(cases.length > 300);
  cases.forEach((c, i) => writeFileSync(join(folder, `${i}.yml`), JSON.stringify(c)));
  const ours = JSON.parse(
    R(
      `f <- paste0(seq_len(${cases.length}) - 1, ".yml"); s <- ochre:::sheet_schema()
    cat(jsonlite::toJSON(vapply(f, function(x) !length(ochre:::schema_faults(ochre:::parse_yaml(readLines(x, warn = FALSE)), s)), NA, USE.NAMES = FALSE)))`,
      folder,
    ),
  );
  cases.forEach((c, i) => assert.equal(ours[i], validate(c), JSON.stringify(c).slice(0, 300)));
  assert.ok(ours.filter((x) => x).length > 20 && ours.filter((x) => !x).length > 200);
});
