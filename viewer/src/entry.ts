// Reading lists and records, so that what is not there ends in words and not in "undefined" or
// NaN on the map.

type Position<C> = C extends { readonly length: number } ? number : string;
type Entry<C> = C extends { readonly [position: number]: infer V }
  ? V
  : C extends Readonly<Record<string, infer V>>
    ? V
    : never;

export function entry<C extends object>(list: C, position: Position<C>): Entry<C> {
  const found = (list as Record<string | number, Entry<C> | undefined>)[position];
  if (found === undefined) throw new RangeError(`There is no entry ${position} here.`);
  return found;
}

// Adds to one entry of a flat array.
export function add(sums: Float32Array | Int32Array, position: number, more: number): void {
  sums[position] = entry(sums, position) + more;
}
