// The page's own words, in its language. A key without words shows itself, which a test would see.

export type Words = Record<string, string>;

export function say(words: Words, key: string, ...values: (string | number)[]): string {
  return (words[key] ?? key).replace(/\{(\d)\}/g, (_, i) => String(values[Number(i)] ?? ""));
}
