// A grid over points: which of them lie in a box. About as many cells as points, each with the
// points that lie in it, in flat arrays.

import { add, entry } from "./entry";

export class PointIndex {
  private readonly start: Int32Array;
  private readonly items: Int32Array;
  private readonly side: number;
  private readonly box: [number, number, number, number] = [
    Infinity,
    Infinity,
    -Infinity,
    -Infinity,
  ];

  constructor(xs: readonly number[], ys: readonly number[]) {
    const n = xs.length;
    for (let i = 0; i < n; i++) {
      if (entry(xs, i) < this.box[0]) this.box[0] = entry(xs, i);
      if (entry(ys, i) < this.box[1]) this.box[1] = entry(ys, i);
      if (entry(xs, i) > this.box[2]) this.box[2] = entry(xs, i);
      if (entry(ys, i) > this.box[3]) this.box[3] = entry(ys, i);
    }
    this.side = Math.max(1, Math.min(512, Math.ceil(Math.sqrt(n / 2))));
    const cells = Int32Array.from(
      { length: n },
      (_, i) => this.row(entry(ys, i)) * this.side + this.column(entry(xs, i)),
    );
    this.start = new Int32Array(this.side * this.side + 1);
    for (const cell of cells) add(this.start, cell + 1, 1);
    for (let k = 0; k < this.side * this.side; k++) add(this.start, k + 1, entry(this.start, k));
    const next = this.start.slice();
    this.items = new Int32Array(n);
    for (let i = 0; i < n; i++) {
      const cell = entry(cells, i);
      this.items[entry(next, cell)] = i;
      add(next, cell, 1);
    }
  }

  // The last point near a position that a test accepts, -1 for none.
  last(x: number, y: number, reach: number, accepts: (i: number) => boolean): number {
    let found = -1;
    for (let row = this.row(y - reach); row <= this.row(y + reach); row++) {
      for (let column = this.column(x - reach); column <= this.column(x + reach); column++) {
        const cell = row * this.side + column;
        for (let k = entry(this.start, cell); k < entry(this.start, cell + 1); k++) {
          const i = entry(this.items, k);
          if (i > found && accepts(i)) found = i;
        }
      }
    }
    return found;
  }

  private column(x: number): number {
    return cellOf(x, this.box[0], this.box[2], this.side);
  }
  private row(y: number): number {
    return cellOf(y, this.box[1], this.box[3], this.side);
  }
}

// The cell of a value when a range is cut into so many; the first or last one beyond its ends.
export function cellOf(v: number, low: number, high: number, cells: number): number {
  const at = Math.floor(((v - low) / (high - low || 1)) * cells);
  return Math.max(0, Math.min(cells - 1, Number.isFinite(at) ? at : 0));
}
