// What the reader sees as a part of an address, and back: the view, the period, the backdrop,
// layers and classes that are off, how solid layers are, and what is chosen. Each map of a page has
// a part of its own, by the id of its element.
import type { Camera } from "./camera";
import { itemOf, keyOf } from "./items";
import type { Hit } from "./scene";
import type { MapState } from "./state";

// The names of a map's own parts begin with its id; those of a page of its own do not.
const prefix = (id: string): string => (id && id !== "ochre-map" ? `${id}.` : "");

export function viewText(camera: Camera, state: MapState, chosen: Hit | null, id = ""): string {
  const [x0, y0, x1, y1] = camera.frame;
  const middle = [(camera.x - x0) / (x1 - x0), (camera.y - y0) / (y1 - y0)];
  const { layers } = state.payload;
  const off = layers.flatMap((_, i) => (state.offText(i) ? [`${i}:${state.offText(i)}`] : []));
  const faint = state.opacity.flatMap((v, i) =>
    v === (layers[i]?.show?.opacity ?? 1) ? [] : [`${i}:${Math.round(100 * v)}`],
  );
  const hidden = [...state.hidden].sort((a, b) => a - b);
  const first = layers.flatMap((l, i) => (l.show?.off ? [i] : []));
  const layer = chosen && !chosen.group ? layers[chosen.layer] : undefined;
  const parts: [string, string | null][] = [
    ["view", [...middle, camera.zoom].map((v) => v.toFixed(4)).join()],
    ["period", state.payload.panels ? String(state.panel) : null],
    ["backdrop", state.backdrop ? String(state.backdrop) : null],
    ["hidden", hidden.join() === first.join() ? null : hidden.join()],
    ["classes", off.join(";") || null],
    ["solid", faint.join(";") || null],
    ["chosen", layer && chosen ? `${chosen.layer}:${keyOf(layer, chosen.item)}` : null],
  ];
  return parts
    .flatMap(([name, text]) =>
      text === null ? [] : [`${prefix(id)}${name}=${encodeURIComponent(text)}`],
    )
    .join("&");
}

// The address with the parts of one map exchanged for others; those of other maps stay.
export function withView(hash: string, text: string, id: string): string {
  const own = prefix(id);
  const others = hash
    .replace(/^#/, "")
    .split("&")
    .filter((part) => part && !(own ? part.startsWith(own) : /^[a-z]+=/.test(part)));
  return `#${[...others, text].join("&")}`;
}

export interface Restored {
  found: boolean;
  chosen: Hit | null;
  // What is chosen, as it stands in the address: it may come later.
  said: string | null;
}

export function restoreView(hash: string, camera: Camera, state: MapState, id = ""): Restored {
  const own = prefix(id);
  const parts = new Map<string, string>();
  for (const part of hash.replace(/^#/, "").split("&")) {
    const [name = "", text = ""] = part.split("=");
    if (!name.startsWith(own)) continue;
    try {
      parts.set(name.slice(own.length), decodeURIComponent(text));
    } catch {
      // What cannot be read is not of a map.
    }
  }
  const [x = NaN, y = NaN, zoom = NaN] = (parts.get("view") ?? "").split(",").map(Number);
  if (![x, y, zoom].every(Number.isFinite)) return { found: false, chosen: null, said: null };
  const [x0, y0, x1, y1] = camera.frame;
  camera.lookAt(x0 + x * (x1 - x0), y0 + y * (y1 - y0), zoom);
  const number = (name: string) => Number(parts.get(name) ?? NaN);
  if (Number.isFinite(number("period"))) state.setPanel(number("period"));
  if (Number.isFinite(number("backdrop"))) state.setBackdrop(number("backdrop"));
  restoreLayers(parts, state);
  const said = parts.get("chosen") ?? null;
  return { found: true, chosen: chosenOf(said, state), said };
}

function restoreLayers(parts: Map<string, string>, state: MapState): void {
  const { layers } = state.payload;
  const hidden = parts.get("hidden");
  if (hidden !== undefined)
    state.setHidden(hidden.split(",").flatMap((v) => (v && layers[Number(v)] ? [Number(v)] : [])));
  state.setOff(listsOf(parts.get("classes")).filter(([i]) => layers[i]));
  for (const [i, [share = NaN]] of listsOf(parts.get("solid")))
    if (layers[i] && share >= 10 && share <= 100) state.opacity[i] = share / 100;
  state.tell("layers");
}

// "2:1,3;4:0" as numbers.
function listsOf(text = ""): [number, number[]][] {
  return text
    .split(";")
    .filter(Boolean)
    .map((part) => {
      const [at = "", list = ""] = part.split(":");
      return [Number(at), list.split(",").map(Number)];
    });
}

export function chosenOf(text: string | null, state: MapState): Hit | null {
  const found = /^(\d+):(.*)$/.exec(text ?? "");
  const at = Number(found?.[1]);
  const layer = state.payload.layers[at];
  if (!found || !layer) return null;
  const item = itemOf(layer, found[2] ?? "");
  return item < 0 ? null : { layer: at, item };
}
