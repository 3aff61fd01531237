// The walker of rules, which plan-fields.ts has in short: what each field of a part may hold. The
// first thing that is amiss ends in words.
import { textsOf, type Texts } from "./late";

type Part = Record<string, unknown>;
// The kind of a part, and a line of rules for its fields.
type Parts = readonly [kind: string, line: string][];

// `line` has the rules of the fields, `parts` those of the parts that may stand in them.
export function checkFields(value: Part, line: string, place: string, parts: Parts = []): void {
  checkPart(value, line, place, { parts, plan: new Map(), layer: new Map() });
}

type Counts = Map<string, number>;
interface Scope {
  parts: Parts;
  plan: Counts;
  layer: Counts;
  // Of the part that holds this one, and of this one.
  above?: Counts | undefined;
  part?: Counts;
}

// How many entries the arrays of a word have: in the whole map, in a layer, or in one part.
function countsOf(word: string, scope: Scope): Counts {
  if (word === "panel") return scope.plan;
  if (word === "feature" || word === "row") return scope.layer;
  return (scope.part ??= new Map());
}

interface Rule {
  types: string;
  parts: number[];
  least: number;
  most: number;
  options: Map<string, string>;
  items: Rule | null;
}
type Rules = Map<string, Rule>;

// A line of plan-fields.ts.
function readRules(line: string): Rules {
  const words = line.split(" ").filter((word) => word !== "");
  return new Map(
    words.map((word) => {
      const at = word.indexOf(":");
      return [word.slice(0, at), readRule(word.slice(at + 1).split("<"))];
    }),
  );
}

function readRule([own = "", ...inner]: string[]): Rule {
  const [types = "", ...more] = own.split(":");
  const options = new Map(more.map((word) => [word.charAt(0), word.slice(1)]));
  const [least, most] = (options.get("[") ?? ",").split(",");
  return {
    types,
    parts: more.filter((word) => word >= "0" && word <= ":").map(Number),
    least: least ? Number(least) : -Infinity,
    most: most ? Number(most) : Infinity,
    options,
    items: inner.length ? readRule(inner) : null,
  };
}

function fail(what: string): never {
  throw new Error(`${what.charAt(0).toUpperCase()}${what.slice(1)} Publish the map again.`);
}

function checkPart(value: Part, line: string, place: string, scope: Scope): void {
  const rules = readRules(line);
  for (const [name, rule] of rules) {
    if (!(name in value)) fail(`“${name}” is missing in ${place}.`);
    const texts = textsOf(value, name);
    if (texts) checkTexts(texts, rule, `“${name}” of ${place}`, scope);
    else checkValue(value[name], rule, `“${name}” of ${place}`, scope);
  }
  const odd = Object.keys(value).find((name) => !rules.has(name));
  if (odd !== undefined) fail(`“${odd}” in ${place} is unknown.`);
  for (const [name, rule] of rules)
    if (!textsOf(value, name)) checkMost(value[name], rule, `“${name}” of ${place}`, scope);
}

function checkValue(value: unknown, rule: Rule, place: string, scope: Scope): void {
  if (!rule.types.includes(typeOf(value)) && !isFiner(value, rule)) misfit(place);
  if (Array.isArray(value)) checkList(value, rule, place, scope);
  else if (value !== null && typeof value === "object") {
    if (rule.items) checkList(Object.values(value), rule, place, scope);
    checkObject(value as Part, rule, place, scope);
  }
}

function misfit(place: string): never {
  fail(`${place} has an unexpected value.`);
}

// Numbers within their bounds, whole numbers, colours, and texts that may stand.
function isFiner(value: unknown, { types, options, least, most }: Rule): boolean {
  if (typeof value === "number") {
    if (value < least || value > most) return false;
    return types.includes("n") || (types.includes("i") && Number.isInteger(value));
  }
  if (typeof value !== "string") return false;
  const allowed = options.get("|");
  if (allowed !== undefined) return allowed.split(",").includes(value);
  return types.includes("s") || (types.includes("c") && /^#[0-9a-f]{6}$/i.test(value));
}

// Types that need no second look.
function typeOf(value: unknown): string {
  if (value === null) return "-";
  if (Array.isArray(value)) return "a";
  if (typeof value === "boolean") return "b";
  return typeof value === "object" ? "o" : "?";
}

function checkList(value: unknown[], rule: Rule, place: string, scope: Scope): void {
  checkCount(value.length, rule, place, scope);
  const { items } = rule;
  if (!items) return;
  for (const [i, one] of value.entries()) {
    const texts = typeof one === "object" && textsOf(value, i);
    if (texts) checkTexts(texts, items, `entry ${i + 1} of ${place}`, scope);
    else if (typeof one === "object" && one !== null)
      checkValue(one, items, `entry ${i + 1} of ${place}`, scope);
    else if (!items.types.includes(typeOf(one)) && !isFiner(one, items)) misfit(place);
  }
}

function checkCount(n: number, rule: Rule, place: string, scope: Scope): void {
  const fixed = rule.options.get("#");
  if (fixed !== undefined && n !== Number(fixed))
    fail(`${place} must have ${fixed} entries, not ${n}.`);
  const word = rule.options.get("=");
  if (word === undefined) return;
  const counts = countsOf(word, scope);
  const count = counts.get(word) ?? n;
  counts.set(word, count);
  if (n !== count) fail(`${place} must have ${count} entries, not ${n}.`);
}

// A column of texts, which are not made yet.
function checkTexts(texts: Texts, rule: Rule, place: string, scope: Scope): void {
  const letters = rule.items?.types ?? "";
  if (!rule.types.includes("a") || !letters.includes("s")) misfit(place);
  if (texts.missing && !letters.includes("-")) misfit(place);
  checkCount(texts.length, rule, place, scope);
}

// Numbers that count the entries of others, once these are known.
function checkMost(value: unknown, rule: Rule | null, place: string, scope: Scope): void {
  while (rule?.items && !rule.options.has("^")) rule = rule.items;
  const word = rule?.options.get("^");
  const most = word && (countsOf(word, scope).get(word) ?? scope.above?.get(word));
  if (typeof most !== "number") return;
  if (([value].flat(2) as number[]).some((v) => v > most))
    fail(`${place} has a number above ${most}.`);
}

function checkObject(value: Part, rule: Rule, place: string, scope: Scope): void {
  const { parts, plan } = scope;
  const choices = rule.parts.flatMap((at) => (parts[at] ? [parts[at]] : []));
  if (!choices.length) return;
  const found = choices.length > 1 ? choices.find(([kind]) => kind === value["kind"]) : choices[0];
  if (!found) fail(`${place} is of an unknown kind.`);
  const [kind, line] = found;
  const layer = kind ? new Map<string, number>() : scope.layer;
  if (line) checkPart(value, line, place, { parts, plan, layer, above: scope.part });
}
