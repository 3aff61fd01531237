// Drawing symbols, lines of a width each, density surfaces and labels on a flat canvas (in CSS pixels).
import type { Camera } from "./camera";
import { isDark } from "./elements";
import type { Feature } from "./geometry";
import { groupRadius, type Group } from "./groups";
import { placeLabels, type Disc } from "./labels";
import type { DensityLayer, NamesLayer, LineLayer, SymbolLayer } from "./payload";
import type { MapState } from "./state";
import { atZoom } from "./zoom";

export const PIXELS_PER_POINT = 1.33;

export const lineWidth = (layer: LineLayer, i: number, zoom = 1): number => (Array.isArray(layer.width) ? layer.width[i] : atZoom(layer.zoomed?.width, zoom, layer.width)) * PIXELS_PER_POINT;

// A dash and a gap in pixels; none for a solid line.
export function dashes(layer: LineLayer, width: number, zoom: number): number[] {
  const [on, off] = atZoom(layer.zoomed?.dash, zoom, layer.dash ? [4, 3] : [0, 0]);
  return on + off > 0 ? [on * width, off * width] : [];
}

// How many times as large symbols are as on the whole map.
export const sizeAt = (plan: SymbolLayer, zoom: number): number => atZoom(plan.zoomed?.size, zoom, 1);
// Pixels of a radius.
const unitOf = (plan: SymbolLayer, camera: Camera): number => camera.home * sizeAt(plan, camera.zoom);

// How far a symbol reaches from its middle, in pixels.
export function reach(plan: SymbolLayer, i: number, camera: Camera): number {
  return Math.max(plan.r[i], plan.second?.r[i] ?? 0) * unitOf(plan, camera);
}

export function symbolShown(plan: SymbolLayer, i: number, panel: number): boolean {
  return !plan.panel || plan.panel[i] === panel + 1;
}

export function symbolPath(c: CanvasRenderingContext2D | Path2D, plan: SymbolLayer, i: number, x: number, y: number, camera: Camera, unit = unitOf(plan, camera)): void {
  const r = plan.r[i] * unit;
  if (plan.bar) {
    const wide = plan.bar.width * unit;
    const high = plan.bar.height[i] * unit;
    c.rect(x - wide / 2, y - high, wide, high);
  } else if (plan.outline) {
    plan.outline.x.forEach((ox, k) => (k ? c.lineTo(x + r * ox, y - r * plan.outline!.y[k]) : c.moveTo(x + r * ox, y - r * plan.outline!.y[k])));
    c.closePath();
  } else c.arc(x, y, r, 0, 2 * Math.PI);
}

// Counted circles for groups, symbols for those that stand alone.
export function drawGroups(c: CanvasRenderingContext2D, plan: SymbolLayer, groups: Group[], camera: Camera, state: MapState, index: number): void {
  const alone = groups.filter((g) => g.items.length === 1).map((g) => g.items[0]);
  drawSymbols(c, plan, camera, state, index, alone.sort((a, b) => a - b));
  c.textAlign = "center";
  c.textBaseline = "middle";
  for (const group of groups) {
    if (group.items.length < 2) continue;
    const [x, y] = camera.toScreen(group.x, group.y);
    const r = groupRadius(group.items.length);
    if (x < -r || y < -r || x > camera.width + r || y > camera.height + r) continue;
    c.beginPath();
    c.arc(x, y, r, 0, 2 * Math.PI);
    c.fillStyle = plan.colour;
    c.fill();
    c.strokeStyle = plan.rim;
    c.lineWidth = 2;
    c.stroke();
    c.fillStyle = isDark(plan.colour) ? "#ffffff" : "#000000";
    c.font = "600 12px system-ui, sans-serif";
    c.fillText(String(group.items.length), x, y);
  }
  c.textAlign = "start";
}

