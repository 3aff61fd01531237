// The label beside the pointer, and what a popup is made of.
import { element, svg, swatch } from "./elements";
import { entry } from "./entry";
import { counts } from "./items";
import type { AreaLayer, Key, Layer, Popup } from "./plan";
import { classAt, hoverText, type MapState, panelOf } from "./state";
import { say } from "./words";

// The colour of the lines of a class whose areas carry a hatch, or null.
export function hatchOf(layer: Layer, key: number): string | null {
  return layer.kind === "areas" && layer.hatch?.class === key ? layer.hatch.colour : null;
}

// The class of an item as the legend has it; null for what has none.
export function classOf(
  layer: Layer,
  item: number,
  panel: number,
): { label: string; colour: string; hatch?: string | null } | null {
  const k = classAt(layer, item, panel);
  if (k === undefined) return null;
  if (layer.kind === "areas") {
    const now = panelOf(layer, panel);
    return k > 0
      ? {
          label: entry(now.labels ?? layer.labels, k - 1),
          colour: entry(now.colours ?? layer.colours, k - 1),
          hatch: hatchOf(layer, k),
        }
      : now.no_data;
  }
  const key = legendKey(layer);
  if (!key) return null;
  return k > 0
    ? { label: entry(key.labels, k - 1), colour: entry(key.colours, k - 1) }
    : key.no_data;
}

export const legendKey = (layer: Layer): Key | null =>
  layer.kind === "symbols" || layer.kind === "lines" ? layer.key : null;

// Where a box of the given size may stand so that it is near a point and within the stage.
export function placeBox(
  [px, py]: [number, number],
  [width, height]: [number, number],
  [stageWidth, stageHeight]: [number, number],
): [number, number] {
  const x = px + GAP + width <= stageWidth ? px + GAP : px - GAP - width;
  const y = py - GAP - height >= 0 ? py - GAP - height : py + GAP;
  return inside([x, y], [width, height], [stageWidth, stageHeight]);
}

const inside = (
  [x, y]: [number, number],
  [width, height]: [number, number],
  [stageWidth, stageHeight]: [number, number],
): [number, number] => [
  Math.max(4, Math.min(x, stageWidth - width - 4)),
  Math.max(4, Math.min(y, stageHeight - height - 4)),
];

export type Rect = readonly [number, number, number, number]; // left, top, right, bottom

// Where a box of the given size may stand beside what it speaks of; near the point where that has
// no room beside it.
export function placeAround(
  around: Rect,
  point: [number, number],
  size: [number, number],
  stage: [number, number],
): [number, number] {
  const [left, top, right, bottom] = around;
  const [width, height] = size;
  const places: [number, number][] = [
    [right + GAP, point[1] - height / 2],
    [left - GAP - width, point[1] - height / 2],
    [point[0] - width / 2, top - GAP - height],
    [point[0] - width / 2, bottom + GAP],
  ];
  const covered = places.map((place) => {
    const [x, y] = inside(place, size, stage);
    const wide = Math.min(right, x + width) - Math.max(left, x);
    const high = Math.min(bottom, y + height) - Math.max(top, y);
    return Math.max(0, wide) * Math.max(0, high);
  });
  const least = Math.min(...covered);
  const all = (right - left) * (bottom - top);
  if (least > 0.25 * Math.min(all, width * height)) return placeBox(point, size, stage);
  return inside(entry(places, covered.indexOf(least)), size, stage);
}

const GAP = 14;

