// Values that change with the zoom: given at some zooms, and evenly between them with each
// doubling of the zoom, or in steps.

import { entry } from "./entry";

export interface ByZoom<V extends number | number[]> {
  zooms: number[];
  values: V[];
  stepped: boolean;
}

export function atZoom<V extends number | number[]>(
  spec: ByZoom<V> | null | undefined,
  zoom: number,
  otherwise: V,
): V {
  if (!spec) return otherwise;
  const { zooms, values, stepped } = spec;
  let i = zooms.length - 1;
  while (i > 0 && entry(zooms, i) > zoom + 1e-9) i--;
  const next = zooms[i + 1];
  if (stepped || next === undefined || zoom <= entry(zooms, i)) return entry(values, i);
  const share = Math.log2(zoom / entry(zooms, i)) / Math.log2(next / entry(zooms, i));
  const mix = (a: number, b: number) => a + (b - a) * share;
  const [a, b] = [entry(values, i), entry(values, i + 1)];
  return (
    Array.isArray(a) ? a.map((v, k) => mix(v, entry(b as number[], k))) : mix(a, b as number)
  ) as V;
}
