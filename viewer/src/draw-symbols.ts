// Drawing symbols, lines of a width each, density surfaces and labels on a flat canvas (in CSS
// pixels).
import type { Camera } from "./camera";
import { isDark, canvasContext } from "./elements";
import { entry } from "./entry";
import type { Feature } from "./geometry";
import { groupRadius, type Group } from "./groups";
import type { DensityLayer, LineLayer, SymbolLayer } from "./plan";
import type { MapState } from "./state";
import type { Work } from "./work";
import { atZoom } from "./zoom";

// Pixels that a casing is wider than its line (casing_width in R/figure-shapes.R).
export const CASING = 3;

// One width for all lines may follow the zoom; widths by value do not.
export function lineWidth(layer: LineLayer, i: number, zoom = 1): number {
  if (layer.width.length > 1) return entry(layer.width, i);
  return atZoom(layer.zoomed?.width, zoom, entry(layer.width, 0));
}

// A dash and a gap in pixels; none for a solid line.
export function dashes(layer: LineLayer, width: number, zoom: number): number[] {
  const [on = 0, off = 0] = atZoom(layer.zoomed?.dash, zoom, layer.dash ?? [0, 0]);
  return on + off > 0 ? [on * width, off * width] : [];
}

// How many times as large symbols are as on the whole map.
export const sizeAt = (plan: SymbolLayer, zoom: number): number =>
  atZoom(plan.zoomed?.size, zoom, 1);
// Pixels of a rim, and the share of a radius that it has at most.
const RIM = 1;
const RIM_SHARE = 0.3;

// Pixels of a radius.
export const unitOf = (plan: SymbolLayer, camera: Camera): number =>
  camera.home * sizeAt(plan, camera.zoom);

// How far a symbol reaches from its middle, in pixels.
export function reach(plan: SymbolLayer, i: number, camera: Camera): number {
  return Math.max(entry(plan.r, i), plan.second?.r[i] ?? 0) * unitOf(plan, camera);
}

export function symbolShown(plan: SymbolLayer, i: number, panel: number): boolean {
  return i < plan.x.length && isOfPanel(plan, i, panel);
}
// Rows without a symbol, which come last, have a panel too.
export function isOfPanel(plan: SymbolLayer, i: number, panel: number): boolean {
  return !plan.panel || plan.panel[i] === panel + 1;
}

// The outline of a symbol at a place of the screen; `unit` are the pixels of a radius.
export function symbolPath(
  c: CanvasRenderingContext2D | Path2D,
  plan: SymbolLayer,
  i: number,
  [x, y]: [number, number],
  unit: number,
): void {
  const { bar, outline } = plan;
  const r = entry(plan.r, i) * unit;
  if (bar) {
    const wide = bar.width * unit;
    const high = entry(bar.height, i) * unit;
    c.rect(x - wide / 2, y - high, wide, high);
  } else if (outline) {
    outline.x.forEach((ox, k) => {
      const corner: [number, number] = [x + r * ox, y - r * entry(outline.y, k)];
      if (k) c.lineTo(...corner);
      else c.moveTo(...corner);
    });
    c.closePath();
  } else c.arc(x, y, r, 0, 2 * Math.PI);
}

