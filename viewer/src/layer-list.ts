// The list of layers: what is shown, in which order, how solid. Open where there is room, folded on a narrow page.
import { button, element } from "./elements";
import type { Layer } from "./payload";
import { areaPanel, type MapState } from "./state";
import { say } from "./words";

export class LayerList {
  private readonly list: HTMLElement;
  private swatches = new Map<number, HTMLElement>();
  readonly box: HTMLDetailsElement;

  constructor(private readonly state: MapState, parent: HTMLElement) {
    this.box = element("details", "ochre-layers", null, parent);
    element("summary", "", say(state.payload.words, "layers"), this.box);
    this.list = element("ul", "", null, this.box);
    this.box.addEventListener("keydown", (e) => e.stopPropagation());
    this.render();
    state.onChange((what) => (what === "look" || what === "panel") && this.paint());
  }

  // Swatches as the layers look now.
  private paint(): void {
    this.swatches.forEach((swatch, i) => {
      const colours = coloursOf(this.state.payload.layers[i], this.state.panel);
      const share = 100 / colours.length;
      swatch.style.backgroundImage = `linear-gradient(to right, ${colours.map((c, k) => `${c} ${k * share}% ${(k + 1) * share}%`).join(", ")})`;
      swatch.style.opacity = String(this.state.opacity[i]);
    });
  }

  private render(): void {
    const { state } = this;
    const { words, layers } = state.payload;
    this.list.replaceChildren();
    this.swatches.clear();
    // The topmost stands first.
    [...state.order].reverse().forEach((i) => {
      const layer = layers[i];
      const row = element("li", "ochre-layer", null, this.list);
      const label = element("label", "", null, row);
      const box = element("input", "", null, label);
      box.type = "checkbox";
      box.checked = !state.hidden.has(i);
      box.setAttribute("aria-label", say(words, "show_layer", layer.name));
      box.addEventListener("change", () => {
        if (box.checked) state.hidden.delete(i);
        else state.hidden.add(i);
        state.tell("layers");
      });
      const swatch = element("span", `ochre-layer-swatch ochre-layer-${layer.kind}`, layer.kind === "labels" ? "Aa" : null, label);
      swatch.setAttribute("aria-hidden", "true");
      if (layer.kind !== "labels") this.swatches.set(i, swatch);
      element("span", "", layer.name, label);
      const slider = element("input", "ochre-solid", null, row);
      slider.type = "range";
      slider.min = "10";
      slider.max = "100";
      slider.value = String(Math.round(100 * state.opacity[i]));
      slider.setAttribute("aria-label", say(words, "opacity", layer.name));
      slider.addEventListener("input", () => {
        state.opacity[i] = Number(slider.value) / 100;
        state.tell("look");
      });
      const move = (by: number, key: string, sign: string) => {
        const at = state.order.indexOf(i);
        const to = at + by;
        const out = button(row, say(words, key, layer.name), sign, () => {
          [state.order[at], state.order[to]] = [state.order[to], state.order[at]];
          this.render();
          state.tell("layers");
        }, "ochre-small");
        out.disabled = to < 0 || to >= state.order.length;
      };
      move(1, "up", "\u2191");
      move(-1, "down", "\u2193");
    });
    this.paint();
  }
}

function coloursOf(layer: Layer, panel: number): string[] {
  if (layer.kind === "areas") return areaPanel(layer, panel)!.colours ?? layer.colours;
  if (layer.kind === "heat" || layer.kind === "density") return layer.colours;
  if (layer.kind === "symbols" || layer.kind === "lines") return layer.key?.colours ?? [layer.colour];
  return [];
}
