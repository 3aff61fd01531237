// Drawing labels: those that find room, in the ink that stands out from what lies under them.
import type { Camera } from "./camera";
import { entry } from "./entry";
import { placeLabels, type Disc } from "./labels";
import type { NamesLayer } from "./plan";
import type { MapState } from "./state";
import { atZoom } from "./zoom";

const MOST_LABELS = 3000;

// The colours of a label and its halo, on the area under it as that is drawn now.
export function labelInk(
  layer: NamesLayer,
  i: number,
  state: MapState,
  zoom: number,
): [string, string | null] {
  const over = layer.over?.[i] ?? -1;
  const panel = layer.ink?.[Math.min(state.panel, layer.ink.length - 1)];
  const ink = panel?.[i];
  if (over < 0 || ink === undefined || !layer.inks || !state.shownAt(over, zoom))
    return [layer.colour, layer.halo];
  return [entry(layer.inks, ink), layer.halos?.[ink] ?? layer.halo];
}

// What labels are drawn in: the camera, what the reader has set, widths that were measured before.
export interface LabelPlace {
  camera: Camera;
  state: MapState;
  widths: Map<string, number>;
  // Symbols that they keep clear of, and how much larger those are than on the whole map.
  discs: Disc[];
  grown: number;
}

export function drawLabels(
  c: CanvasRenderingContext2D,
  layer: NamesLayer,
  place: LabelPlace,
): number {
  const { camera, state, discs } = place;
  const size = 13 * atZoom(layer.zoomed?.size, camera.zoom, layer.scale);
  c.font = `${layer.bold ? "700 " : ""}${size}px system-ui, sans-serif`;
  c.textAlign = "center";
  c.textBaseline = "middle";
  const { shown, wishes } = wished(c, layer, size, place);
  const places = placeLabels(wishes, discs, camera.width, camera.height);
  c.lineJoin = "round";
  places.forEach((at, k) => {
    if (!at) return;
    const text = entry(layer.text, entry(shown, k));
    const [ink, halo] = labelInk(layer, entry(shown, k), state, camera.zoom);
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

// Labels in view, and the room that each asks for.
function wished(
  c: CanvasRenderingContext2D,
  layer: NamesLayer,
  size: number,
  { camera, widths, grown }: LabelPlace,
) {
  const shown: number[] = [];
  const wishes = [];
  for (let i = 0; i < layer.text.length && shown.length < MOST_LABELS; i++) {
    const [x, y] = camera.toScreen(entry(layer.x, i), entry(layer.y, i));
    if (x < 0 || y < 0 || x > camera.width || y > camera.height) continue;
    shown.push(i);
    const gap = layer.centred ? 0 : Math.max(entry(layer.r, i) * camera.home * grown, 1.5) + 3;
    wishes.push({
      x,
      y,
      width: textWidth(c, entry(layer.text, i), widths),
      height: 1.2 * size,
      gap,
    });
  }
  return { shown, wishes };
}

function textWidth(c: CanvasRenderingContext2D, text: string, known: Map<string, number>): number {
  const key = `${c.font} ${text}`;
  const width = known.get(key) ?? c.measureText(text).width + 3;
  known.set(key, width);
  return width;
}
