// The page's own words, in its language, and numbers with its marks. A key without words shows
// itself, which a test would see.
import type { NumberMarks } from "./plan";

export type Words = Record<string, string>;

export function say(words: Words, key: string, ...values: (string | number)[]): string {
  return (words[key] ?? key).replace(/\{(\d)\}/g, (_, i) => String(values[Number(i)] ?? ""));
}

// As R writes it: so many decimals, thousands marked, a true minus sign.
export function writeNumber(value: number, decimals: number, marks: NumberMarks): string {
  const [whole = "", part] = Math.abs(value).toFixed(decimals).split(".");
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, marks.thousands);
  const text = part ? grouped + marks.decimal + part : grouped;
  return value < 0 && Number(value.toFixed(decimals)) !== 0 ? `\u2212${text}` : text;
}

// A measured value with no more digits than `give` (how far off it may be) leaves sure, five at
// most.
export function writeMeasured(value: number, give: number, marks: NumberMarks): string {
  if (value <= 0) return writeNumber(0, 0, marks);
  const first = Math.floor(Math.log10(value));
  const sure = Math.ceil(Math.log10(Math.max(give, value * 1e-4)) - 1e-9);
  const last = Math.min(first, sure);
  const unit = 10 ** last;
  return writeNumber(Math.round(value / unit) * unit, Math.max(0, -last), marks);
}
