// Beside the map: totals as cards, and the areas with the highest values as bars that are linked
// with the map both ways.
import { element } from "./elements";
import { entry } from "./entry";
import { counts, named, valuesOf } from "./items";
import { classOf } from "./panels";
import type { Layer } from "./plan";
import { type MapState } from "./state";
import { say } from "./words";

export function cards(state: MapState, parent: HTMLElement): void {
  const box = element("dl", "ochre-cards", null, parent);
  const show = () => {
    box.replaceChildren();
    const all = state.payload.page.cards ?? [];
    for (const { label, value } of all[Math.min(state.panel, all.length - 1)] ?? []) {
      const card = element("div", "ochre-card", null, box);
      element("dt", "", label, card);
      element("dd", "", value, card);
    }
  };
  state.on(["panel"], show);
  show();
}

export class Bars {
  private readonly list: HTMLElement;
  private readonly rows = new Map<number, HTMLElement>();

  constructor(
    private readonly state: MapState,
    private readonly layer: number,
    parent: HTMLElement,
    private readonly react: { over: (item: number | null) => void; choose: (item: number) => void },
  ) {
    const part = element("section", "ochre-bars", null, parent);
    element("h2", "ochre-legend-title", say(state.payload.words, "ranking"), part);
    this.list = element("ol", "", null, part);
    state.on(["panel", "look"], () => this.render());
    this.render();
  }

  light(item: number | null): void {
    this.rows.forEach((row, i) => row.classList.toggle("ochre-lit", i === item));
  }

  private render(): void {
    const { payload, panel } = this.state;
    const plan = entry(payload.layers, this.layer);
    const now = valuesOf(plan, panel);
    const known = (now.numbers ?? []).flatMap((value, item) =>
      value !== null && counts(plan, item, panel) ? [{ item, value }] : [],
    );
    known.sort((a, b) => b.value - a.value || a.item - b.item);
    // Bars of all periods have one scale.
    const panels = payload.panels?.map((_, p) => p) ?? [0];
    const all = panels.flatMap((p) =>
      (valuesOf(plan, p).numbers ?? []).filter((_, item) => counts(plan, item, p)),
    );
    const most = all.reduce<number>((top, v) => Math.max(top, v ?? 0), 1e-12);
    this.list.replaceChildren();
    this.list.parentElement?.toggleAttribute("hidden", !known.length);
    this.rows.clear();
    for (const { item, value } of known.slice(0, this.state.payload.page.bars)) {
      const row = element("button", "ochre-bar-row", null, element("li", "", null, this.list));
      row.type = "button";
      element("span", "ochre-bar-name", named(plan)?.names?.[item] ?? "", row);
      const line = element("span", "ochre-bar-line", null, row);
      const bar = element("span", "ochre-bar", null, line);
      bar.style.width = `${Math.max(1, (70 * Math.max(0, value)) / most)}%`;
      bar.style.backgroundColor = classOf(plan, item, panel)?.colour ?? colourOf(plan);
      element("span", "ochre-bar-value", now.texts?.[item] ?? "", line);
      row.addEventListener("pointerenter", () => this.react.over(item));
      row.addEventListener("pointerleave", () => this.react.over(null));
      row.addEventListener("focus", () => this.react.over(item));
      row.addEventListener("blur", () => this.react.over(null));
      row.addEventListener("click", () => this.react.choose(item));
      this.rows.set(item, row);
    }
  }
}

const colourOf = (layer: Layer): string => (layer.kind === "symbols" ? layer.colour : "");
