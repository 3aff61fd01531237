// What the viewer asks of a plan before it draws: the version, and that every field is there and of
// its type. A plan that was made by another Ochre, or changed on the way, ends in words.
import type { Plan } from "./plan";
import { parts, VERSION, whole } from "./plan-fields";

export function checkPlan(plan: unknown): Plan {
  const { version } = (plan ?? {}) as { version?: unknown };
  if (version !== VERSION) {
    throw new Error(
      `This map was made for version ${String(version)} of the viewer, but the page holds ` +
        `version ${VERSION}. Publish the map again.`,
    );
  }
  const fault = fieldsFault(plan as Record<string, unknown>, readFields(whole), "the map");
  if (fault) throw new Error(`${fault} Publish the map again.`);
  return plan as Plan;
}

interface Field {
  types: string;
  parts: number[];
}
type Fields = Map<string, Field>;

// A line of plan-fields.ts.
function readFields(line: string): Fields {
  const fields: Fields = new Map();
  for (const word of line.split(" ")) {
    const [name = "", types = "", ...held] = word.split(":");
    if (name) fields.set(name, { types, parts: held.map(Number) });
  }
  return fields;
}

function fieldsFault(value: Record<string, unknown>, fields: Fields, place: string): string | null {
  for (const [name, field] of fields) {
    if (!(name in value)) return `“${name}” is missing in ${place}.`;
    // A column is made when it is first asked for.
    if (Object.getOwnPropertyDescriptor(value, name)?.get) continue;
    const fault = fieldFault(value[name], field, `“${name}” of ${place}`);
    if (fault) return fault;
  }
  const odd = Object.keys(value).find((name) => !fields.has(name));
  return odd === undefined ? null : `“${odd}” in ${place} is not known.`;
}

function fieldFault(value: unknown, field: Field, place: string): string | null {
  if (!field.types.includes(typeOf(value))) return `${place} is not what it should be.`;
  return field.parts.length ? partFault(value, field, place) : null;
}

// A part, or an array of parts, or of arrays of them.
function partFault(value: unknown, field: Field, place: string): string | null {
  if (Array.isArray(value)) {
    for (const [i, one] of value.entries()) {
      const fault = partFault(one, field, `${place}, entry ${i + 1}`);
      if (fault) return fault;
    }
    return null;
  }
  if (typeOf(value) !== "o") return null;
  const part = partOf(value as Record<string, unknown>, field);
  if (!part) return `${place} is of a kind that is not known.`;
  return fieldsFault(value as Record<string, unknown>, part, place);
}

// The fields of the part that a value is; a part without fields is not looked into.
function partOf(value: Record<string, unknown>, field: Field): Fields | null {
  const choices = field.parts.flatMap((at) => (parts[at] ? [parts[at]] : []));
  const found = choices.length > 1 ? choices.find(([kind]) => kind === value["kind"]) : choices[0];
  if (!found) return null;
  const fields = readFields(found[1]);
  return fields.size ? fields : new Map(Object.keys(value).map((name) => [name, anything]));
}

const anything: Field = { types: "ab-nos", parts: [] };

// The letter of a value's type.
function typeOf(value: unknown): string {
  if (value === null) return "-";
  if (Array.isArray(value)) return "a";
  return (typeof value)[0] ?? "";
}
