// The list of layers: what is shown, and behind one small control in which order and how solid.
import { button, element } from "./elements";
import { entry } from "./entry";
import type { Layer } from "./plan";
import type { MapState } from "./state";
import { say } from "./words";

export class LayerList {
  private readonly list: HTMLElement;
  private readonly adjust: HTMLButtonElement;

  constructor(
    private readonly state: MapState,
    parent: HTMLElement,
  ) {
    const { words, layers } = state.payload;
    const box = element("details", "ochre-layers", null, parent);
    // What is off at first can only be found here.
    box.open = layers.some((layer) => layer.show?.off);
    element("summary", "", say(words, "layers"), box);
    this.list = element("ul", "", null, box);
    const label = say(words, "adjust");
    this.adjust = button(box, label, label, () => this.toggle(), "ochre-adjust");
    this.adjust.setAttribute("aria-expanded", "false");
    box.addEventListener("keydown", (e) => e.stopPropagation());
    this.render();
    state.on(["layers"], () => this.check());
  }

  private get adjusting(): boolean {
    return this.adjust.getAttribute("aria-expanded") === "true";
  }

  private toggle(): void {
    this.adjust.setAttribute("aria-expanded", String(!this.adjusting));
    this.render();
  }

  private check(): void {
    this.list.querySelectorAll<HTMLInputElement>("[data-layer]").forEach((box) => {
      box.checked = !this.state.hidden.has(Number(box.dataset["layer"]));
    });
  }

  private render(): void {
    this.list.replaceChildren();
    // The topmost stands first.
    for (const i of [...this.state.order].reverse()) this.row(i);
  }

  private row(i: number): void {
    const layer = entry(this.state.payload.layers, i);
    if (!layer.name) return;
    const row = element("li", "ochre-layer", null, this.list);
    const label = element("label", "", null, row);
    this.addSwitch(i, label);
    element("span", "", layer.name, label);
    if (!this.adjusting) return;
    this.addOpacity(i, layer, row);
    this.addMove(i, 1, row);
    this.addMove(i, -1, row);
  }

  private addSwitch(i: number, label: HTMLElement): void {
    const { state } = this;
    const box = element("input", "", null, label);
    box.type = "checkbox";
    box.checked = !state.hidden.has(i);
    box.dataset["layer"] = String(i);
    box.addEventListener("change", () => {
      if (box.checked) state.hidden.delete(i);
      else state.hidden.add(i);
      state.tell("layers");
    });
  }

  private addOpacity(i: number, layer: Layer, row: HTMLElement): void {
    const { state } = this;
    const slider = element("input", "ochre-opacity", null, row);
    slider.type = "range";
    slider.min = "10";
    slider.max = "100";
    slider.value = String(Math.round(100 * entry(state.opacity, i)));
    slider.setAttribute("aria-label", say(state.payload.words, "opacity", layer.name));
    slider.addEventListener("input", () => {
      state.opacity[i] = Number(slider.value) / 100;
      state.tell("look");
    });
  }

  // A button that moves a layer up (1) or down (-1).
  private addMove(i: number, by: 1 | -1, row: HTMLElement): void {
    const { order, payload } = this.state;
    const at = order.indexOf(i);
    const to = at + by;
    const words = say(payload.words, by > 0 ? "up" : "down", entry(payload.layers, i).name);
    const move = () => {
      [order[at], order[to]] = [entry(order, to), entry(order, at)];
      this.render();
      this.state.tell("layers");
      const again = this.list.querySelector<HTMLElement>(`[aria-label="${CSS.escape(words)}"]`);
      again?.focus();
    };
    const out = button(row, words, by > 0 ? "\u2191" : "\u2193", move, "ochre-small");
    out.disabled = to < 0 || to >= order.length;
  }
}
