// The list of layers: what is shown, in which order, how solid. Open where there is room, folded
// on a narrow page.
import { button, element } from "./elements";
import { entry } from "./entry";
import type { Layer } from "./plan";
import { type MapState, panelOf } from "./state";
import { say } from "./words";

export class LayerList {
  private readonly list: HTMLElement;
  private swatches = new Map<number, HTMLElement>();
  readonly box: HTMLDetailsElement;

  constructor(
    private readonly state: MapState,
    parent: HTMLElement,
  ) {
    this.box = element("details", "ochre-layers", null, parent);
    element("summary", "", say(state.payload.words, "layers"), this.box);
    this.list = element("ul", "", null, this.box);
    this.box.addEventListener("keydown", (e) => e.stopPropagation());
    this.render();
    state.on(["look", "panel"], () => this.paint());
  }

  // Swatches as the layers look now.
  private paint(): void {
    this.swatches.forEach((swatch, i) => {
      const colours = coloursOf(entry(this.state.payload.layers, i), this.state.panel);
      const share = 100 / colours.length;
      const parts = colours.map((c, k) => `${c} ${k * share}% ${(k + 1) * share}%`);
      swatch.style.backgroundImage = `linear-gradient(to right, ${parts.join(", ")})`;
      swatch.style.opacity = String(this.state.opacity[i]);
    });
  }

  private render(): void {
    this.list.replaceChildren();
    this.swatches.clear();
    // The topmost stands first.
    for (const i of [...this.state.order].reverse()) this.row(i);
    this.paint();
  }

  private row(i: number): void {
    const layer = entry(this.state.payload.layers, i);
    if (!layer.name) return;
    const row = element("li", "ochre-layer", null, this.list);
    const label = element("label", "", null, row);
    this.addSwitch(i, layer, label);
    const sign = layer.kind === "labels" ? "Aa" : null;
    const kind = `ochre-layer-swatch ochre-layer-${layer.kind}`;
    const swatch = element("span", kind, sign, label);
    swatch.setAttribute("aria-hidden", "true");
    if (layer.kind !== "labels") this.swatches.set(i, swatch);
    element("span", "", layer.name, label);
    this.addOpacity(i, layer, row);
    this.addMove(i, 1, row);
    this.addMove(i, -1, row);
  }

  private addSwitch(i: number, layer: Layer, label: HTMLElement): void {
    const { state } = this;
    const box = element("input", "", null, label);
    box.type = "checkbox";
    box.checked = !state.hidden.has(i);
    box.setAttribute("aria-label", say(state.payload.words, "show_layer", layer.name));
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
    };
    const out = button(row, words, by > 0 ? "\u2191" : "\u2193", move, "ochre-small");
    out.disabled = to < 0 || to >= order.length;
  }
}

function coloursOf(layer: Layer, panel: number): string[] {
  if (layer.kind === "areas") return panelOf(layer, panel).colours ?? layer.colours;
  if (layer.kind === "heat" || layer.kind === "density") return layer.colours;
  if (layer.kind === "symbols" || layer.kind === "lines")
    return layer.key?.colours ?? [layer.colour];
  return [];
}
