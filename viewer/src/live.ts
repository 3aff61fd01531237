// New values of a layer: a document of them is read, each value classed and written as R does, and
// put into the plan.
import { entry } from "./entry";
import type { AreaLayer, Live, NumberMarks } from "./plan";
import { writeNumber } from "./words";

// Stands in texts where the value will: of those that Unicode leaves to private use.
const MARK = "\ue001";

export interface NewValues {
  values: Map<string, number | null>;
  // When they were right; null where the document does not say.
  time: Date | null;
}

// A document of values; one that is none ends in an error.
export function readValues(given: unknown): NewValues {
  const { values, time } = (given ?? {}) as { values?: unknown; time?: unknown };
  if (typeof values !== "object" || values === null || Array.isArray(values))
    throw new TypeError("The document has no `values`.");
  const out = new Map<string, number | null>();
  for (const [key, value] of Object.entries(values as Record<string, unknown>)) {
    if (value !== null && (typeof value !== "number" || !Number.isFinite(value)))
      throw new TypeError(`The value of \`${key}\` is no number.`);
    out.set(key, value);
  }
  const at = typeof time === "string" ? new Date(time) : null;
  if (time !== undefined && time !== null && (!at || Number.isNaN(at.getTime())))
    throw new TypeError("`time` is no date of ISO 8601.");
  return { values: out, time: at };
}

// Puts values into the layer. Says which keys belong to no area; with none that does nothing
// changes.
export function takeValues(layer: AreaLayer, given: NewValues, marks: NumberMarks): string[] {
  const { live } = layer;
  if (!live) return [];
  const keys = layer.codes ?? layer.names ?? [];
  const known = new Set(keys);
  const strange = [...given.values.keys()].filter((key) => !known.has(key));
  if (strange.length === given.values.size && strange.length > 0)
    throw new RangeError("No value belongs to an area of the map.");
  const old = layer.numbers ?? [];
  const numbers = keys.map((key, i) =>
    key !== null && given.values.has(key) ? (given.values.get(key) ?? null) : (old[i] ?? null),
  );
  layer.numbers = numbers;
  classAll(layer, live, numbers, marks);
  writeAll(layer, live, numbers, marks);
  return strange;
}

function classAll(
  layer: AreaLayer,
  live: Live,
  numbers: (number | null)[],
  marks: NumberMarks,
): void {
  layer.class = numbers.map((v) => (v === null ? 0 : classOf(shownUnit(v, live), live)));
  const repeated = new Set(layer.repeated);
  const whole = layer.class.filter((_, i) => !repeated.has(i));
  layer.counts = layer.colours.map((_, k) => whole.filter((c) => c === k + 1).length);
  layer.count_labels = layer.counts.map((n) => writeNumber(n, 0, marks));
  const lost = whole.filter((c) => c === 0).length;
  layer.no_data.count = lost;
  layer.no_data.count_label = writeNumber(lost, 0, marks);
  const all = numbers
    .filter((v, i): v is number => v !== null && !repeated.has(i))
    .sort((a, b) => b - a);
  const [most = 0, least = 0] = [all[0], all[all.length - 1]];
  const ranks = new Map<number, number>();
  all.forEach((v, i) => ranks.has(v) || ranks.set(v, i + 1));
  layer.rank = numbers.map((v) => (v === null ? 0 : (ranks.get(v) ?? 0)));
  const share = (v: number) =>
    most > least ? Math.round((1000 * (v - least)) / (most - least)) : 500;
  layer.share = numbers.map((v) => (v === null ? -1 : share(v)));
}

function writeAll(
  layer: AreaLayer,
  live: Live,
  numbers: (number | null)[],
  marks: NumberMarks,
): void {
  const values = numbers.map((v) => (v === null ? null : writeValue(v, live, marks)));
  layer.values = values;
  const fill = (texts: readonly (string | null)[]) =>
    texts.map((text, i) => text && fillIn(text, values[i] ?? null, live.missing));
  if (live.hover) layer.hover = fill(live.hover);
  live.fields.forEach((field, f) => {
    if (!field || !layer.popup) return;
    const texts = fill(field.texts);
    if (layer.popup.numbers?.[f]) layer.popup.numbers[f] = numbers;
    layer.popup.fields[f] = field.alone
      ? texts.map((text, i) => (values[i] === null ? null : text))
      : texts;
  });
}

// At a value that is missing a text says so and ends.
function fillIn(text: string, value: string | null, missing: string): string {
  const at = text.indexOf(MARK);
  if (at < 0) return text;
  return value === null ? text.slice(0, at) + missing : text.split(MARK).join(value);
}

// Numbers as they are shown, read as R reads them: free of the noise of their last digits.
const shownUnit = (v: number, live: Live): number =>
  live.percent ? asRead(100 * asRead(v)) : asRead(v);

function asRead(v: number): number {
  const counted = Math.abs(v) >= 1e15 && Math.abs(v) < 2 ** 53;
  return counted ? v : Number(v.toPrecision(15));
}

function classOf(shown: number, { breaks, right }: Live): number {
  let [low, high] = [0, breaks.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    const at = entry(breaks, middle);
    if (right ? at < shown : at <= shown) low = middle + 1;
    else high = middle;
  }
  return low + 1;
}

// A value has so many decimals that it reads as one of its class.
export function writeValue(value: number, live: Live, marks: NumberMarks): string {
  const shown = shownUnit(value, live);
  let digits = live.digits;
  const wrong = () => classOf(Number(rounded(shown, digits).toFixed(digits)), live);
  while (live.true && digits < 15 && wrong() !== classOf(shown, live)) digits++;
  const near = rounded(shown, digits);
  const text = writeNumber(near, digits, live.grouped ? marks : { ...marks, thousands: "" });
  const plus = live.plus && Number(near.toFixed(digits)) > 0 ? "+" : "";
  return plus + text + (live.unit === null ? "" : `\u00a0${live.unit}`);
}

// The nearest number of so many decimals, of two as near the even one: how R rounds, so that 2.45
// and 0.15, which are no exact halves, become 2.5 and 0.1.
function rounded(value: number, digits: number): number {
  const [size, unit] = [Math.abs(value), 10 ** digits];
  const scaled = size * unit;
  if (!(scaled < 1e15)) return value;
  const [low, high] = [Math.floor(scaled) / unit, Math.ceil(scaled) / unit];
  const [down, up] = [size - low, high - size];
  const isLow = down < up || (down === up && Math.floor(scaled) % 2 === 0);
  return Math.sign(value) * (isLow ? low : high);
}
