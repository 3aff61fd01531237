// From the contract of a plan, inst/schema/plan.schema.json: the types that the viewer uses
// (src/plan.ts) and what it checks when it loads a plan (src/plan-fields.ts).
import { compile } from "json-schema-to-typescript";
import { readFileSync, writeFileSync } from "node:fs";
import prettier from "prettier";

const schema = JSON.parse(readFileSync("../inst/schema/plan.schema.json", "utf8"));

// What only a figure needs is not in a page.
function forPage(part) {
  if (Array.isArray(part)) return part.map(forPage);
  if (part === null || typeof part !== "object") return part;
  const out = Object.fromEntries(Object.entries(part).map(([k, v]) => [k, forPage(v)]));
  if (out.properties) {
    const keep = Object.keys(part.properties).filter((k) => part.properties[k]["x-page"] !== false);
    out.properties = Object.fromEntries(keep.map((k) => [k, out.properties[k]]));
    out.required = (out.required ?? []).filter((k) => keep.includes(k));
  }
  return out;
}

const types = ["array", "boolean", "null", "number", "object", "string"];
const parts = [];
const places = new Map();

// A field as the check sees it: the types that it may have, and the parts that it may hold. Titles
// of parts are names of types; the check knows them by a number.
function field(schema, page) {
  const choices = [schema, ...(schema.allOf ?? []), ...(schema.anyOf ?? [])];
  const allowed = new Set(choices.flatMap((c) => c.type ?? []));
  const held = [...choices, ...choices.flatMap((c) => (c.items ? inside(c.items) : []))]
    .filter((c) => c.$ref)
    .map((c) => part(c.$ref.replace("#/$defs/", ""), page));
  if (choices.some((c) => c.$ref)) allowed.add("object");
  for (const value of schema.enum ?? []) allowed.add(value === null ? "null" : typeof value);
  if (schema.const !== undefined) allowed.add(typeof schema.const);
  const names = [...allowed].map((t) => (t === "integer" ? "number" : t));
  return { types: [...new Set(names)].filter((t) => types.includes(t)).sort(), parts: held };
}

const inside = (items) => [items, ...(items.anyOf ?? []), ...(items.items ? [items.items] : [])];

function part(name, page) {
  if (places.has(name)) return places.get(name);
  const at = parts.length;
  places.set(name, at);
  parts.push(null);
  const { properties = {}, "x-form": form } = page.$defs[name];
  const fields = form ? {} : properties;
  parts[at] = {
    kind: properties.kind?.const ?? null,
    fields: Object.fromEntries(Object.entries(fields).map(([k, v]) => [k, field(v, page)])),
  };
  return at;
}

const head = "// Made from inst/schema/plan.schema.json by viewer/generate.mjs; do not edit.\n\n";
const page = forPage(schema);
const options = await prettier.resolveConfig("src/main.ts");
const write = async (file, text) =>
  writeFileSync(file, await prettier.format(head + text, { ...options, parser: "typescript" }));

await write(
  "src/plan.ts",
  await compile(page, "Plan", { bannerComment: "", additionalProperties: false, format: false }),
);
// In a line: names, then letters of the types, then the parts that may stand there.
const LETTERS = { array: "a", boolean: "b", null: "-", number: "n", object: "o", string: "s" };
const line = (fields) =>
  Object.entries(fields)
    .map(([name, { types, parts: p }]) =>
      [name, types.map((one) => LETTERS[one]).join(""), ...p].join(":"),
    )
    .join(" ");
const whole = Object.fromEntries(
  Object.entries(page.properties).map(([k, v]) => [k, field(v, page)]),
);
const lines = parts.map((p) => [p.kind ?? "", line(p.fields)]);
await write(
  "src/plan-fields.ts",
  `export const VERSION = ${schema.properties.version.const};

   // The fields of a plan and of its parts: name, letters of the types (a array, b boolean,
   // n number, o object, s string, - null), and which parts stand there. A part has its kind before
   // its fields.
   export const whole = ${JSON.stringify(line(whole))};
   export const parts: [string, string][] = ${JSON.stringify(lines)};`,
);
