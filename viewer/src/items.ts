// What search, table, bars and keys know of the things of a layer: areas, symbols and lines alike.
import { isOfPanel, symbolShown } from "./draw-symbols";
import type { Camera } from "./camera";
import type { AreaLayer, Layer, LineLayer, Plan, SymbolLayer } from "./plan";
import type { Scene } from "./scene";
import { areaPanel } from "./state";

export type NamedLayer = AreaLayer | SymbolLayer | LineLayer;

// A layer whose things have names.
export function named(layer: Layer | undefined): NamedLayer | null {
  if (layer?.kind !== "areas" && layer?.kind !== "symbols" && layer?.kind !== "lines") return null;
  return layer.names ? layer : null;
}

// The layer that keys and bars speak of: areas before symbols; -1 for none.
export function mainLayer(plan: Plan): number {
  const of = (kind: string) => plan.layers.findIndex((l) => l.kind === kind && named(l));
  return of("areas") >= 0 ? of("areas") : of("symbols");
}

export interface Values {
  numbers: (number | null)[] | null;
  texts: (string | null)[] | null;
}

// The values of a layer in a panel, as numbers and as they are written.
export function valuesOf(layer: Layer, panel: number): Values {
  const now = areaPanel(layer, panel) ?? (layer.kind === "symbols" ? layer : null);
  return { numbers: now?.numbers ?? null, texts: now?.values ?? null };
}

// Does a thing count in the numbers of a panel? Hatched areas have no rank and count in none, and
// an area of several parts counts once.
export function counts(layer: Layer, item: number, panel: number): boolean {
  if (layer.kind !== "areas") return isDrawn(layer, item, panel);
  return (areaPanel(layer, panel)?.rank?.[item] ?? 0) > 0 && !layer.repeated?.includes(item);
}

export function isDrawn(layer: Layer, item: number, panel: number): boolean {
  return layer.kind !== "symbols" || symbolShown(layer, item, panel);
}

// Is a thing part of a panel?
export function isIn(layer: Layer, item: number, panel: number): boolean {
  return layer.kind !== "symbols" || isOfPanel(layer, item, panel);
}

export function countOf(layer: NamedLayer): number {
  return layer.names?.length ?? 0;
}

// The items of a layer that comes in sections, as far as they are in view; null for other layers,
// all of whose items are known.
export function itemsIn(scene: Scene, camera: Camera, layer: number): number[] | null {
  return scene.sections?.layer === layer ? scene.sections.items(camera) : null;
}

// A thing by its code or name, for an address; its number where it has neither.
export function keyOf(layer: Layer, item: number): string {
  const known = named(layer);
  return known?.codes?.[item] ?? known?.names?.[item] ?? String(item);
}
export function itemOf(layer: Layer, key: string): number {
  const known = named(layer);
  const at = known?.codes?.indexOf(key) ?? -1;
  return at >= 0 ? at : (known?.names?.indexOf(key) ?? -1);
}
