// Where labels stand so that none lies on another or on a symbol: the same rule as
// src/core/labels.hpp. Labels are placed one after the other, the most important first; each
// takes the first of its places that is free, and is left out when none is.

export interface Wish {
  x: number; // where the thing is, in pixels
  y: number;
  width: number;
  height: number;
  gap: number; // how far the text keeps from a point's middle; 0 in an area
}
export interface Disc {
  x: number;
  y: number;
  r: number;
}

// Of the text's middle: half widths and half heights beside the gap, y downward.
const AROUND: [number, number][] = [
  [0.72, -0.72],
  [1, 0],
  [0.72, 0.72],
  [-0.72, -0.72],
  [-1, 0],
  [-0.72, 0.72],
  [0, -1],
  [0, 1],
];
const WITHIN: [number, number][] = [
  [0, 0],
  [0, -0.7],
  [0, 0.7],
  [0.35, 0],
  [-0.35, 0],
  [0, -1.4],
  [0, 1.4],
  [0.35, -0.7],
  [-0.35, -0.7],
  [0.35, 0.7],
  [-0.35, 0.7],
];

type Box = [number, number, number, number];

// What is taken, in square cells; a thing is entered in each cell that it touches.
class Taken {
  private readonly cells = new Map<number, (Box | Disc)[]>();
  constructor(private readonly side: number) {}
  add(what: Box | Disc): void {
    const box: Box = Array.isArray(what)
      ? what
      : [what.x - what.r, what.y - what.r, what.x + what.r, what.y + what.r];
    this.visit(box, (key) => {
      const cell = this.cells.get(key);
      if (cell) cell.push(what);
      else this.cells.set(key, [what]);
      return false;
    });
  }
  free(box: Box): boolean {
    return !this.visit(box, (key) =>
      (this.cells.get(key) ?? []).some((other) =>
        Array.isArray(other)
          ? box[0] < other[2] && other[0] < box[2] && box[1] < other[3] && other[1] < box[3]
          : touches(box, other),
      ),
    );
  }
  private visit(box: Box, see: (key: number) => boolean): boolean {
    for (let row = Math.floor(box[1] / this.side); row <= Math.floor(box[3] / this.side); row++) {
      for (
        let column = Math.floor(box[0] / this.side);
        column <= Math.floor(box[2] / this.side);
        column++
      )
        if (see(row * 65536 + column)) return true;
    }
    return false;
  }
}

function touches(box: Box, disc: Disc): boolean {
  const dx = Math.max(box[0] - disc.x, 0, disc.x - box[2]);
  const dy = Math.max(box[1] - disc.y, 0, disc.y - box[3]);
  return dx * dx + dy * dy < disc.r * disc.r;
}

// The middle of each text, or null for one that has no room within the view.
export function placeLabels(
  wishes: Wish[],
  discs: Disc[],
  width: number,
  height: number,
): ([number, number] | null)[] {
  const taken = new Taken(3 * Math.max(8, ...wishes.slice(0, 50).map((w) => w.height)));
  for (const disc of discs)
    if (disc.x > -disc.r && disc.y > -disc.r && disc.x < width + disc.r && disc.y < height + disc.r)
      taken.add(disc);
  return wishes.map((w) => {
    if (w.x < -w.width || w.y < -w.height || w.x > width + w.width || w.y > height + w.height)
      return null;
    for (const [ox, oy] of w.gap > 0 ? AROUND : WITHIN) {
      const x = w.x + (w.gap > 0 ? ox * w.gap + Math.sign(ox) * 0.5 * w.width : ox * w.width);
      const y =
        w.y +
        (w.gap > 0
          ? oy * w.gap + (ox === 0 ? Math.sign(oy) * 0.5 : 0.5 * oy) * w.height
          : oy * w.height);
      const box: Box = [x - w.width / 2, y - w.height / 2, x + w.width / 2, y + w.height / 2];
      if (box[0] < 0 || box[1] < 0 || box[2] > width || box[3] > height || !taken.free(box))
        continue;
      taken.add(box);
      return [x, y];
    }
    return null;
  });
}