// Counted circles for groups, symbols for those that stand alone.
export function* drawGroups(
  c: CanvasRenderingContext2D,
  plan: SymbolLayer,
  groups: Group[],
  camera: Camera,
  state: MapState,
  index: number,
): Work<void> {
  const alone = groups.filter((g) => g.items.length === 1).map((g) => entry(g.items, 0));
  alone.sort((a, b) => a - b);
  yield* drawSymbols(c, plan, camera, state, index, alone);
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

// Symbols that are drawn between two looks at the clock.
const FEW = 1000;

// Styles are set only where they change: with many symbols setting them is most of the work.
export function* drawSymbols(
  c: CanvasRenderingContext2D,
  plan: SymbolLayer,
  camera: Camera,
  state: MapState,
  index: number,
  only: number[] | null = null,
): Work<void> {
  const unit = unitOf(plan, camera);
  const { scale, width, height } = camera;
  const [left, top] = [width / 2 - camera.x * scale, height / 2 + camera.y * scale];
  let last = -1;
  c.lineWidth = 1;
  c.strokeStyle = plan.rim;
  c.fillStyle = plan.colour;
  c.globalAlpha = plan.opacity;
  const count = only ? only.length : plan.x.length;
  for (let k = 0; k < count; k++) {
    if (k % FEW === FEW - 1) yield;
    const i = only ? entry(only, k) : k;
    const x = left + entry(plan.x, i) * scale;
    const y = top - entry(plan.y, i) * scale;
    const far = Math.max(entry(plan.r, i), plan.second?.r[i] ?? 0) * unit;
    const up = plan.bar ? entry(plan.bar.height, i) * unit : far;
    if (x < -far || y < -far || x > width + far || y > height + up) continue;
    if (!symbolShown(plan, i, state.panel)) continue;
    if (plan.key && plan.key.class[i] !== last) {
      last = entry(plan.key.class, i);
      c.globalAlpha = plan.opacity * state.strength(index, last);
      c.fillStyle = last > 0 ? entry(plan.key.colours, last - 1) : plan.key.no_data.colour;
    }
    if (plan.key && c.globalAlpha === 0) continue;
    if (plan.from) {
      c.strokeStyle = state.payload.inks.text;
      leader(c, [x, y], camera.toScreen(entry(plan.from.x, i), entry(plan.from.y, i)), far);
      c.strokeStyle = plan.rim;
    }
    drawSymbol(c, plan, i, [x, y], unit);
  }
  c.globalAlpha = 1;
}

function drawSymbol(
  c: CanvasRenderingContext2D,
  plan: SymbolLayer,
  i: number,
  at: [number, number],
  unit: number,
): void {
  if (plan.second) {
    half(c, at, entry(plan.r, i) * unit, plan.colour, true);
    half(c, at, entry(plan.second.r, i) * unit, plan.second.colour, false);
    return;
  }
  c.beginPath();
  symbolPath(c, plan, i, at, unit);
  c.fill();
  // A rim does not eat up a small symbol.
  const rim = Math.min(RIM, RIM_SHARE * entry(plan.r, i) * unit);
  if (c.lineWidth !== rim) c.lineWidth = rim;
  c.stroke();
}

function half(
  c: CanvasRenderingContext2D,
  [x, y]: [number, number],
  r: number,
  colour: string,
  left: boolean,
): void {
  if (!(r > 0)) return;
  c.beginPath();
  c.arc(x, y, r, Math.PI / 2, -Math.PI / 2, !left);
  c.closePath();
  c.fillStyle = colour;
  c.fill();
  c.stroke();
}

// A line from a symbol that was moved to the dot on its place, in the stroke that is set.
function leader(
  c: CanvasRenderingContext2D,
  [x, y]: [number, number],
  [fx, fy]: [number, number],
  r: number,
): void {
  if (Math.hypot(fx - x, fy - y) <= 0.7 * r) return;
  c.save();
  c.globalAlpha = 1;
  c.fillStyle = c.strokeStyle;
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
export function drawEachLine(
  c: CanvasRenderingContext2D,
  layer: LineLayer,
  features: Feature[],
  camera: Camera,
  state: MapState,
  index: number,
): void {
  const trace = (feature: Feature) => {
    c.beginPath();
    for (const ring of feature.rings) {
      for (let k = 0; k < ring.length; k += 2) {
        const [x, y] = camera.toScreen(entry(ring, k), entry(ring, k + 1));
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
      c.lineWidth = width + CASING;
      c.stroke();
    }
    c.strokeStyle = c.fillStyle = !layer.key
      ? layer.colour
      : key > 0
        ? entry(layer.key.colours, key - 1)
        : layer.key.no_data.colour;
    c.lineWidth = width;
    c.setLineDash(dashes(layer, width, camera.zoom));
    c.stroke();
    c.setLineDash([]);
    if (layer.arrow) for (const ring of feature.rings) arrowHead(c, ring, width, camera);
    c.globalAlpha = 1;
  });
}

function arrowHead(
  c: CanvasRenderingContext2D,
  ring: Float64Array,
  width: number,
  camera: Camera,
): void {
  const n = ring.length;
  if (n < 4) return;
  const [x, y] = camera.toScreen(entry(ring, n - 2), entry(ring, n - 1));
  const long = 4 + 2.4 * width;
  // The direction of the last stretch that is as long as the head.
  let k = n - 4;
  let [bx, by] = camera.toScreen(entry(ring, k), entry(ring, k + 1));
  while (k > 1 && Math.hypot(x - bx, y - by) < long)
    [bx, by] = camera.toScreen(entry(ring, (k -= 2)), entry(ring, k + 1));
  const turn = Math.atan2(y - by, x - bx);
  const at = (angle: number): [number, number] => [
    x - long * Math.cos(turn + angle) + 0.5 * width * Math.cos(turn),
    y - long * Math.sin(turn + angle) + 0.5 * width * Math.sin(turn),
  ];
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
  const c = canvasContext(out);
  const image = c.createImageData(columns, rows);
  const colours = layer.colours.map((hex) =>
    [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16)),
  );
  let cell = 0;
  runs.forEach((length, k) => {
    const colour = colours[entry(layer.grid.class, k) - 1];
    for (let i = 0; i < length; i++, cell++) {
      if (!colour) continue;
      const at = 4 * ((rows - 1 - Math.floor(cell / columns)) * columns + (cell % columns));
      image.data.set([...colour, 255], at);
    }
  });
  c.putImageData(image, 0, 0);
  return out;
}

export function drawDensity(
  c: CanvasRenderingContext2D,
  layer: DensityLayer,
  picture: HTMLCanvasElement,
  camera: Camera,
): void {
  const { x0, y0, cell, columns, rows } = layer.grid;
  const [left, top] = camera.toScreen(x0, y0 + rows * cell);
  c.globalAlpha *= layer.opacity;
  c.imageSmoothingEnabled = false;
  c.drawImage(picture, left, top, columns * cell * camera.scale, rows * cell * camera.scale);
  c.globalAlpha = 1;
}
