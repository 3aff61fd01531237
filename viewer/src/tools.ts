// Tools that a publisher may give: measuring, the reader's own position, an address of the view, full screen, print.
import type { Camera } from "./camera";
import { button, element, svg } from "./elements";
import { area, distance, type Degrees } from "./geodesy";
import type { Payload } from "./payload";
import type { Projection } from "./projection";
import type { MapState } from "./state";
import { say, writeMeasured } from "./words";

// The view as a part of an address: the middle as shares of the frame, the zoom, the panel.
export function viewText(camera: Camera, state: MapState): string {
  const [x0, y0, x1, y1] = camera.frame;
  return `view=${[(camera.x - x0) / (x1 - x0), (camera.y - y0) / (y1 - y0), camera.zoom].map((v) => v.toFixed(4)).join(",")},${state.panel}${state.backdrop ? `,${state.backdrop}` : ""}`;
}

export function restoreView(hash: string, camera: Camera, state: MapState): boolean {
  const found = /[#&]view=([-\d.]+),([-\d.]+),([\d.]+),(\d+)(?:,(\d+))?/.exec(hash);
  if (!found) return false;
  const [x, y, zoom, panel, backdrop] = found.slice(1).map((v) => Number(v ?? 0));
  if (![x, y, zoom, panel].every(Number.isFinite)) return false;
  const [x0, y0, x1, y1] = camera.frame;
  camera.lookAt(x0 + x * (x1 - x0), y0 + y * (y1 - y0), zoom);
  state.setPanel(panel);
  state.setBackdrop(backdrop);
  return true;
}

export interface Tools {
  // While measuring, a press on the map is the tool's.
  press(x: number, y: number): boolean;
  draw(): void;
  end(): void;
  // A dot at a place, or at none; and words about it.
  point(at: [number, number] | null): void;
  tell(text: string | null): void;
}

export function addTools(root: HTMLElement, stage: HTMLElement, bar: HTMLElement, payload: Payload, camera: Camera, state: MapState, projection: () => Projection, redraw: () => void): Tools {
  const { words, marks } = payload;
  const note = element("p", "ochre-note", null, stage);
  note.setAttribute("role", "status");
  note.hidden = true;
  const tell = (text: string | null) => {
    note.hidden = !text;
    note.textContent = text;
  };
  const board = element("canvas", "ochre-canvas ochre-board", null, stage);
  let measuring = false;
  let places: [number, number][] = [];
  let here: [number, number] | null = null;

  const said = () => {
    if (places.length < 2) return say(words, "measure_hint");
    const degrees: Degrees[] = places.map(([x, y]) => projection().inverse(x, y));
    const legs = degrees.map((p, i) => distance(p, degrees[(i + 1) % degrees.length]) / 1000);
    const open = legs.slice(0, -1).reduce((sum, leg) => sum + leg, 0);
    // A press is as exact as a pixel is wide.
    const pixel = 0.001 / camera.scale;
    const about = (value: number, give: number) => say(words, "about", writeMeasured(value, give, marks));
    const long = say(words, "distance", about(open, pixel * Math.sqrt(2 * (degrees.length - 1))));
    if (places.length < 3) return long;
    const round = open + legs[legs.length - 1];
    const km2 = area(degrees) / 1e6;
    return `${long}, ${say(words, "area", about(km2, Math.max(pixel * round * 0.5, round > 2000 ? km2 * 1e-3 : 0)))}`;
  };
  const draw = () => {
    const dense = window.devicePixelRatio || 1;
    board.width = places.length || here ? Math.round(camera.width * dense) : 1;
    board.height = places.length || here ? Math.round(camera.height * dense) : 1;
    const c = board.getContext("2d")!;
    c.setTransform(dense, 0, 0, dense, 0, 0);
    const at = places.map(([x, y]) => camera.toScreen(x, y));
    for (const [colour, width] of [[payload.inks.rim, 5], [payload.inks.text, 2]] as const) {
      c.strokeStyle = c.fillStyle = colour;
      c.lineWidth = width;
      c.beginPath();
      at.forEach(([x, y], i) => (i ? c.lineTo(x, y) : c.moveTo(x, y)));
      c.stroke();
      for (const [x, y] of [...at, ...(here ? [camera.toScreen(...here)] : [])]) {
        c.beginPath();
        c.arc(x, y, 2 + width, 0, 2 * Math.PI);
        c.fill();
      }
    }
  };
  const end = () => {
    measuring = false;
    places = [];
    stage.classList.remove("ochre-measuring");
    tell(null);
    draw();
  };
  const acts: Record<string, [string, () => void]> = {
    measure: ["\u2194", () => {
      if (measuring) return end();
      measuring = true;
      stage.classList.add("ochre-measuring");
      tell(said());
    }],
    position: ["\u25ce", () => navigator.geolocation?.getCurrentPosition(
      ({ coords }) => {
        here = projection().forward(coords.longitude, coords.latitude);
        const [x0, y0, x1, y1] = camera.frame;
        if (here[0] < x0 || here[0] > x1 || here[1] < y0 || here[1] > y1) tell(say(words, "position_off"));
        else camera.lookAt(...here, Math.max(4, camera.zoom));
        redraw();
      },
      () => tell(say(words, "position_off")),
    ) ?? undefined],
    share: ["\u2197", () => {
      const address = `${location.href.split("#")[0]}#${viewText(camera, state)}`;
      try {
        history.replaceState(null, "", `#${viewText(camera, state)}`);
      } catch {
        // A page within another may not; the address is shown all the same.
      }
      const shown = () => tell(`${say(words, "share_this")} ${address}`);
      if (!navigator.clipboard) return shown();
      navigator.clipboard.writeText(address).then(() => tell(say(words, "shared")), shown);
    }],
    fullscreen: ["\u2922", () => void (document.fullscreenElement ? document.exitFullscreen() : root.requestFullscreen?.())],
    print: ["", () => window.print()],
  };
  for (const tool of payload.page.tools) if (acts[tool]) button(bar, say(words, tool), acts[tool][0], acts[tool][1], `ochre-tool-${tool}`);
  // No font is sure to have a sign for printing.
  const printer = bar.querySelector(".ochre-tool-print");
  if (printer) svg("path", { d: "M4 6V1h9v5M4 12H1V6h15v6h-3M4 9.5h9V16H4z", fill: "none", stroke: "currentColor", "stroke-width": 1.4 }, svg("svg", { width: 17, height: 17, viewBox: "0 0 17 17", "aria-hidden": "true" }, printer));
  return {
    press(x, y) {
      if (!measuring) return false;
      places.push([x, y]);
      tell(said());
      draw();
      return true;
    },
    draw,
    end,
    point(at) {
      here = at;
      draw();
    },
    tell,
  };
}