// Styles are set only where they change: with many symbols setting them is most of the work.
export function drawSymbols(c: CanvasRenderingContext2D, plan: SymbolLayer, camera: Camera, state: MapState, index: number, only: number[] | null = null): void {
  const unit = unitOf(plan, camera);
  const { scale, width, height, x: cx, y: cy } = camera;
  const [left, top] = [width / 2 - cx * scale, height / 2 + cy * scale];
  const plain = !plan.bar && !plan.outline && !plan.second;
  let last = -1;
  c.lineWidth = 1;
  c.strokeStyle = plan.rim;
  c.fillStyle = plan.colour;
  c.globalAlpha = plan.opacity;
  const count = only ? only.length : plan.x.length;
  for (let k = 0; k < count; k++) {
    const i = only ? only[k] : k;
    const x = left + plan.x[i] * scale;
    const y = top - plan.y[i] * scale;
    const far = (plan.second ? Math.max(plan.r[i], plan.second.r[i]) : plan.r[i]) * unit;
    const up = plan.bar ? plan.bar.height[i] * unit : far;
    if (x < -far || y < -far || x > width + far || y > height + up || !symbolShown(plan, i, state.panel)) continue;
    if (plan.key && plan.key.class[i] !== last) {
      last = plan.key.class[i];
      c.globalAlpha = plan.opacity * state.strength(index, last);
      c.fillStyle = last > 0 ? plan.key.colours[last - 1] : plan.key.no_data.colour;
    }
    if (plan.key && c.globalAlpha === 0) continue;
    if (plan.from) leader(c, plan, i, x, y, far, camera);
    if (plan.second) {
      half(c, x, y, plan.r[i] * unit, plan.colour, true);
      half(c, x, y, plan.second.r[i] * unit, plan.second.colour, false);
      continue;
    }
    c.beginPath();
    if (plain) c.arc(x, y, far, 0, 2 * Math.PI);
    else symbolPath(c, plan, i, x, y, camera, unit);
    c.fill();
    c.stroke();
  }
  c.globalAlpha = 1;
}

function half(c: CanvasRenderingContext2D, x: number, y: number, r: number, colour: string, left: boolean): void {
  if (!(r > 0)) return;
  c.beginPath();
  c.arc(x, y, r, Math.PI / 2, -Math.PI / 2, !left);
  c.closePath();
  c.fillStyle = colour;
  c.fill();
  c.stroke();
}

// A line from a symbol that was moved to the dot on its place.
function leader(c: CanvasRenderingContext2D, plan: SymbolLayer, i: number, x: number, y: number, r: number, camera: Camera): void {
  const [fx, fy] = camera.toScreen(plan.from!.x[i], plan.from!.y[i]);
  if (Math.hypot(fx - x, fy - y) <= 0.7 * r) return;
  c.save();
  c.globalAlpha = 1;
  c.strokeStyle = c.fillStyle = "#55524e";
  c.beginPath();
  c.moveTo(x, y);
  c.lineTo(fx, fy);
  c.stroke();
  c.beginPath();
  c.arc(fx, fy, 1.6, 0, 2 * Math.PI);
  c.fill();
  c.restore();
}

// Lines with a width or colour each, or with arrow heads.
export function drawEachLine(c: CanvasRenderingContext2D, layer: LineLayer, features: Feature[], camera: Camera, state: MapState, index: number): void {
  const trace = (feature: Feature) => {
    c.beginPath();
    for (const ring of feature.rings) {
      for (let k = 0; k < ring.length; k += 2) {
        const [x, y] = camera.toScreen(ring[k], ring[k + 1]);
        if (k) c.lineTo(x, y);
        else c.moveTo(x, y);
      }
    }
  };
  c.lineJoin = "round";
  features.forEach((feature, i) => {
    const width = lineWidth(layer, i, camera.zoom);
    const key = layer.key?.class[i] ?? 0;
    const strength = layer.key ? state.strength(index, key) : 1;
    if (!(width > 0) || strength === 0) return;
    c.globalAlpha = strength;
    trace(feature);
    if (layer.casing) {
      c.strokeStyle = layer.casing;
      c.lineWidth = width + 2.5;
      c.stroke();
    }
    c.strokeStyle = c.fillStyle = !layer.key ? layer.colour : key > 0 ? layer.key.colours[key - 1] : layer.key.no_data.colour;
    c.lineWidth = width;
    c.setLineDash(dashes(layer, width, camera.zoom));
    c.stroke();
    c.setLineDash([]);
    if (layer.arrow) for (const ring of feature.rings) arrowHead(c, ring, width, camera);
    c.globalAlpha = 1;
  });
}

