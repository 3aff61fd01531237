// The columns of values that a page carries once: packed numbers, numbers in words, texts put
// together from others. A column is made when it is first asked for. R/page-pack.R writes them.
import { entry } from "./entry";
import { PackedReader, signOf } from "./packed";
import { writeNumber } from "./words";

const VERSION = 1;

type Value = string | number | null;
interface But {
  rows: number[];
  values: Value[];
}
type Column =
  | Value[]
  | { packed: string; decimals: number }
  | { placed: number; from: number; to: number; but?: But }
  | { ranked: number; but?: But }
  | ({ written: number; but?: But } & Writing)
  | { pieces: string[]; of: number[]; missing: string | null; but?: But };

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

class Columns {
  private readonly made: (Value[] | undefined)[] = [];

  constructor(
    private readonly columns: Column[],
    private readonly marks: { decimal: string; thousands: string },
  ) {}

  get(k: number): Value[] {
    return (this.made[k] ??= this.make(entry(this.columns, k)));
  }

  private make(column: Column): Value[] {
    if (Array.isArray(column)) return column;
    if ("packed" in column) return numbersOf(column.packed, column.decimals);
    if ("placed" in column) {
      const { from, to } = column;
      const place = (v: Value) =>
        v === null ? -1 : Math.floor(1000 * (((v as number) - from) / (to - from)) + 0.5);
      return mend(this.get(column.placed).map(place), column.but);
    }
    if ("ranked" in column) return mend(ranksOf(this.get(column.ranked)), column.but);
    if ("written" in column) {
      const text = (v: Value) => (v === null ? column.missing : this.write(v as number, column));
      return mend(this.get(column.written).map(text), column.but);
    }
    return mend(this.together(column), column.but);
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
    return entry(columns, 0).map((_, row) => {
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

function mend(values: Value[], but: But | undefined): Value[] {
  but?.rows.forEach((row, i) => (values[row] = but.values[i] ?? null));
  return values;
}

// Where a part refers to a column, the column is made when it is asked for.
function fill(part: Record<string, unknown> | unknown[], columns: Columns): void {
  for (const [key, value] of Object.entries(part)) {
    if (typeof value !== "object" || value === null) continue;
    const column = (value as { column?: unknown }).column;
    if (typeof column === "number") {
      Object.defineProperty(part, key, {
        configurable: true,
        enumerable: true,
        get: () => columns.get(column),
        set: (other: unknown) => Object.defineProperty(part, key, { value: other, writable: true }),
      });
    } else if (!Array.isArray(value) || typeof value[0] === "object")
      fill(value as Record<string, unknown>, columns);
  }
}
