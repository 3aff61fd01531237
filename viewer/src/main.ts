// Puts a map into an element: header, stage, legend, footer, and what ties them together.
import { Camera } from "./camera";
import { Painter } from "./draw";
import { element } from "./elements";
import { addButtons, listen } from "./gestures";
import { Legend } from "./legend";
import { HoverLabel, PopupCard } from "./panels";
import { checkVersion, type Payload } from "./payload";
import { PeriodBar } from "./periods";
import { Scene, type Hit } from "./scene";
import { MapState } from "./state";
import { say } from "./words";

// Maps on this page so far, for ids of their own.
let described = 0;

export interface MountedMap {
  resize(): void;
}

export function mount(root: HTMLElement, payload: Payload): MountedMap {
  root.replaceChildren();
  root.classList.add("ochre-map");
  try {
    checkVersion(payload);
  } catch (e) {
    element("p", "ochre-failure", (e as Error).message, root).setAttribute("role", "alert");
    return { resize: () => undefined };
  }
  paint(root, payload);
  const head = element("header", "ochre-head", null, root);
  element("h1", "ochre-title", payload.title, head);
  if (payload.subtitle) element("p", "ochre-subtitle", payload.subtitle, head);
  const body = element("div", `ochre-body ochre-legend-${payload.style.place ?? "beside"}`, null, root);
  const middle = element("div", "ochre-middle-column", null, body);
  const stage = element("div", "ochre-stage", null, middle);
  const side = element("aside", "ochre-legend", null, body);
  side.setAttribute("aria-label", say(payload.words, "legend"));
  const foot = element("footer", "ochre-foot", null, root);
  for (const words of [payload.note, payload.source]) if (words) element("p", "", words, foot);

  stage.tabIndex = 0;
  stage.setAttribute("role", "application");
  const said = element("p", "ochre-unseen", payload.alt, body);
  said.id = `ochre-alt-${++described}`;
  stage.setAttribute("aria-describedby", said.id);
  stage.setAttribute("aria-label", `${payload.title}. ${say(payload.words, "keys")}`);
  const base = element("canvas", "ochre-canvas", null, stage);
  const overlay = element("canvas", "ochre-canvas", null, stage);

  const state = new MapState(payload);
  const scene = new Scene(payload);
  const camera = new Camera(payload.frame);
  const painter = new Painter(scene, camera, state, base, overlay);
  const legend = new Legend(state, side);
  const label = new HoverLabel(stage, state, false);
  const popup = new PopupCard(stage, state);
  if (payload.panels && payload.panels.length > 1) new PeriodBar(state, middle);
  let marked: Hit | null = null;
  let waiting = false;

  const find = (px: number, py: number) => {
    const [x, y] = camera.toMap(px, py);
    return scene.find(x, y, 1 / camera.scale, camera.home, state, camera.zoom);
  };
  const mark = (hit: Hit | null) => {
    if (hit?.layer === marked?.layer && hit?.item === marked?.item) return;
    marked = hit;
    painter.mark(hit);
    legend.light(hit?.layer ?? null, hit?.item ?? -1);
  };
  const redraw = () => {
    if (waiting) return;
    waiting = true;
    requestAnimationFrame(() => {
      waiting = false;
      painter.draw();
      painter.mark(marked);
    });
  };
  const moved = () => {
    label.hide();
    popup.hide();
    redraw();
  };
  state.onChange((what) => {
    if (what === "panel") {
      label.hide();
      popup.hide();
      legend.light(marked?.layer ?? null, marked?.item ?? -1);
    }
    redraw();
  });

  listen(stage, camera, {
    moved,
    hover(px, py) {
      const hit = find(px, py);
      mark(hit);
      if (hit && !popup.open) label.show(payload.layers[hit.layer], hit.item, px, py);
      else label.hide();
    },
    leave() {
      mark(null);
      label.hide();
    },
    choose(px, py) {
      const hit = find(px, py);
      mark(hit);
      if (!hit || !payload.layers[hit.layer].popup) return popup.hide();
      label.hide();
      popup.show(payload.layers[hit.layer], hit.item, px, py);
    },
    escape() {
      popup.hide();
      label.hide();
      mark(null);
    },
  });
  const bar = element("div", "ochre-buttons", null, stage);
  addButtons(stage, bar, camera, moved, payload.words);

  // On a narrow screen the legend stands below the map, which then takes no more than its shape needs.
  const narrow = () => {
    const small = root.classList.toggle("ochre-narrow", root.clientWidth < 640);
    const [x0, y0, x1, y1] = payload.frame;
    stage.style.maxHeight = small ? `${Math.round((1.1 * body.clientWidth * (y1 - y0)) / (x1 - x0) + 90)}px` : "";
  };
  let size = "";
  const resize = () => {
    const now = `${stage.clientWidth} ${stage.clientHeight} ${window.devicePixelRatio}`;
    if (now === size) return;
    size = now;
    narrow();
    camera.resize(stage.clientWidth, stage.clientHeight);
    painter.resize();
    legend.resize(camera.home);
    label.hide();
    popup.hide();
    painter.draw();
    painter.mark(marked);
  };
  narrow();
  camera.resize(stage.clientWidth, stage.clientHeight);
  camera.reset();
  resize();
  const watch = new ResizeObserver(() => {
    narrow();
    resize();
  });
  watch.observe(root);
  watch.observe(stage);
  return { resize };
}

// The page's colours are the plan's.
function paint(root: HTMLElement, payload: Payload): void {
  const { inks } = payload;
  root.lang = payload.locale;
  root.classList.toggle("ochre-dark", payload.ground === "dark");
  for (const [name, colour] of Object.entries({ "--paper": inks.ground, "--ink": inks.text, "--soft": inks.soft, "--faint": inks.faint })) root.style.setProperty(name, colour);
}

declare global {
  interface Window {
    ochreMap?: { mount: typeof mount };
  }
}

if (typeof window !== "undefined") {
  window.ochreMap = { mount };
  const start = () => {
    const data = document.getElementById("ochre-plan");
    const root = document.getElementById("ochre-map");
    if (data?.textContent && root) mount(root, JSON.parse(data.textContent) as Payload);
  };
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", start);
  else start();
}