function arrowHead(c: CanvasRenderingContext2D, ring: Float64Array, width: number, camera: Camera): void {
  const n = ring.length;
  if (n < 4) return;
  const [x, y] = camera.toScreen(ring[n - 2], ring[n - 1]);
  const long = 4 + 2.4 * width;
  // The direction of the last stretch that is as long as the head.
  let k = n - 4;
  let [bx, by] = camera.toScreen(ring[k], ring[k + 1]);
  while (k > 1 && Math.hypot(x - bx, y - by) < long) [bx, by] = camera.toScreen(ring[(k -= 2)], ring[k + 1]);
  const turn = Math.atan2(y - by, x - bx);
  const at = (angle: number): [number, number] => [x - long * Math.cos(turn + angle) + 0.5 * width * Math.cos(turn), y - long * Math.sin(turn + angle) + 0.5 * width * Math.sin(turn)];
  c.beginPath();
  c.moveTo(x + 0.9 * width * Math.cos(turn), y + 0.9 * width * Math.sin(turn));
  c.lineTo(...at(0.45));
  c.lineTo(...at(-0.45));
  c.closePath();
  c.fill();
}

// The surface as a picture of one pixel a cell, made once.
export function densityPicture(layer: DensityLayer): HTMLCanvasElement {
  const { columns, rows, runs } = layer.grid;
  const out = document.createElement("canvas");
  out.width = columns;
  out.height = rows;
  const c = out.getContext("2d")!;
  const image = c.createImageData(columns, rows);
  const colours = layer.colours.map((hex) => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16)));
  let cell = 0;
  runs.forEach((length, k) => {
    const colour = colours[layer.grid.class[k] - 1];
    for (let i = 0; i < length; i++, cell++) {
      if (!colour) continue;
      const at = 4 * ((rows - 1 - Math.floor(cell / columns)) * columns + (cell % columns));
      image.data.set([...colour, 255], at);
    }
  });
  c.putImageData(image, 0, 0);
  return out;
}

export function drawDensity(c: CanvasRenderingContext2D, layer: DensityLayer, picture: HTMLCanvasElement, camera: Camera): void {
  const { x0, y0, cell, columns, rows } = layer.grid;
  const [left, top] = camera.toScreen(x0, y0 + rows * cell);
  c.globalAlpha *= layer.opacity;
  c.imageSmoothingEnabled = false;
  c.drawImage(picture, left, top, columns * cell * camera.scale, rows * cell * camera.scale);
  c.globalAlpha = 1;
}

const MOST_LABELS = 3000;

// The colours of a label and its halo, on the area under it as that is drawn now.
export function labelInk(layer: NamesLayer, i: number, state: MapState, zoom: number): [string, string | null] {
  const over = layer.over?.[i] ?? -1;
  const panel = layer.ink?.[Math.min(state.panel, layer.ink.length - 1)];
  const ink = panel?.[i];
  if (over < 0 || ink === undefined || !layer.inks || !state.shownAt(over, zoom)) return [layer.colour, layer.halo];
  return [layer.inks[ink], layer.halos?.[ink] ?? layer.halo];
}

export function drawLabels(c: CanvasRenderingContext2D, layer: NamesLayer, discs: Disc[], grown: number, camera: Camera, widths: Map<string, number>, state: MapState): number {
  const size = 13 * atZoom(layer.zoomed?.size, camera.zoom, layer.scale);
  c.font = `${layer.bold ? "700 " : ""}${size}px system-ui, sans-serif`;
  c.textAlign = "center";
  c.textBaseline = "middle";
  const wide = (text: string) => {
    const key = `${c.font} ${text}`;
    const known = widths.get(key);
    if (known !== undefined) return known;
    const measured = c.measureText(text).width + 3;
    widths.set(key, measured);
    return measured;
  };
  const shown: number[] = [];
  const wishes = [];
  for (let i = 0; i < layer.text.length && shown.length < MOST_LABELS; i++) {
    const [x, y] = camera.toScreen(layer.x[i], layer.y[i]);
    if (x < 0 || y < 0 || x > camera.width || y > camera.height) continue;
    shown.push(i);
    wishes.push({ x, y, width: wide(layer.text[i]), height: 1.2 * size, gap: layer.centred ? 0 : Math.max(layer.r[i] * camera.home * grown, 1.5) + 3 });
  }
  const places = placeLabels(wishes, discs, camera.width, camera.height);
  c.lineJoin = "round";
  places.forEach((at, k) => {
    if (!at) return;
    const text = layer.text[shown[k]];
    const [ink, halo] = labelInk(layer, shown[k], state, camera.zoom);
    if (halo) {
      c.strokeStyle = halo;
      c.lineWidth = 0.24 * size;
      c.strokeText(text, ...at);
    }
    c.fillStyle = ink;
    c.fillText(text, ...at);
  });
  c.textAlign = "start";
  return places.filter(Boolean).length;
}
