// What sections say of their areas, written into the lists of the layer, item by item: the lists
// have holes where nothing has come yet.
import type { AreaLayer, AreaPanel } from "./plan";

// What each area has of a layer or of one of its panels.
const FIELDS = [
  "class",
  "share",
  "rank",
  "values",
  "numbers",
  "hover",
  "names",
  "codes",
  "regions",
] as const;
const POPUP_LISTS = ["fields", "texts", "numbers"] as const;
export type Part = Partial<Record<(typeof FIELDS)[number], unknown[] | null>> & {
  popup?: Partial<Record<(typeof POPUP_LISTS)[number], (unknown[] | null)[] | null>> | null;
  panels?: Part[] | null;
};

// Pairs of lists: of the whole layer, and of a section where it has one.
function* listsOf(
  whole: AreaLayer | AreaPanel,
  part: Part,
): Generator<[unknown[], unknown[] | null | undefined]> {
  for (const field of FIELDS) {
    const list = (whole as Part)[field];
    if (list) yield [list, part[field]];
  }
  for (const kind of POPUP_LISTS)
    for (const [f, list] of (whole.popup?.[kind] ?? []).entries())
      if (list) yield [list, part.popup?.[kind]?.[f]];
  const { panels } = whole as AreaLayer;
  for (const [k, panel] of (panels ?? []).entries()) yield* listsOf(panel, part.panels?.[k] ?? {});
}

export function fill(whole: AreaLayer, part: Part, items: number[]): void {
  for (const [list, from] of listsOf(whole, part))
    if (from) for (const [local, item] of items.entries()) list[item] = from[local];
}

export function clear(whole: AreaLayer, items: number[]): void {
  for (const [list] of listsOf(whole, {}))
    // Holes cost nothing.
    // eslint-disable-next-line @typescript-eslint/no-dynamic-delete
    for (const item of items) delete list[item];
}
