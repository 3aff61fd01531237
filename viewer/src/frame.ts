// The elements that a map is made of: header with controls, stage, side panel, footer; and their
// colours.
import { element } from "./elements";
import type { Plan } from "./plan";
import { say } from "./words";

export interface Frame {
  controls: HTMLElement;
  body: HTMLElement;
  middle: HTMLElement;
  stage: HTMLElement;
  side: HTMLElement;
  base: HTMLCanvasElement;
  overlay: HTMLCanvasElement;
  hint(text: string): void;
}

// Maps on this page so far, for ids of their own.
let described = 0;
const RIGHT_TO_LEFT = /^(ar|he|fa|ur|yi|dv|ps|sd|ug|ckb)(-|$)/i;

export function buildFrame(root: HTMLElement, payload: Plan): Frame {
  const { words, style } = payload;
  paint(root, payload);
  root.lang = payload.locale;
  root.dir = RIGHT_TO_LEFT.test(payload.locale) ? "rtl" : "ltr";
  const head = element("header", "ochre-head", null, root);
  const titles = element("div", "ochre-titles", null, head);
  element("h1", "ochre-title", payload.title, titles);
  if (payload.subtitle) element("p", "ochre-subtitle", payload.subtitle, titles);
  const controls = element("div", "ochre-controls", null, head);
  const body = element(
    "div",
    `ochre-body ochre-legend-${style.legend.place ?? "beside"}`,
    null,
    root,
  );
  const middle = element("div", "ochre-middle-column", null, body);
  const stage = element("div", "ochre-stage", null, middle);
  const aside = element("aside", "ochre-legend", null, body);
  aside.setAttribute("aria-label", say(words, "legend"));
  // Columns of their own within what scrolls, so that they grow downward and not sideways.
  const side = element("div", "ochre-legend-inner", null, aside);
  const foot = element("footer", "ochre-foot", null, root);
  if (payload.note) element("p", "", payload.note, foot);
  if (payload.source) sourceLine(payload.source, payload.source_link, foot);

  stage.tabIndex = 0;
  stage.setAttribute("role", "application");
  const said = element("p", "ochre-unseen", payload.alt, body);
  said.id = `ochre-alt-${++described}`;
  stage.setAttribute("aria-describedby", said.id);
  stage.setAttribute("aria-label", `${payload.title}. ${say(words, "keys")}`);
  const base = element("canvas", "ochre-canvas", null, stage);
  const overlay = element("canvas", "ochre-canvas", null, stage);

  return { controls, body, middle, stage, side, base, overlay, hint: hintOn(stage) };
}

// The source leads where the publisher says, if that is an address of the web.
function sourceLine(words: string, to: string | null, foot: HTMLElement): void {
  const line = element("p", "", null, foot);
  if (!to || !/^https?:/i.test(to)) {
    line.textContent = words;
    return;
  }
  const link = element("a", "", words, line);
  link.href = to;
  link.target = "_blank";
  link.rel = "noopener noreferrer";
}

// Says for a moment how the map can be moved.
function hintOn(stage: HTMLElement): (text: string) => void {
  const box = element("p", "ochre-hint", null, stage);
  box.setAttribute("aria-hidden", "true");
  let timer = 0;
  return (text) => {
    box.textContent = text;
    box.classList.add("ochre-shown");
    window.clearTimeout(timer);
    timer = window.setTimeout(() => box.classList.remove("ochre-shown"), 1400);
  };
}

// The page's colours are the plan's.
export function paint(root: HTMLElement, payload: Plan): void {
  const { inks } = payload;
  root.classList.toggle("ochre-dark", payload.ground === "dark");
  for (const [name, colour] of Object.entries({
    "--paper": inks.ground,
    "--ink": inks.text,
    "--soft": inks.soft,
    "--faint": inks.faint,
  }))
    root.style.setProperty(name, colour);
}
