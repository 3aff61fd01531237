// Puts a map into an element. A plan that cannot be drawn ends in words.
import { unpack } from "./columns";
import { buildFrame, failure } from "./frame";
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
    ochreMap?: { mount: typeof mount };
  }
}

// The still picture is painted before anything else is done.
function afterPaint(act: () => void): void {
  requestAnimationFrame(() => later(act));
}

if (typeof window !== "undefined") {
  window.ochreMap = { mount };
  const start = () => {
    const data = document.getElementById("ochre-plan");
    const root = document.getElementById("ochre-map");
    if (!data?.textContent || !root) return;
    const text = data.textContent;
    afterPaint(() => {
      const given: unknown = JSON.parse(text);
      const work = mounting(root, given, {});
      inPieces(work, new AbortController().signal).catch((e: Error) => failure(root, e));
    });
  };
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", start);
  else start();
}
