// The label beside the pointer and the popup. Both stay inside the stage.
import { element, swatch } from "./elements";
import type { Layer } from "./payload";

// The class of an area as the legend has it; null for anything else.
// The colour of the lines of a class whose areas carry a hatch, or null.
export function hatchOf(layer: Layer, key: number): string | null {
  return layer.kind === "areas" && layer.hatch?.class === key ? layer.hatch.colour : null;
}

export function classOf(layer: Layer, item: number): { label: string; colour: string; hatch?: string | null } | null {
  if (layer.kind === "symbols" && layer.key) {
    const k = layer.key.class[item];
    return k > 0 ? { label: layer.key.labels[k - 1], colour: layer.key.colours[k - 1] } : layer.key.no_data;
  }
  if (layer.kind !== "areas") return null;
  const k = layer.class[item];
  return k > 0 ? { label: layer.labels[k - 1], colour: layer.colours[k - 1], hatch: hatchOf(layer, k) } : layer.no_data;
}

// Where a box of the given size may stand so that it is near a point and within the stage.
export function placeBox(px: number, py: number, width: number, height: number, stageWidth: number, stageHeight: number, gap = 14): [number, number] {
  const x = px + gap + width <= stageWidth ? px + gap : px - gap - width;
  const y = py - gap - height >= 0 ? py - gap - height : py + gap;
  return [Math.max(4, Math.min(x, stageWidth - width - 4)), Math.max(4, Math.min(y, stageHeight - height - 4))];
}

function moveTo(box: HTMLElement, stage: HTMLElement, px: number, py: number): void {
  const [x, y] = placeBox(px, py, box.offsetWidth, box.offsetHeight, stage.clientWidth, stage.clientHeight);
  box.style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px)`;
}

export class HoverLabel {
  private readonly box: HTMLElement;

  constructor(private readonly stage: HTMLElement) {
    this.box = element("div", "ochre-hover", null, stage);
    this.box.setAttribute("role", "status");
    this.box.hidden = true;
  }

  show(layer: Layer, item: number, px: number, py: number): void {
    const text = layer.hover?.[item];
    if (!text) return this.hide();
    this.box.replaceChildren();
    const known = classOf(layer, item);
    if (known) swatch(known.colour, this.box, known.hatch);
    element("span", "", text, this.box);
    this.box.hidden = false;
    moveTo(this.box, this.stage, px, py);
  }

  hide(): void {
    this.box.hidden = true;
  }
}

export class PopupCard {
  private readonly box: HTMLElement;
  private before: Element | null = null;

  constructor(private readonly stage: HTMLElement) {
    this.box = element("div", "ochre-popup", null, stage);
    this.box.setAttribute("role", "dialog");
    this.box.setAttribute("aria-label", "Details");
    this.box.hidden = true;
    this.box.addEventListener("pointerdown", (e) => e.stopPropagation());
    this.box.addEventListener("keydown", (e) => {
      if (e.key === "Escape") this.hide();
      e.stopPropagation();
    });
  }

  get open(): boolean {
    return !this.box.hidden;
  }

  show(layer: Layer, item: number, px: number, py: number): void {
    if (!layer.popup) return this.hide();
    this.box.replaceChildren();
    const close = element("button", "ochre-close", "\u00d7", this.box);
    close.type = "button";
    close.setAttribute("aria-label", "Close");
    close.addEventListener("click", () => this.hide());
    const list = element("dl", "ochre-fields", null, this.box);
    layer.popup.labels.forEach((label, f) => {
      const text = layer.popup!.fields[f][item];
      if (text === null || text === "") return;
      element("dt", "", label, list);
      element("dd", "", text, list);
    });
    const known = classOf(layer, item);
    if (known && layer.legend) {
      const foot = element("p", "ochre-popup-class", null, this.box);
      swatch(known.colour, foot, known.hatch);
      element("span", "", `${layer.kind === "symbols" ? layer.key!.legend : layer.legend}: ${known.label}`, foot);
    }
    if (this.box.hidden) this.before = document.activeElement;
    this.box.hidden = false;
    moveTo(this.box, this.stage, px, py);
    close.focus({ preventScroll: true });
  }

  hide(): void {
    if (this.box.hidden) return;
    this.box.hidden = true;
    if (this.before instanceof HTMLElement) this.before.focus({ preventScroll: true });
  }
}
