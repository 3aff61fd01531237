// A heat surface: each point is spread over a circle of so many pixels (Silverman's quartic
// kernel), on a grid that is anchored on the map, so that it keeps still while the map is moved.
// Colours run up to the fullest place at this zoom, wherever the view is.
import { canvasContext } from "./elements";
import type { Camera } from "./camera";
import { add, entry } from "./entry";
import type { HeatLayer } from "./plan";

const FINE = 6; // cells in a radius
const LEAST = 0.04; // share of the highest below which nothing is drawn
const SHADES = 256;

// What the fullest place would have: the most weight in any square of one radius, spread evenly
// over it.
export function fullest(layer: HeatLayer, side: number): number {
  const cells = new Map<number, number>();
  let most = 0;
  for (let i = 0; i < layer.x.length; i++) {
    const key =
      Math.floor(entry(layer.x, i) / side) * 2 ** 26 + Math.floor(entry(layer.y, i) / side);
    const sum = (cells.get(key) ?? 0) + (layer.weight ? entry(layer.weight, i) : 1);
    cells.set(key, sum);
    if (sum > most) most = sum;
  }
  return (most * Math.PI) / 3;
}

// Sums of the kernel on a grid of columns by rows, from weights in its cells.
export function spread(
  weights: Float32Array,
  columns: number,
  rows: number,
  radius: number,
): Float32Array {
  const steps: [number, number, number][] = [];
  for (let dy = -Math.floor(radius); dy <= radius; dy++) {
    for (let dx = -Math.floor(radius); dx <= radius; dx++) {
      const share = 1 - (dx * dx + dy * dy) / (radius * radius);
      if (share > 0) steps.push([dx, dy, share * share]);
    }
  }
  const out = new Float32Array(columns * rows);
  const edge = Math.floor(radius);
  for (let at = 0; at < weights.length; at++) {
    const weight = entry(weights, at);
    if (weight === 0) continue;
    const x = at % columns;
    const y = (at - x) / columns;
    const inside = x >= edge && y >= edge && x < columns - edge && y < rows - edge;
    for (const [dx, dy, share] of steps) {
      if (inside || (x + dx >= 0 && x + dx < columns && y + dy >= 0 && y + dy < rows))
        add(out, at + dy * columns + dx, weight * share);
    }
  }
  return out;
}

// Colours between the given ones, clear at the lower end.
export function shades(colours: string[]): Uint32Array {
  const known = colours.map((hex) => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16)));
  return Uint32Array.from({ length: SHADES }, (_, i) => {
    const share = i / (SHADES - 1);
    if (share < LEAST) return 0;
    const at = share * (known.length - 1);
    const low = Math.min(known.length - 2, Math.floor(at));
    const [r = 0, g = 0, b = 0] = entry(known, low).map((v, k) =>
      Math.round(v + (entry(entry(known, low + 1), k) - v) * (at - low)),
    );
    const alpha = Math.round(255 * Math.min(1, (share - LEAST) / 0.12 + 0.15));
    return ((alpha << 24) | (b << 16) | (g << 8) | r) >>> 0;
  });
}

export class HeatPainter {
  private readonly canvas = document.createElement("canvas");
  private readonly scales = new Map<number, number>();
  private colours: Uint32Array;

  constructor(private readonly layer: HeatLayer) {
    this.colours = shades(layer.colours);
  }

  draw(c: CanvasRenderingContext2D, camera: Camera): void {
    const { layer } = this;
    const cell = Math.max(2, layer.radius / FINE);
    const edge = Math.ceil(layer.radius / cell) + 1;
    const side = cell / camera.scale;
    const [left, top] = camera.toMap(0, 0);
    const x0 = Math.floor(left / side) - edge;
    const y0 = Math.floor(-top / side) - edge;
    const columns = Math.ceil(camera.width / cell) + 2 * edge + 1;
    const rows = Math.ceil(camera.height / cell) + 2 * edge + 1;
    const weights = new Float32Array(columns * rows);
    for (let i = 0; i < layer.x.length; i++) {
      const column = Math.floor(entry(layer.x, i) / side) - x0;
      const row = Math.floor(-entry(layer.y, i) / side) - y0;
      if (column >= 0 && row >= 0 && column < columns && row < rows)
        add(weights, row * columns + column, layer.weight ? entry(layer.weight, i) : 1);
    }
    const values = spread(weights, columns, rows, layer.radius / cell);
    const most = this.scale(camera);
    if (this.canvas.width !== columns || this.canvas.height !== rows)
      [this.canvas.width, this.canvas.height] = [columns, rows];
    const small = canvasContext(this.canvas);
    const image = small.createImageData(columns, rows);
    const pixels = new Uint32Array(image.data.buffer);
    for (let i = 0; i < values.length; i++)
      if (entry(values, i) > 0)
        pixels[i] = entry(
          this.colours,
          Math.min(SHADES - 1, Math.floor((SHADES * entry(values, i)) / most)),
        );
    small.putImageData(image, 0, 0);
    const [px, py] = camera.toScreen(x0 * side, -y0 * side);
    c.globalAlpha *= layer.opacity;
    c.imageSmoothingEnabled = true;
    c.drawImage(this.canvas, px, py, columns * cell, rows * cell);
    c.globalAlpha = 1;
  }

  // Made anew with each fourth of a doubling of the zoom.
  private scale(camera: Camera): number {
    const step = Math.round(4 * Math.log2(camera.zoom));
    let known = this.scales.get(step);
    if (known === undefined)
      this.scales.set(
        step,
        (known = fullest(this.layer, this.layer.radius / (camera.home * 2 ** (step / 4))) || 1),
      );
    return known;
  }

  // The scale follows the size of the page.
  forget(): void {
    this.scales.clear();
    this.colours = shades(this.layer.colours);
  }
}
