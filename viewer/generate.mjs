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

const parts = [];
const places = new Map();
const COLOUR = "^#[0-9A-Fa-f]{6}$";
const LETTERS = { array: "a", boolean: "b", integer: "i", null: "-", number: "n", object: "o" };

// A field as the check sees it, in a word: letters of its types and, after "<", of those of its
// entries; then what else holds, each after a colon.
function rule(schema, page) {
  const choices = [schema, ...(schema.allOf ?? []), ...(schema.anyOf ?? [])];
  const named = choices.flatMap((c) => c.type ?? []);
  const values = schema.const === undefined ? (schema.enum ?? []) : [schema.const];
  if (choices.some((c) => c.$ref)) named.push("object");
  for (const value of values) named.push(value === null ? "null" : typeof value);
  const text = schema.pattern ? "c" : "s";
  const letters = new Set(named.map((type) => LETTERS[type] ?? text));
  const more = choices.filter((c) => c.$ref).map((c) => part(c.$ref.replace("#/$defs/", ""), page));
  const { minimum: low, maximum: high = "", minItems, "x-each": each, "x-of": of } = schema;
  if (low !== undefined || high !== "") more.push(`[${low ?? ""},${high}`);
  if (minItems !== undefined) more.push(`#${minItems}`);
  // The check knows no other lengths and patterns.
  if (minItems !== schema.maxItems || (schema.pattern ?? COLOUR) !== COLOUR)
    throw new Error(`Not for the check of a page: ${JSON.stringify(schema)}`);
  if (each) more.push(`=${each}`);
  if (of) more.push(`^${of}`);
  if (values.length) more.push(`|${values.filter((value) => value !== null).join()}`);
  const own = [[...letters].sort().join(""), ...more].join(":");
  const { items = schema.additionalProperties } = choices.find((c) => c.items) ?? {};
  return items ? `${own}<${rule(items, page)}` : own;
}

function part(name, page) {
  if (places.has(name)) return places.get(name);
  const at = parts.length;
  places.set(name, at);
  parts.push(null);
  const { properties = {}, "x-form": form } = page.$defs[name];
  parts[at] = [properties.kind?.const ?? "", rules(form ? {} : properties, page)];
  return at;
}

const rules = (properties, page) =>
  Object.entries(properties)
    .map(([name, schema]) => `${name}:${rule(schema, page)}`)
    .join(" ");

const head = "// Made from inst/schema/plan.schema.json by viewer/generate.mjs; do not edit.\n\n";
const page = forPage(schema);
const options = await prettier.resolveConfig("src/main.ts");
const write = async (file, text) =>
  writeFileSync(file, await prettier.format(head + text, { ...options, parser: "typescript" }));

await write(
  "src/plan.ts",
  await compile(page, "Plan", { bannerComment: "", additionalProperties: false, format: false }),
);
const whole = rules(page.properties, page);
await write(
  "src/plan-fields.ts",
  `export const VERSION = ${schema.properties.version.const};

   // The fields of a plan and of its parts. Of each its name, then letters of its types (a array,
   // b boolean, c colour, i whole number, n number, o object, s string, - null), then which parts
   // stand there, "[" the least and the greatest number, "#" how many entries, "=" the word of
   // those that have as many, "^" the word whose count is the greatest number, "|" the texts that
   // may stand; after "<" the same of its entries. A part has its kind before its fields.
   export const whole = ${JSON.stringify(whole)};
   export const parts: [string, string][] = ${JSON.stringify(parts)};`,
);
