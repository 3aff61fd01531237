// The legend in a corner of the map, where it covers nothing that is drawn.
import type { Camera } from "./camera";
import type { Frame } from "./frame";

const STEP = 12; // pixels between the places that are asked
const GAP = 8; // pixels to the edges of the map

export interface Size {
  width: number;
  height: number;
}

// The upper left point of a box in the first corner where no place of it is covered: upper right,
// upper left, lower left, lower right.
function freeCorner(
  map: Size,
  box: Size,
  covered: (x: number, y: number) => boolean,
): { x: number; y: number } | null {
  if (box.width + 2 * GAP > 0.45 * map.width || box.height + 2 * GAP > map.height) return null;
  const right = map.width - box.width - GAP;
  const low = map.height - box.height - GAP;
  const corners = [
    { x: right, y: GAP },
    { x: GAP, y: GAP },
    { x: GAP, y: low },
    { x: right, y: low },
  ];
  return corners.find((at) => isFree(at, box, covered)) ?? null;
}

function isFree(
  at: { x: number; y: number },
  box: Size,
  covered: (x: number, y: number) => boolean,
): boolean {
  for (let y = at.y; y < at.y + box.height + STEP; y += STEP)
    for (let x = at.x; x < at.x + box.width + STEP; x += STEP)
      if (covered(Math.min(x, at.x + box.width), Math.min(y, at.y + box.height))) return false;
  return true;
}

// Puts the legend there, if it may lie on the map at all and a corner is free; false where it may
// not.
export function placeInCorner(
  { body, side, stage }: Frame,
  camera: Camera,
  may: boolean,
  covers: (px: number, py: number) => boolean,
): boolean {
  const aside = side.parentElement;
  if (!aside) return false;
  const fit = () => camera.resize(stage.clientWidth, stage.clientHeight);
  body.classList.toggle("ochre-in-corner", may);
  fit();
  if (!may) return false;
  const at = freeCorner(camera, aside.getBoundingClientRect(), covers);
  body.classList.toggle("ochre-in-corner", at !== null);
  aside.style.left = at ? `${at.x}px` : "";
  aside.style.top = at ? `${at.y}px` : "";
  fit();
  return true;
}
