// Two maps that move together: view, period and what is pointed at are told from one to the other.
// Side by side where there is room, else next to each other in a strip that a swipe moves.
import { button, element } from "./elements";
import type { ReaderMap } from "./reader-map";

// The parts around linked maps, which a page of its own has already (R/page-linked.R).
export function linkedFrame(root: HTMLElement, title: string): HTMLElement {
  root.replaceChildren();
  root.classList.add("ochre-linked");
  element("h2", "ochre-linked-title", title, root);
  element("div", "ochre-linked-names", null, root);
  return element("div", "ochre-strip-of-maps", null, root);
}

export function linkMaps(root: HTMLElement, maps: ReaderMap[], life: AbortSignal): void {
  // What one map was told it does not tell on.
  let telling = false;
  const toOthers = (from: ReaderMap, act: (other: ReaderMap) => void) => {
    if (telling) return;
    telling = true;
    for (const other of maps) if (other !== from) act(other);
    telling = false;
  };
  for (const map of maps) {
    map.told = {
      view: (view, moving) => toOthers(map, (other) => other.lookLike(view, moving)),
      key: (key) => toOthers(map, (other) => other.point(key)),
    };
    map.state.on(["panel"], () => toOthers(map, (other) => other.state.setPanel(map.state.panel)));
  }
  dress(root, maps);
  addNames(root, maps, life);
  evenOut(root, life);
}

// What stands around the maps has the colours of the first, also when they change.
function dress(root: HTMLElement, maps: ReaderMap[]): void {
  const [first] = maps;
  const take = () => {
    for (const name of ["--paper", "--ink"])
      root.style.setProperty(name, first?.root.style.getPropertyValue(name) ?? "");
  };
  first?.state.on(["look"], take);
  take();
}

// A button for each map, where one is seen at a time.
function addNames(root: HTMLElement, maps: ReaderMap[], life: AbortSignal): void {
  const names = root.querySelector<HTMLElement>(".ochre-linked-names");
  const strip = root.querySelector<HTMLElement>(".ochre-strip-of-maps");
  if (!names || !strip) return;
  names.replaceChildren();
  const buttons = maps.map(({ root: part, title }) =>
    button(names, title, title, () => {
      strip.scrollTo({ left: part.offsetLeft - strip.offsetLeft, behavior: "smooth" });
    }),
  );
  const sign = () => {
    const at = Math.round(strip.scrollLeft / Math.max(1, strip.clientWidth));
    buttons.forEach((one, i) => one.setAttribute("aria-pressed", String(i === at)));
  };
  strip.addEventListener("scroll", sign, { passive: true, signal: life });
  sign();
}

// Maps side by side begin and end at the same heights.
function evenOut(root: HTMLElement, life: AbortSignal): void {
  const even = () => {
    for (const name of ["head", "legend"]) {
      const parts = [...root.querySelectorAll<HTMLElement>(`.ochre-${name}`)];
      for (const part of parts) part.style.minHeight = "";
      const most = Math.max(...parts.map((part) => part.getBoundingClientRect().height));
      for (const part of parts) part.style.minHeight = `${most}px`;
    }
  };
  let width = 0;
  const watch = new ResizeObserver(() => {
    if (width === root.clientWidth) return;
    width = root.clientWidth;
    even();
  });
  watch.observe(root);
  life.addEventListener("abort", () => watch.disconnect());
  even();
}