function moveTo(box: HTMLElement, stage: HTMLElement, px: number, py: number): void {
  const size: [number, number] = [box.offsetWidth, box.offsetHeight];
  const [x, y] = placeBox([px, py], size, [stage.clientWidth, stage.clientHeight]);
  box.style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px)`;
}

export class HoverLabel {
  private readonly box: HTMLElement;

  constructor(
    private readonly stage: HTMLElement,
    private readonly state: MapState,
  ) {
    this.box = element("div", "ochre-hover", null, stage);
    this.box.setAttribute("aria-hidden", "true");
    this.box.hidden = true;
  }

  show(layer: Layer, item: number, px: number, py: number): void {
    const text = hoverText(layer, item, this.state.panel);
    if (!text) return this.hide();
    this.box.replaceChildren();
    const known = classOf(layer, item, this.state.panel);
    if (known) swatch(known.colour, this.box, known.hatch);
    element("span", "", text, this.box);
    const line = trend(layer, item, this.state);
    if (line) this.box.append(line);
    this.box.hidden = false;
    moveTo(this.box, this.stage, px, py);
  }

  say(text: string, px: number, py: number): void {
    this.box.replaceChildren();
    element("span", "", text, this.box);
    this.box.hidden = false;
    moveTo(this.box, this.stage, px, py);
  }

  hide(): void {
    this.box.hidden = true;
  }
}

// A small line of the area's values over the panels; a gap where one is missing, a dot on the one
// that is shown.
export function trend(layer: Layer, item: number, state: MapState): SVGElement | null {
  if (layer.kind !== "areas" || !layer.panels || layer.panels.length < 2) return null;
  const shares = layer.panels.map((p) => p.share?.[item] ?? -1);
  if (!entry(layer.panels, 0).share) return null;
  const [width, high] = [120, 30];
  const { words, panels } = state.payload;
  const ends = [panels?.[0] ?? "", panels?.[shares.length - 1] ?? ""];
  const out = svg("svg", {
    width,
    height: high + 4,
    class: "ochre-trend",
    role: "img",
    "aria-label": say(words, "trend", ...ends),
  });
  let path = "";
  let pen = "M";
  shares.forEach((share, k) => {
    if (share < 0) {
      pen = "M";
      return;
    }
    const x = 3 + (k / (shares.length - 1)) * (width - 6);
    const y = 2 + (1 - share / 1000) * (high - 2);
    path += `${pen}${x.toFixed(1)} ${y.toFixed(1)}`;
    pen = "L";
    if (k === state.panel) svg("circle", { cx: x, cy: y, r: 3, class: "ochre-trend-now" }, out);
  });
  if (!path) return null;
  out.prepend(svg("path", { d: path, class: "ochre-trend-line" }));
  return out;
}

export function rankWords(layer: AreaLayer, item: number, state: MapState): string | null {
  const ranks = panelOf(layer, state.panel).rank ?? [];
  const rank = ranks[item];
  if (!rank) return null;
  const { sections, words } = state.payload;
  const all =
    sections?.ranked[layer.panels ? state.panel : 0] ??
    ranks.filter((_, i) => counts(layer, i, state.panel)).length;
  return say(words, "rank", rank, all);
}

// Fields in their order; those of which nothing is known are left out. The addresses were checked
// when the plan was made, and are again.
export function fieldList(popup: Popup, item: number, parent: HTMLElement): void {
  const list = element("dl", "ochre-fields", null, parent);
  popup.labels.forEach((label, f) => {
    const value = entry(entry(popup.fields, f), item);
    if (value === null || value === "") return;
    const kind = popup.kinds[f];
    const words = popup.texts?.[f]?.[item] ?? "";
    if (kind === "picture") {
      if (!/^(https?:|data:image\/(png|jpeg|gif|webp);base64,)/i.test(value)) return;
      const picture = element(
        "img",
        "ochre-picture",
        null,
        element("dd", "ochre-whole", null, list),
      );
      picture.alt = words;
      picture.referrerPolicy = "no-referrer";
      picture.addEventListener("error", () => picture.replaceWith(document.createTextNode(words)));
      picture.src = value;
      return;
    }
    element("dt", "", label, list);
    const field = element("dd", "", kind === "text" ? value : null, list);
    if (kind !== "link") return;
    if (!/^(https?|mailto):/i.test(value)) return void (field.textContent = words || value);
    const link = element("a", "", words || value, field);
    link.href = value;
    link.target = "_blank";
    link.rel = "noopener noreferrer";
  });
}
