// What the reader has set: the panel, layers and classes that are off, the class that is brought
// out. Everything that draws reads it here, and is told when it changes.
import { entry } from "./entry";
import type { AreaLayer, AreaPanel, Layer, Plan } from "./plan";

export type Change =
  "panel" | "values" | "layers" | "classes" | "lit" | "look" | "backdrop" | "overlays" | "chosen";

export class MapState {
  panel: number;
  backdrop = 0;
  // How solid each picture is that lies over the backdrop; 0 while it is off.
  readonly overlays: number[];
  readonly order: number[];
  readonly hidden = new Set<number>();
  readonly opacity: number[];
  private readonly off = new Map<number, Set<number>>();
  // The class that stands out while the others recede.
  out: { layer: number; key: number } | null = null;
  private readonly listeners = new Map<Change, (() => void)[]>();

  constructor(readonly payload: Plan) {
    // The latest of several periods comes first.
    this.panel = payload.panels ? payload.panels.length - 1 : 0;
    this.overlays = payload.overlays.map(() => 0);
    this.order = payload.layers.map((_, i) => i);
    this.opacity = payload.layers.map((layer) => layer.show?.opacity ?? 1);
    payload.layers.forEach((layer, i) => layer.show?.off && this.hidden.add(i));
  }

  // Calls back when one of these has changed.
  on(changes: readonly Change[], listener: () => void): void {
    for (const change of changes)
      this.listeners.set(change, [...(this.listeners.get(change) ?? []), listener]);
  }
  tell(what: Change): void {
    for (const listener of this.listeners.get(what) ?? []) listener();
  }

  setPanel(panel: number): void {
    const last = (this.payload.panels?.length ?? 1) - 1;
    const next = Math.max(0, Math.min(last, panel));
    if (next === this.panel) return;
    this.panel = next;
    this.tell("panel");
  }

  setBackdrop(at: number): void {
    if (at === this.backdrop || !this.payload.backdrops[at]) return;
    this.backdrop = at;
    this.tell("backdrop");
  }

  isOff(layer: number, key: number): boolean {
    return this.off.get(layer)?.has(key) ?? false;
  }
  toggleClass(layer: number, key: number): void {
    const set = this.off.get(layer) ?? new Set<number>();
    if (!set.delete(key)) set.add(key);
    this.off.set(layer, set);
    this.tell("classes");
  }
  setOff(lists: [number, number[]][]): void {
    this.off.clear();
    for (const [layer, keys] of lists) this.off.set(layer, new Set(keys));
    this.tell("classes");
  }
  setHidden(layers: number[]): void {
    this.hidden.clear();
    for (const layer of layers) this.hidden.add(layer);
    this.tell("layers");
  }
  // Which classes are off, as a key.
  offText(layer: number): string {
    return [...(this.off.get(layer) ?? [])].sort().join();
  }
  bringOut(layer: number, key: number | null): void {
    const next = key === null ? null : { layer, key };
    if (next?.layer === this.out?.layer && next?.key === this.out?.key) return;
    this.out = next;
    this.tell("lit");
  }

  // When the words of a legend are made anew, none of them is left.
  letOut(): void {
    if (this.out) this.bringOut(this.out.layer, null);
  }

  // How strongly a class is drawn: not at all when it is off, faintly while another one is
  // brought out.
  strength(layer: number, key: number): number {
    if (this.isOff(layer, key)) return 0;
    return this.out && this.out.layer === layer && this.out.key !== key ? 0.22 : 1;
  }

  shownAt(layer: number, zoom: number): boolean {
    const zooms = entry(this.payload.layers, layer).show?.zooms;
    return !this.hidden.has(layer) && (!zooms || (zoom >= zooms[0] && zoom <= zooms[1]));
  }
}

// What an area layer shows now; null for other layers.
export function areaPanel(layer: Layer, panel: number): Shown | null {
  return layer.kind === "areas" ? panelOf(layer, panel) : null;
}

export const panelOf = (layer: AreaLayer, panel: number): Shown =>
  layer.panels ? entry(layer.panels, panel) : layer;

type Shown = AreaLayer | AreaPanel;

export function classAt(layer: Layer, item: number, panel: number): number | undefined {
  if (layer.kind === "areas") return panelOf(layer, panel).class[item];
  return layer.kind === "symbols" || layer.kind === "lines" ? layer.key?.class[item] : undefined;
}

export function hoverText(layer: Layer, item: number, panel: number): string | null {
  return (areaPanel(layer, panel) ?? layer).hover?.[item] ?? null;
}
