// What a map is drawn on: how many of its pixels are one CSS pixel, paths of its kind, and, where
// it has no canvases of its own, how a layer becomes faint as a whole.
import type { Camera } from "./camera";

export interface Surface {
  dense: number;
  path: () => Path2D;
  open?: (opacity: number) => void;
  close?: () => void;
}

export const screen = (): Surface => ({
  dense: window.devicePixelRatio || 1,
  path: () => new Path2D(),
});

// Coordinates are CSS pixels from here on.
export function flat(c: CanvasRenderingContext2D, { dense }: Surface): void {
  c.setTransform(dense, 0, 0, dense, 0, 0);
}

// Coordinates are map units from here on.
export function mapped(c: CanvasRenderingContext2D, { dense }: Surface, camera: Camera): void {
  const { scale, x, y, width, height } = camera;
  const s = scale * dense;
  c.setTransform(s, 0, 0, -s, (width / 2) * dense - x * s, (height / 2) * dense + y * s);
}
