// The columns of values that a page carries once: packed numbers, numbers in words, texts put
// together from others. A column is made when it is first asked for. R/page-pack.R writes them.
import { putLate, type Texts } from "./late";
import { PackedReader, signOf } from "./packed";
import { checkFields } from "./rules";
import { writeNumber } from "./words";

const VERSION = 1;

type Value = string | number | null;
interface But {
  rows: number[];
  values: Value[];
}
interface Recipe {
  but: But | null;
}
type Column =
  | Value[]
  | { packed: string; decimals: number }
  | { placed: number; from: number; to: number; but: But | null }
  | { ranked: number; but: But | null }
  | ({ written: number; but: But | null } & Writing)
  | { pieces: string[]; of: number[]; missing: string | null; but: But | null };

interface Writing {
  decimals: number;
  grouped: boolean;
  before: string;
  after: string;
  width: number;
  missing: string | null;
}

interface Packed {
  packed: number;
  columns: Column[];
  plan: Record<string, unknown>;
}

// The plan of a page; one that is not packed is as it stands.
export function unpack(given: unknown): unknown {
  const page = given as Packed | null;
  if (typeof page !== "object" || page === null || !("packed" in page)) return given;
  if (page.packed !== VERSION)
    throw new Error(
      `This map was packed as version ${page.packed}; the page reads version ` +
        `${VERSION}. Publish the map again.`,
    );
  const marks = page.plan["marks"] as { decimal: string; thousands: string };
  const columns = new Columns(page.columns, marks);
  fill(page.plan, columns);
  return page.plan;
}

// Of each recipe its fields, as rules.ts reads them.
const BUT: [string, string] = ["", "rows:a:=row<i:[0, values:a:=row"];
const RECIPES: Record<string, string> = {
  packed: "packed:s decimals:i:[0,20",
  placed: "placed:i from:n to:n but:-o:0",
  ranked: "ranked:i but:-o:0",
  written:
    "written:i decimals:i:[0,20 grouped:b before:s after:s width:i:[0,99 missing:-s but:-o:0",
  pieces: "pieces:a<s of:a<i missing:-s but:-o:0",
};

class Columns {
  private readonly made: (Value[] | undefined)[] = [];
  private readonly checked: (Column | undefined)[] = [];

  constructor(
    private readonly columns: Column[],
    private readonly marks: { decimal: string; thousands: string },
  ) {}

  get(k: number): Value[] {
    return (this.made[k] ??= this.make(this.column(k), k));
  }

  private column(k: number): Column {
    return (this.checked[k] ??= checked(this.columns[k], k));
  }

  // The texts of a column that is not made yet; undefined for other columns.
  texts(k: number): Texts | undefined {
    const column = this.column(k);
    if (this.made[k] || Array.isArray(column)) return undefined;
    if ("written" in column) {
      const numbers = this.numbers(column.written, k);
      return mended(numbers.length, column.missing === null && numbers.includes(null), column, k);
    }
    if (!("pieces" in column)) return undefined;
    const { of, pieces } = column;
    const lengths = new Set(of.map((one) => this.length(one, k)));
    const [length] = lengths;
    if (lengths.size !== 1 || length === undefined || pieces.length !== of.length + 1) odd(k);
    return mended(length, false, column, k);
  }

  // A column is made from columns before it.
  private length(of: number, k: number): number {
    if (of >= k) odd(k);
    return (this.texts(of) ?? this.get(of)).length;
  }

  private numbers(of: number, k: number): Value[] {
    if (of >= k) odd(k);
    const values = this.get(of);
    if (values.some((v) => typeof v === "string")) odd(k);
    return values;
  }

  private make(column: Column, k: number): Value[] {
    if (Array.isArray(column)) return column;
    if ("packed" in column) return numbersOf(column.packed, column.decimals);
    if ("placed" in column) {
      const { from, to } = column;
      const place = (v: Value) =>
        v === null ? -1 : Math.floor(1000 * (((v as number) - from) / (to - from)) + 0.5);
      return mend(this.numbers(column.placed, k).map(place), column);
    }
    if ("ranked" in column) return mend(ranksOf(this.numbers(column.ranked, k)), column);
    if ("written" in column) {
      const text = (v: Value) => (v === null ? column.missing : this.write(v as number, column));
      return mend(this.numbers(column.written, k).map(text), column);
    }
    this.texts(k);
    return mend(this.together(column), column);
  }

  private write(value: number, how: Writing): string {
    const marks = how.grouped ? this.marks : { ...this.marks, thousands: "" };
    const text = writeNumber(Math.abs(value), how.decimals, marks).padStart(how.width, "0");
    return how.before + (value < 0 ? "\u2212" : "") + text + how.after;
  }

  // At the first value that is missing a text says so and ends.
  private together({ pieces, of, missing }: Extract<Column, { of: number[] }>): Value[] {
    const columns = of.map((k) => this.get(k));
    const [start = "", ...after] = pieces;
    return (columns[0] ?? []).map((_, row) => {
      let text = start;
      for (const [i, column] of columns.entries()) {
        const value = column[row];
        if (value === null || value === undefined) return text + (missing ?? "");
        text += String(value) + (after[i] ?? "");
      }
      return text;
    });
  }
}

function numbersOf(text: string, decimals: number): Value[] {
  const reader = new PackedReader(text);
  const unit = 10 ** decimals;
  const out: Value[] = [];
  while (!reader.done) {
    const v = reader.next();
    out.push(v === 0 ? null : signOf(v - 1) / unit);
  }
  return out;
}

// From the highest; equal numbers have the least rank of them, 0 is for none.
function ranksOf(numbers: Value[]): Value[] {
  const known = numbers.flatMap((v, i) => (typeof v === "number" ? [{ v, i }] : []));
  known.sort((a, b) => b.v - a.v);
  const out: Value[] = numbers.map(() => 0);
  known.forEach(({ v, i }, k) => {
    const before = known[k - 1];
    out[i] = before?.v === v ? (out[before.i] ?? 0) : k + 1;
  });
  return out;
}

function odd(k: number): never {
  throw new Error(`Column ${k} of this map has an unexpected value. Publish the map again.`);
}

function checked(given: unknown, k: number): Column {
  if (Array.isArray(given)) return given as Value[];
  const column = { ...(given as object | null) };
  const kind = Object.keys(RECIPES).find((field) => field in column) ?? odd(k);
  if (kind !== "packed" && !("but" in column)) Object.assign(column, { but: null });
  checkFields(column, RECIPES[kind] ?? "", `column ${k}`, [BUT]);
  return column as Column;
}

// With the few entries that a recipe does not give.
function mend(made: Value[], { but }: Recipe): Value[] {
  but?.rows.forEach((row, i) => (made[row] = but.values[i] ?? null));
  return made;
}

function mended(length: number, missing: boolean, { but }: Recipe, k: number): Texts {
  if (but?.rows.some((row) => row >= length)) odd(k);
  if (but?.values.some((v) => typeof v === "number")) odd(k);
  return { length, missing: missing || !!but?.values.includes(null) };
}

// Where a part refers to a column, the column is made when it is asked for.
function fill(part: Record<string, unknown> | unknown[], columns: Columns): void {
  for (const [key, value] of Object.entries(part)) {
    if (typeof value !== "object" || value === null) continue;
    const column = (value as { column?: unknown }).column;
    if (typeof column === "number") {
      putLate(part, key, columns, column);
    } else if (!Array.isArray(value) || typeof value[0] === "object")
      fill(value as Record<string, unknown>, columns);
  }
}
