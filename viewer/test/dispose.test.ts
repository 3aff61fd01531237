// A map that is taken away leaves nothing behind: no listener beyond its elements, no observer, no
// timer. In a DOM without a browser, whose canvas draws nothing.
import { Window } from "happy-dom";
import assert from "node:assert/strict";
import { test } from "node:test";
import type { MountedMap } from "../src/main";
import type { ReaderMap } from "../src/reader-map";
import { MapState } from "../src/state";
import { payload } from "./fixtures";

interface Counts {
  media: number;
  observers: number;
  timers: number;
}

// The globals of a browser, with counts of what stays alive.
function browser(): Counts {
  const window = new Window({ url: "https://maps.example/" });
  const counts: Counts = { media: 0, observers: 0, timers: 0 };
  const context: unknown = new Proxy(() => context, {
    get: (_, key) => (key === "measureText" ? () => ({ width: 10 }) : context),
    set: () => true,
    apply: () => context,
  });
  Object.assign(window.HTMLCanvasElement.prototype, { getContext: () => context });
  const media = {
    matches: false,
    addEventListener(_: string, __: unknown, { signal }: { signal: AbortSignal }) {
      counts.media++;
      signal.addEventListener("abort", () => counts.media--);
    },
  };
  class Observer {
    observe() {
      counts.observers++;
    }
    disconnect() {
      counts.observers = 0;
    }
  }
  class Path {
    moveTo() {}
    lineTo() {}
  }
  Object.assign(window, {
    matchMedia: () => media,
    setInterval: () => ++counts.timers,
    clearInterval: (timer: number) => timer && counts.timers--,
  });
  const given = { window, document: window.document, location: window.location };
  const drawn = { ResizeObserver: Observer, Path2D: Path, Image: window.Image };
  const frames = { requestAnimationFrame: () => 1, cancelAnimationFrame: () => undefined };
  const classes = { HTMLElement: window.HTMLElement };
  const getComputedStyle = window.getComputedStyle.bind(window);
  Object.assign(globalThis, given, drawn, frames, classes, { getComputedStyle });
  return counts;
}

// When all of a map is there.
const awake = (map: MountedMap): Promise<void> =>
  new Promise((done) => ((map as ReaderMap).awake = done));

test("a map that is taken away leaves no listener, observer or timer behind", async () => {
  const counts = browser();
  const { mount } = await import("../src/main");
  const plan = structuredClone(payload);
  plan.panels = ["May", "June"];
  plan.dark = { inks: plan.inks, layers: plan.layers.map(() => ({})) };
  plan.page.live = { address: "values.json", every: 60 };
  const [areas] = plan.layers;
  if (areas?.kind !== "areas") throw new Error("no areas");
  areas.live = {
    ...{ breaks: [1], right: false, percent: false, digits: 0, true: true, plus: false },
    ...{ grouped: true, unit: null, missing: "none", hover: null, fields: [] },
  };
  for (let i = 0; i < 3; i++) {
    const root = document.createElement("div");
    const map = mount(root, structuredClone(plan));
    assert.ok(root.querySelector(".ochre-stage"));
    await awake(map);
    assert.deepEqual([counts.media, counts.observers], [1, 2]);
    root.querySelector<HTMLButtonElement>(".ochre-periods button")?.click();
    // Of the periods, and of new values.
    assert.equal(counts.timers, 2);
    map.dispose();
    assert.equal(root.childElementCount, 0);
    assert.deepEqual(counts, { media: 0, observers: 0, timers: 0 });
  }
  // And one that is taken away before it begins never does: the next is awake after it.
  mount(document.createElement("div"), structuredClone(plan)).dispose();
  const next = mount(document.createElement("div"), structuredClone(plan));
  await awake(next);
  assert.deepEqual([counts.media, counts.observers], [1, 2]);
  next.dispose();
  assert.deepEqual(counts, { media: 0, observers: 0, timers: 0 });
});

test("the state tells those who asked for a change, and nobody else", () => {
  const state = new MapState({ ...payload, panels: ["May", "June"] });
  const heard: string[] = [];
  state.on(["panel"], () => heard.push("panel"));
  state.on(["classes", "lit"], () => heard.push("classes"));
  state.setPanel(0);
  state.setPanel(0);
  state.toggleClass(0, 1);
  state.bringOut(0, 1);
  state.setBackdrop(5);
  assert.deepEqual(heard, ["panel", "classes", "classes"]);
});
