// A map in a page around it: tells how high it is, and takes the height that its content needs, and
// that page's colours and font, once it answers. inst/embed/ochre-embed.js is the other side.
import { takeHostStyle } from "./host";

interface Message {
  ochre?: string;
  style?: unknown;
}

export function tellHeight(
  root: HTMLElement,
  page: HTMLElement,
  life: AbortSignal,
  restyled: () => void = () => undefined,
): void {
  const outer = window.parent;
  if (outer === window || !root.classList.contains("ochre-whole")) return;
  const send = (message: object) => outer.postMessage(message, "*");
  let last = 0;
  const tell = () => {
    if (!root.classList.contains("ochre-embedded")) return;
    const height = Math.ceil(page.getBoundingClientRect().height);
    if (height !== last) send({ ochre: "height", height });
    last = height;
  };
  const hear = (e: MessageEvent<Message | null>) => {
    if (e.source !== outer || e.data?.ochre !== "host") return;
    root.classList.add("ochre-embedded");
    if (takeHostStyle(root, e.data.style)) restyled();
    last = 0;
    tell();
  };
  window.addEventListener("message", hear, { signal: life });
  const watch = new ResizeObserver(tell);
  watch.observe(page);
  life.addEventListener("abort", () => watch.disconnect());
  send({ ochre: "ready" });
}
