// Which backdrop a reader has picked, and what lies over it: the views and their lists.
import { BackdropView, type Shown } from "./backdrop";
import type { Camera } from "./camera";
import { element } from "./elements";
import { entry } from "./entry";
import type { Backdrop } from "./plan";
import type { MapState } from "./state";
import { say } from "./words";

// The views of what lies under the data, the lowest last: the backdrop that was picked, and what
// lies over it.
export function backdropViews(
  stage: HTMLElement,
  below: HTMLElement,
  camera: Camera,
  state: MapState,
): BackdropView[] {
  const { backdrops, overlays, words } = state.payload;
  const opacityOf = (b: Backdrop) => (b.kind === "plain" ? 1 : b.opacity);
  const make = (shown: () => Shown | null) => new BackdropView(stage, below, camera, words, shown);
  const over = overlays.map((backdrop, i) =>
    make(() => {
      const opacity = entry(state.overlays, i);
      return opacity > 0 ? { backdrop, opacity } : null;
    }),
  );
  if (!backdrops.length) return over;
  const base = make(() => {
    const backdrop = entry(backdrops, state.backdrop);
    return { backdrop, opacity: opacityOf(backdrop) };
  });
  return [...over, base];
}

// Pictures that a reader lays over the backdrop, each with a switch and how solid it is.
export function overlayList(state: MapState, parent: HTMLElement): void {
  const list = state.payload.overlays;
  if (!list.length) return;
  const { words } = state.payload;
  const box = element("fieldset", "ochre-backdrops ochre-overlays", null, parent);
  element("legend", "", say(words, "overlays"), box);
  list.forEach((overlay, i) => {
    const label = element("label", "", null, box);
    const input = element("input", "", null, label);
    input.type = "checkbox";
    element("span", "", overlay.name, label);
    const slider = element("input", "ochre-opacity", null, box);
    slider.type = "range";
    slider.min = "5";
    slider.max = "100";
    slider.value = String(Math.round(100 * overlay.opacity));
    slider.setAttribute("aria-label", say(words, "opacity", overlay.name));
    const set = () => {
      slider.hidden = !input.checked;
      state.overlays[i] = input.checked ? Number(slider.value) / 100 : 0;
      state.tell("overlays");
    };
    slider.hidden = true;
    input.addEventListener("change", set);
    slider.addEventListener("input", set);
  });
  box.addEventListener("keydown", (e) => e.stopPropagation());
}

// The list that a reader picks from, where there are several.
export function backdropList(state: MapState, parent: HTMLElement): void {
  const list = state.payload.backdrops;
  if (list.length < 2) return;
  const box = element("fieldset", "ochre-backdrops", null, parent);
  element("legend", "", say(state.payload.words, "backdrop"), box);
  const group = `ochre-backdrop-${++lists}`;
  const inputs = list.map((b, i) => {
    const label = element("label", "", null, box);
    const input = element("input", "", null, label);
    input.type = "radio";
    input.name = group;
    input.addEventListener("change", () => state.setBackdrop(i));
    element("span", "", b.name, label);
    return input;
  });
  const show = () => inputs.forEach((input, i) => (input.checked = i === state.backdrop));
  show();
  state.on(["backdrop"], show);
  box.addEventListener("keydown", (e) => e.stopPropagation());
}
let lists = 0;
