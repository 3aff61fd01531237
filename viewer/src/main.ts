// Puts a map into an element. A plan that cannot be drawn ends in words.
import { tellHeight } from "./article";
import { unpack } from "./columns";
import { element } from "./elements";
import { buildFrame, failure } from "./frame";
import { linkMaps, linkedFrame } from "./linked";
import type { Plan } from "./plan";
import { checkPlan } from "./plan-check";
import { ReaderMap } from "./reader-map";
import { atOnce, inPieces, later, type Work } from "./work";

export interface MountedMap {
  resize(): void;
  // Takes the map away, with all that it listens to.
  dispose(): void;
}

export interface Setting {
  // Of the title as a heading: 1 where the page is the map's own.
  level?: number;
}

// The element may hold the map as a still picture already (R/page-first.R): what stands in it then
// comes alive in its place.
export function mount(root: HTMLElement, given: unknown, setting: Setting = {}): MountedMap {
  try {
    return atOnce(mounting(root, given, setting));
  } catch (e) {
    failure(root, e as Error);
    return { resize: () => undefined, dispose: () => root.replaceChildren() };
  }
}

// Two maps that move together, side by side below a title.
export function mountLinked(root: HTMLElement, title: string, given: unknown[]): MountedMap {
  const strip = linkedFrame(root, title);
  const life = new AbortController();
  const maps = given.map((plan) => {
    const part = element("section", "ochre-embedded", null, strip);
    return mount(part, plan, { level: 3 });
  });
  linkMaps(root, maps.filter(isReaderMap), life.signal);
  return {
    resize: () => maps.forEach((map) => map.resize()),
    dispose: () => {
      life.abort();
      maps.forEach((map) => map.dispose());
      root.classList.remove("ochre-linked");
      root.replaceChildren();
    },
  };
}

const isReaderMap = (map: MountedMap | null): map is ReaderMap => map instanceof ReaderMap;

function* mounting(root: HTMLElement, given: unknown, { level = 1 }: Setting): Work<MountedMap> {
  const plan: Plan = checkPlan(unpack(given));
  yield;
  if (!root.querySelector(".ochre-first")) root.replaceChildren();
  root.classList.add("ochre-map");
  const frame = buildFrame(root, plan, level);
  yield;
  return new ReaderMap(root, plan, frame);
}

declare global {
  interface Window {
    ochreMap?: { mount: typeof mount; mountLinked: typeof mountLinked };
    // Pieces of plans: of which map, which piece, its text.
    ochreParts?: [string, number, string][];
  }
}

// The plans that a page holds: each within it, or in files beside it that hand on pieces of text.
function* plansOf(): Generator<[id: string, text: string]> {
  for (const data of document.querySelectorAll<HTMLScriptElement>("script[data-map]"))
    yield [data.dataset["map"] ?? "", data.textContent ?? ""];
  const pieces = new Map<string, string[]>();
  for (const [id, at, text] of window.ochreParts ?? []) {
    const list = pieces.get(id) ?? [];
    list[at] = text;
    pieces.set(id, list);
  }
  for (const [id, list] of pieces) yield [id, list.join("")];
}

// The maps of a page of its own; the still pictures are painted before anything else is done.
function start(): void {
  const { signal } = new AbortController();
  const maps = [...plansOf()].map(([id, text]) => {
    const root = document.getElementById(id);
    if (!root) return Promise.resolve(null);
    const level = root.tagName === "MAIN" ? 1 : 2;
    return afterPaint()
      .then(() => JSON.parse(text) as unknown)
      .then((given) => inPieces(mounting(root, given, { level }), signal))
      .catch((e: Error) => {
        failure(root, e);
        return null;
      });
  });
  const linked = document.querySelector<HTMLElement>(".ochre-linked");
  if (linked)
    void Promise.all(maps).then((all) => {
      linkMaps(linked, all.filter(isReaderMap), signal);
      tellHeight(linked, linked, signal);
    });
}

const afterPaint = (): Promise<void> =>
  new Promise((done) => requestAnimationFrame(() => later(done)));

if (typeof window !== "undefined") {
  window.ochreMap = { mount, mountLinked };
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", start);
  else start();
}
