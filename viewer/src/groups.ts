// Many points as counted circles: those that lie in one cell of a grid of so many pixels are one
// group, until the reader comes near enough. The grid is anchored on the map, and its cells
// change by steps of the zoom, so that groups keep still while the map is moved.

import { entry } from "./entry";

export interface Group {
  x: number; // the middle of its points, in map units
  y: number;
  items: number[];
  box: [number, number, number, number];
}

const CELL = 56; // pixels
const STEPS = 2; // cells halve in area with each step of the zoom

// The zoom that groups are made for.
export function groupZoom(zoom: number): number {
  return 2 ** (Math.floor(STEPS * Math.log2(zoom) + 1e-9) / STEPS);
}

// `side` is the length of a cell in map units.
export function groupPoints(
  xs: number[],
  ys: number[],
  shown: (i: number) => boolean,
  side: number,
): Group[] {
  const cells = new Map<string, Group>();
  for (let i = 0; i < xs.length; i++) {
    if (!shown(i)) continue;
    const [x, y] = [entry(xs, i), entry(ys, i)];
    const key = `${Math.floor(x / side)} ${Math.floor(y / side)}`;
    const group = cells.get(key);
    if (!group) cells.set(key, { x, y, items: [i], box: [x, y, x, y] });
    else {
      const n = group.items.push(i);
      group.x += (x - group.x) / n;
      group.y += (y - group.y) / n;
      group.box = [
        Math.min(group.box[0], x),
        Math.min(group.box[1], y),
        Math.max(group.box[2], x),
        Math.max(group.box[3], y),
      ];
    }
  }
  return [...cells.values()];
}

// Points on one spot cannot be told apart by coming nearer.
export const opens = (group: Group): boolean =>
  group.items.length > 1 && (group.box[0] < group.box[2] || group.box[1] < group.box[3]);

export const cellSide = (zoom: number, home: number): number => CELL / (home * groupZoom(zoom));

// Larger for more, in pixels.
export const groupRadius = (n: number): number => Math.min(26, 10 + 4.5 * Math.log10(n));
