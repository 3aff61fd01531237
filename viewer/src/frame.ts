// The elements that a map is made of: header with controls, stage, side panel, footer; and their
// colours.
import { element } from "./elements";
import { takeHostColours } from "./host";
import type { Plan } from "./plan";
import { say } from "./words";

export interface Frame {
  page: HTMLElement;
  controls: HTMLElement;
  body: HTMLElement;
  middle: HTMLElement;
  stage: HTMLElement;
  side: HTMLElement;
  foot: HTMLElement;
  base: HTMLCanvasElement;
  overlay: HTMLCanvasElement;
  hint(text: string): void;
  // Says a text to those who do not see the map.
  announce(text: string): void;
}

// Maps on this page so far, for ids of their own.
let described = 0;
const RIGHT_TO_LEFT = /^(ar|he|fa|ur|yi|dv|ps|sd|ug|ckb)(-|$)/i;

export function buildFrame(root: HTMLElement, payload: Plan, level: number): Frame {
  const { words, style } = payload;
  paint(root, payload);
  root.lang = payload.locale;
  root.dir = RIGHT_TO_LEFT.test(payload.locale) ? "rtl" : "ltr";
  const page = part("div", "ochre-page", root);
  const head = part("header", "ochre-head", page);
  const titles = part("div", "ochre-titles", head);
  fill(titles, () => {
    element(`h${level}` as "h1", "ochre-title", payload.title, titles);
    if (payload.subtitle) element("p", "ochre-subtitle", payload.subtitle, titles);
  });
  const controls = part("div", "ochre-controls", head);
  const body = part("div", "ochre-body", page);
  body.classList.add(`ochre-legend-${style.legend.place ?? "beside"}`);
  const middle = part("div", "ochre-middle-column", body);
  const stage = part("div", "ochre-stage", middle);
  const aside = part("aside", "ochre-legend", body);
  // A page with several maps has several legends.
  aside.setAttribute("aria-label", `${say(words, "legend")}: ${payload.title}`);
  // Columns of their own within what scrolls, so that they grow downward and not sideways.
  const side = part("div", "ochre-legend-inner", aside);
  const foot = part("footer", "ochre-foot", page);
  fill(foot, () => {
    if (payload.note) element("p", "", payload.note, foot);
    if (payload.source) sourceLine(payload.source, payload.source_link, foot);
  });
  describe(stage, body, payload);
  const live = element("p", "ochre-unseen", null, body);
  live.setAttribute("aria-live", "polite");
  const announce = (text: string) => (live.textContent = text);
  const base = element("canvas", "ochre-canvas", null, stage);
  const overlay = element("canvas", "ochre-canvas", null, stage);
  const hint = hintOn(stage);
  return { page, controls, body, middle, stage, side, foot, base, overlay, hint, announce };
}

// In place of a map that cannot be drawn.
export function failure(root: HTMLElement, e: Error): void {
  root.classList.add("ochre-map");
  root.replaceChildren();
  element("p", "ochre-failure", e.message, root).setAttribute("role", "alert");
}

// As style-narrow.css has it.
export const isNarrow = (root: HTMLElement): boolean => root.clientWidth < 600;

// A part of the map that the page already has, or a new one.
export function part<K extends "div" | "header" | "footer" | "aside">(
  tag: K,
  className: string,
  parent: HTMLElement,
): HTMLElementTagNameMap[K] {
  const found = parent.querySelector<HTMLElementTagNameMap[K]>(`:scope > .${className}`);
  return found ?? element(tag, className, null, parent);
}

function fill(box: HTMLElement, act: () => void): void {
  if (!box.childElementCount) act();
}

// What a screen reader is told of the map itself.
function describe(stage: HTMLElement, body: HTMLElement, payload: Plan): void {
  stage.tabIndex = 0;
  stage.setAttribute("role", "application");
  const said = element("p", "ochre-unseen", payload.alt, body);
  said.id = `ochre-alt-${++described}`;
  stage.setAttribute("aria-describedby", said.id);
  stage.setAttribute("aria-label", `${payload.title}. ${say(payload.words, "keys")}`);
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

// The page's colours are the plan's, or those of the page around it.
export function paint(root: HTMLElement, payload: Plan): void {
  const { inks } = payload;
  takeHostColours(root, payload);
  // A page that is the map's own has its colours to the edges.
  if (root.classList.contains("ochre-whole"))
    document.documentElement.style.background = inks.ground;
  root.classList.toggle("ochre-dark", payload.ground === "dark");
  for (const [name, colour] of Object.entries({
    "--paper": inks.ground,
    "--ink": inks.text,
    "--soft": inks.soft,
    "--faint": inks.faint,
  }))
    root.style.setProperty(name, colour);
  const [x0, y0, x1, y1] = payload.frame;
  root.style.setProperty("--shape", String((x1 - x0) / (y1 - y0)));
}
