// The values of the thing that the reader has chosen: beside it on the map, as a sheet below the
// map on a narrow screen, or in a panel beside the map, with those of what is pointed at.
import { button, element, swatch } from "./elements";
import { type Frame, isNarrow } from "./frame";
import { classOf, fieldList, legendKey, placeAround, rankWords, type Rect, trend } from "./panels";
import type { Layer } from "./plan";
import { areaPanel, hoverText, type MapState } from "./state";
import { say } from "./words";

export interface Shown {
  layer: Layer;
  item: number;
}

const SWIPE = 60; // pixels down that put a sheet away

export class Details {
  private readonly box: HTMLElement;
  private readonly panel: HTMLElement | null;
  private chosen: Shown | null = null;

  constructor(
    private readonly root: HTMLElement,
    private readonly frame: Frame,
    private readonly state: MapState,
    private readonly closed: () => void,
  ) {
    const { page, words } = state.payload;
    this.box = element("div", "ochre-popup", null, frame.stage);
    this.box.setAttribute("role", "dialog");
    this.box.setAttribute("aria-label", say(words, "details"));
    this.box.tabIndex = -1;
    this.box.hidden = true;
    this.box.addEventListener("pointerdown", (e) => e.stopPropagation());
    this.box.addEventListener("keydown", (e) => {
      if (e.key === "Escape") this.close();
      e.stopPropagation();
    });
    swipeDown(this.box, () => this.isSheet && this.close());
    this.panel = page.hover === "panel" ? element("section", "ochre-panel", null) : null;
    if (this.panel) {
      this.panel.setAttribute("aria-label", say(words, "details"));
      frame.side.prepend(this.panel);
    }
  }

  get open(): boolean {
    return !this.box.hidden;
  }
  // The panel is used where it stands beside the map.
  get inPanel(): boolean {
    return this.panel !== null && !isNarrow(this.root);
  }
  private get isSheet(): boolean {
    return this.box.classList.contains("ochre-sheet");
  }

  // What the pointer is on, in the panel; with nothing, what was chosen.
  hover(shown: Shown | null): void {
    if (!this.panel || !this.inPanel) return;
    const now = shown ?? this.chosen;
    this.panel.replaceChildren();
    if (now) this.fill(this.panel, now, false);
  }

  // `around` is what is spoken of, in pixels of the stage.
  show(shown: Shown, around: Rect, at: [number, number]): void {
    this.chosen = shown;
    if (this.inPanel) return this.hover(null);
    this.box.replaceChildren();
    if (!this.fill(this.box, shown, true)) return this.hide();
    const { middle, stage } = this.frame;
    const sheet = isNarrow(this.root);
    this.box.classList.toggle("ochre-sheet", sheet);
    (sheet ? middle : stage).append(this.box);
    this.box.hidden = false;
    this.box.style.transform = "";
    if (sheet) return this.uncover(around);
    const size: [number, number] = [this.box.offsetWidth, this.box.offsetHeight];
    const [x, y] = placeAround(around, at, size, [stage.clientWidth, stage.clientHeight]);
    this.box.style.transform = `translate(${Math.round(x)}px, ${Math.round(y)}px)`;
  }

  focus(): void {
    if (this.open) this.box.querySelector<HTMLElement>("button")?.focus({ preventScroll: true });
  }

  // What stands on the map is put away when the map moves.
  putAway(): void {
    if (this.open && !this.isSheet) this.hide();
  }

  hide(): void {
    this.chosen = null;
    this.panel?.replaceChildren();
    if (this.box.hidden) return;
    const inside = this.box.contains(document.activeElement);
    this.box.hidden = true;
    if (inside) this.frame.stage.focus({ preventScroll: true });
  }

  private close(): void {
    this.hide();
    this.closed();
  }

  // False where there is nothing to say.
  private fill(box: HTMLElement, { layer, item }: Shown, closes: boolean): boolean {
    const { panel, payload } = this.state;
    const popup = (areaPanel(layer, panel) ?? layer).popup;
    const text = hoverText(layer, item, panel);
    if (!popup && (closes || !text)) return false;
    if (closes) {
      const words = say(payload.words, "close");
      button(box, words, "\u00d7", () => this.close(), "ochre-close");
    }
    if (popup) fieldList(popup, item, box);
    else element("p", "ochre-panel-text", text, box);
    const line = trend(layer, item, this.state);
    if (line) box.append(line);
    const known = classOf(layer, item, panel);
    if (known && layer.legend) {
      const foot = element("p", "ochre-popup-class", null, box);
      swatch(known.colour, foot, known.hatch);
      const title = legendKey(layer)?.legend ?? layer.legend;
      element("span", "", `${title}: ${known.label}`, foot);
    }
    const rank = layer.kind === "areas" ? rankWords(layer, item, this.state) : null;
    if (rank) element("p", "ochre-popup-rank", rank, box);
    return true;
  }

  // A sheet at the foot of the window does not cover what it speaks of.
  private uncover([, , , bottom]: Rect): void {
    const top = this.box.getBoundingClientRect().top;
    const low = this.frame.stage.getBoundingClientRect().top + bottom;
    if (low > top) window.scrollBy({ top: low - top + 8 });
  }
}

function swipeDown(box: HTMLElement, act: () => void): void {
  let start: number | null = null;
  const move = (e: PointerEvent) => (start === null ? 0 : Math.max(0, e.clientY - start));
  box.addEventListener("pointerdown", (e) => {
    if (e.pointerType !== "mouse") start = e.clientY;
  });
  box.addEventListener("pointermove", (e) => {
    if (start !== null && box.classList.contains("ochre-sheet"))
      box.style.transform = `translateY(${move(e)}px)`;
  });
  const end = (e: PointerEvent) => {
    const far = move(e);
    if (start !== null && box.classList.contains("ochre-sheet")) box.style.transform = "";
    start = null;
    if (far > SWIPE) act();
  };
  box.addEventListener("pointerup", end);
  box.addEventListener("pointercancel", end);
}
