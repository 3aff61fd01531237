// Puts a map into an element. A plan that cannot be drawn ends in words.
import { element } from "./elements";
import { buildFrame } from "./frame";
import type { Plan } from "./plan";
import { checkPlan } from "./plan-check";
import { ReaderMap } from "./reader-map";

export interface MountedMap {
  resize(): void;
  // Takes the map away, with all that it listens to.
  dispose(): void;
}

export function mount(root: HTMLElement, given: unknown): MountedMap {
  root.replaceChildren();
  root.classList.add("ochre-map");
  let plan: Plan;
  try {
    plan = checkPlan(given);
  } catch (e) {
    element("p", "ochre-failure", (e as Error).message, root).setAttribute("role", "alert");
    return { resize: () => undefined, dispose: () => root.replaceChildren() };
  }
  return new ReaderMap(root, plan, buildFrame(root, plan));
}

declare global {
  interface Window {
    ochreMap?: { mount: typeof mount };
  }
}

if (typeof window !== "undefined") {
  window.ochreMap = { mount };
  const start = () => {
    const data = document.getElementById("ochre-plan");
    const root = document.getElementById("ochre-map");
    if (data?.textContent && root) mount(root, JSON.parse(data.textContent));
  };
  if (document.readyState === "loading") document.addEventListener("DOMContentLoaded", start);
  else start();
}
