// The page in headless Chromium against a bare canvas program that fills the same paths, in the
// same run:
// node page.mjs FOLDER First picture, frames while panning and zooming, look-ups of the pointer,
// weight, and memory over play.
import { readFileSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join, resolve } from "node:path";
import { pathToFileURL } from "node:url";
import { gzipSync } from "node:zlib";
import { arcsOf, ringsOf, unpack } from "../tests/page/unpack.mjs";
import { median, report, small } from "./report.mjs";

const { chromium } = createRequire(new URL("../viewer/", import.meta.url))("playwright-core");
const folder = resolve(process.argv[2]);
const chrome = process.env.CHROMIUM ?? "/usr/bin/chromium";
const browser = await chromium.launch({
  executablePath: chrome,
  args: ["--no-sandbox", "--enable-precise-memory-info", "--js-flags=--expose-gc"],
});
const at95 = (v) => [...v].sort((a, b) => a - b)[Math.floor(0.95 * v.length)];

// The floor: the same plan, its arcs decoded and joined, one path a class, filled and stroked; no
// index, no words, no panels.
const floorData = ({ topology, frame, layers }) => {
  const steps = arcsOf({ ...topology, x0: 0, y0: 0, step: 1 }).map((run) =>
    run.map(([x, y], i) => (i ? [x - run[i - 1][0], y - run[i - 1][1]] : [x, y])),
  );
  const rings = Object.keys(topology.layers).map((id) => [id, ringsOf(topology, id)]);
  const look = ({ kind, id, class: key, colours, outline, x, y, r, colour }) => ({
    ...{ kind, id, class: key, colours, outline, x, y, r, colour },
  });
  const { x0, y0, step } = topology;
  return {
    x0,
    y0,
    step,
    arcs: steps,
    rings: Object.fromEntries(rings),
    frame,
    layers: layers.map(look),
  };
};
const asJson = (value) => JSON.stringify(value).replace(/</g, "\\u003c");
const floor = (
  plan,
) => `<!DOCTYPE html><meta charset="utf-8"><style>body{margin:0}</style><canvas></canvas>
<script type="application/json" id="data">${asJson(floorData(plan))}</script><script>
const p = JSON.parse(document.getElementById("data").textContent);
const c = document.querySelector("canvas"), g = c.getContext("2d");
c.width = 1000; c.height = 680;
const arcs = p.arcs.map((a) => {
  let x = 0, y = 0;
  return a.map(([dx, dy]) => [p.x0 + p.step * (x += dx), p.y0 + p.step * (y += dy)]);
});
const layers = p.layers.map((l) => {
  if (l.kind === "symbols") return l;
  const paths = l.colours.map(() => new Path2D()), edges = new Path2D();
  p.rings[l.id].forEach((rings, i) => {
    for (const ring of rings) for (const path of [paths[l.class[i] - 1], edges]) {
      let first = true;
      for (const ref of ring) {
        const a = arcs[ref < 0 ? ~ref : ref], n = a.length;
        for (let k = 0; k < n; k++) {
          const q = a[ref < 0 ? n - 1 - k : k];
          if (first) path.moveTo(q[0], q[1]); else path.lineTo(q[0], q[1]);
          first = false;
        }
      }
    }
  });
  return { ...l, paths, edges };
});
const [x0, y0, x1, y1] = p.frame, home = Math.min(976 / (x1 - x0), 656 / (y1 - y0));
const view = { x: (x0 + x1) / 2, y: (y0 + y1) / 2, s: home };
function draw() {
  g.setTransform(1, 0, 0, 1, 0, 0); g.clearRect(0, 0, 1000, 680);
  for (const l of layers) {
    if (l.kind === "symbols") {
      g.setTransform(1, 0, 0, 1, 0, 0); g.globalAlpha = 0.85; g.lineWidth = 1;
      for (let i = 0; i < l.x.length; i++) {
        const px = (l.x[i] - view.x) * view.s + 500, py = (view.y - l.y[i]) * view.s + 340;
        if (px < -9 || py < -9 || px > 1009 || py > 689) continue;
        g.fillStyle = l.colour; g.strokeStyle = "#fff";
        g.beginPath(); g.arc(px, py, l.r[i] * home, 0, 7); g.fill(); g.stroke();
      }
      g.globalAlpha = 1;
      continue;
    }
    g.setTransform(view.s, 0, 0, -view.s, 500 - view.x * view.s, 340 + view.y * view.s);
    l.paths.forEach((q, k) => { g.fillStyle = l.colours[k]; g.fill(q, "evenodd"); });
    g.strokeStyle = l.outline; g.lineWidth = 0.8 / view.s; g.stroke(l.edges);
  }
}
draw();
window.drawn = performance.now();
// The place under the pointer stays there, as on the page.
window.zoom = (f, px, py) => { const mx = view.x + (px - 500) / view.s, my = view.y - (py - 340) / view.s; view.s = Math.max(home, view.s * f); view.x = mx - (px - 500) / view.s; view.y = my + (py - 340) / view.s; if (view.s === home) { view.x = (x0 + x1) / 2; view.y = (y0 + y1) / 2; } draw(); };
</script>`;

// Both are timed from the request until their first picture has been painted.
async function firstPicture(file, ready) {
  const page = await browser.newPage({ bypassCSP: true, viewport: { width: 1280, height: 800 } });
  await page.goto(pathToFileURL(file).href, { waitUntil: "commit" });
  await page.waitForFunction(ready, null, { polling: 4 });
  const time = await page.evaluate(
    () =>
      new Promise((done) =>
        requestAnimationFrame(() => {
          document.querySelector("canvas").getContext("2d").getImageData(0, 0, 1, 1);
          done(performance.now());
        }),
      ),
  );
  await page.close();
  return time;
}
// When a reader sees the map: the still picture that the page holds.
async function firstPaint(file) {
  const page = await browser.newPage({ bypassCSP: true, viewport: { width: 1280, height: 800 } });
  await page.goto(pathToFileURL(file).href);
  await page.locator(".ochre-alive").waitFor();
  const time = await page.evaluate(() => performance.getEntriesByType("paint")[0].startTime);
  await page.close();
  return time;
}
// Time of a frame: input until a pixel can be read back.
const frames = (page, act, whole = true) =>
  page.evaluate(
    async ([source, whole, n]) => {
      // A viewer whose clock stands still never finds itself too slow to draw each step in full.
      const now = (window.clock ??= performance.now.bind(performance));
      performance.now = whole ? () => 0 : now;
      const step = new Function("k", source);
      // The first picture after a rest says what one costs.
      step(0);
      await new Promise((r) => setTimeout(r, 900));
      const c = document.querySelector("canvas").getContext("2d");
      const times = [];
      for (let k = 0; k < n; k++) {
        const begin = now();
        step(k);
        await new Promise((r) => requestAnimationFrame(r));
        await new Promise((r) => setTimeout(r));
        c.getImageData(0, 0, 1, 1);
        times.push(now() - begin);
      }
      performance.now = now;
      return times;
    },
    [act, whole, small ? 6 : 60],
  );
// Moves of the pointer with look-up, outline and label, in milliseconds each.
const lookUp = (page, n) =>
  page.evaluate((n) => {
    const stage = document.querySelector(".ochre-stage");
    const box = stage.getBoundingClientRect();
    const begin = performance.now();
    for (let k = 0; k < n; k++)
      stage.dispatchEvent(
        new PointerEvent("pointermove", {
          clientX: box.left + 20 + ((k * 37) % (box.width - 40)),
          clientY: box.top + 20 + ((k * 53) % (box.height - 40)),
          pointerType: "mouse",
          bubbles: true,
        }),
      );
    return (performance.now() - begin) / n;
  }, n);
const OURS = `const s = document.querySelector(".ochre-stage"); const b = s.getBoundingClientRect(); s.dispatchEvent(new WheelEvent("wheel", { deltaY: k < 30 ? -60 : 60, clientX: b.left + 400 + 3 * (k % 7), clientY: b.top + 300, bubbles: true, cancelable: true }));`;
const FLOOR = `zoom(k < 30 ? Math.exp(0.12) : Math.exp(-0.12), 400 + 3 * (k % 7), 300);`;

for (const name of ["areas", "points"]) {
  const file = join(folder, `${name}.html`);
  const page = await browser.newPage({ bypassCSP: true, viewport: { width: 1280, height: 800 } });
  await page.goto(pathToFileURL(file).href);
  const plan = unpack(JSON.parse(await page.locator("#ochre-plan").textContent()));
  writeFileSync(join(folder, `${name}-floor.html`), floor(plan));
  const bare = await browser.newPage({ bypassCSP: true, viewport: { width: 1280, height: 800 } });
  await bare.goto(pathToFileURL(join(folder, `${name}-floor.html`)).href);
  const first = [];
  for (let i = 0; i < (small ? 1 : 9); i++)
    first.push([
      await firstPicture(join(folder, `${name}-floor.html`), "window.drawn > 0"),
      await firstPaint(file),
      await firstPicture(file, "document.querySelector('.ochre-alive') !== null"),
    ]);
  // By turns, so that a busy moment of the machine meets both.
  const [a, b] = [[], []];
  for (let i = 0; i < (small ? 1 : 4); i++) {
    a.push(...(await frames(bare, FLOOR)));
    b.push(...(await frames(page, OURS)));
  }
  const used = await frames(page, OURS, false);
  const to = (k) => median(first.map((f) => f[k] / f[0]));
  const ms = (v) => `${v.toFixed(1)} ms`;
  const bareMap = "a bare canvas program";
  report(`page of ${name}, first picture`, to(1), bareMap, 1.2, ms(median(first.map(([f]) => f))));
  report(`page of ${name}, live map`, to(2), bareMap, 1.5);
  report(`page of ${name}, a frame`, median(b) / median(a), bareMap, 1.1, `${ms(median(a))} bare`);
  console.log(
    [
      `95th percentile of frames ${ms(at95(b))}, bare ${ms(at95(a))}`,
      `moved as a picture where that is slow: median ${ms(median(used))}`,
      `95th percentile ${ms(at95(used))}`,
    ].join("; "),
  );
  await page.close();
  await bare.close();
}

// What is too much to be drawn at each step: steps while moving, and the whole picture after them.
for (const name of ["lots", "heat"]) {
  const page = await browser.newPage({ bypassCSP: true, viewport: { width: 1280, height: 800 } });
  const begin = performance.now();
  await page.goto(pathToFileURL(join(folder, `${name}.html`)).href);
  await page.locator(".ochre-alive").waitFor();
  const ready = performance.now() - begin;
  await page.waitForTimeout(1000);
  const steps = await frames(page, OURS, false);
  await page.waitForTimeout(1000);
  const look = await lookUp(page, 200);
  console.log(
    `${name} of 200,000 points: ready after ${ready.toFixed(0)} ms; a step of moving ${median(steps).toFixed(1)} ms, 95th percentile ${at95(steps).toFixed(1)} ms; look-up ${look.toFixed(2)} ms a move`,
  );
  await page.close();
}

const many = await browser.newPage({ bypassCSP: true, viewport: { width: 1280, height: 800 } });
await many.goto(pathToFileURL(join(folder, "many.html")).href);
await many.locator(".ochre-alive").waitFor();
await many.waitForTimeout(1500);
const look = await lookUp(many, 2000);
report("page of 50,000 areas, look-up", look, "a millisecond a move", 1);
await many.close();

// On slower processors: when something is painted, when the map can be moved, when it is drawn, the
// longest task until then and the longest while zooming, and how much of the screen is map.
const all = [
  ["areas", "3,000 areas", 1],
  ["areas", "3,000 areas", 4],
  ["areas", "3,000 areas", 6],
  ["many", "50,000 areas", 6],
  ["lots", "200,000 points", 6],
];
const slowed = small ? all.slice(0, 1) : all;
for (const [name, what, rate] of slowed) {
  const context = await browser.newContext({
    viewport: { width: 390, height: 844 },
    bypassCSP: true,
  });
  const page = await context.newPage();
  const session = await context.newCDPSession(page);
  await session.send("Emulation.setCPUThrottlingRate", { rate });
  await page.addInitScript(() => {
    window.seen = { long: 0 };
    new PerformanceObserver((list) =>
      list.getEntries().forEach((e) => (window.seen.long = Math.max(window.seen.long, e.duration))),
    ).observe({ type: "longtask", buffered: true });
    new MutationObserver(() => {
      if (document.querySelector(".ochre-buttons")) window.seen.moving ??= performance.now();
      if (document.querySelector(".ochre-alive")) window.seen.drawn ??= performance.now();
    }).observe(document, { childList: true, subtree: true, attributes: true });
  });
  await page.goto(pathToFileURL(join(folder, `${name}.html`)).href);
  await page.locator(".ochre-alive").waitFor({ timeout: 180000 });
  await page.waitForTimeout(500 * rate);
  const loaded = await page.evaluate(() => ({
    ...window.seen,
    paint: performance.getEntriesByType("paint")[0].startTime,
  }));
  await page.evaluate(() => (window.seen.long = 0));
  await frames(page, OURS, false);
  await page.waitForTimeout(500 * rate);
  const zooming = await page.evaluate(() => window.seen.long);
  const box = await page.locator(".ochre-stage").boundingBox();
  const ms = (v) => `${v.toFixed(0)} ms`;
  const share = (100 * box.width * box.height) / (390 * 844);
  console.log(
    [
      `${what} on a phone, ${rate} times slower: first paint ${ms(loaded.paint)}`,
      `can be moved after ${ms(loaded.moving)}, drawn after ${ms(loaded.drawn)}`,
      `longest task ${ms(loaded.long)}, while zooming ${ms(zooming)}`,
      `the map has ${share.toFixed(0)} % of the screen (aim 45 %)`,
    ].join("; "),
  );
  await context.close();
}

const zipped = (file) => gzipSync(readFileSync(file), { level: 9 }).length;
const page3000 = zipped(join(folder, "areas.html"));
const weight = (100 * page3000) / zipped(join(folder, "areas.geojson"));
const built = new URL("../inst/htmlwidgets/lib/ochre/ochre-view.js", import.meta.url);
report(
  "page of 3,000 areas, weight gzipped",
  weight / 100,
  "the GeoJSON's",
  0.25,
  `${(page3000 / 1000).toFixed(0)} kB, of it the script ${(zipped(built) / 1000).toFixed(1)} kB`,
);
const whole = readFileSync(join(folder, "areas.html"), "utf8");
const parts = {
  script: /<script>(.*?)<\/script>/s,
  style: /<style>(.*?)<\/style>/s,
  "first picture": /(<svg class="ochre-first".*?<\/svg>)/s,
  plan: /id="ochre-plan">(.*?)<\/script>/s,
};
const weighed = (pattern) => gzipSync(pattern.exec(whole)?.[1] ?? "", { level: 9 }).length / 1000;
const listed = Object.entries(parts).map(([name, p]) => `${name} ${weighed(p).toFixed(1)}`);
console.log(`its parts in kB gzipped: ${listed.join(", ")}`);

// Ten minutes of play are six hundred steps; here as fast as they can be drawn.
const months = process.argv[3];
if (months) {
  const page = await browser.newPage({ bypassCSP: true, viewport: { width: 1280, height: 800 } });
  await page.goto(pathToFileURL(resolve(months)).href);
  await page.locator(".ochre-alive").waitFor();
  const used = await page.evaluate(
    async (n) => {
      const slider = document.querySelector(".ochre-slider");
      const play = async (n) => {
        for (let k = 0; k < n; k++) {
          slider.value = String(k % (Number(slider.max) + 1));
          slider.dispatchEvent(new Event("input"));
          await new Promise((r) => requestAnimationFrame(r));
        }
        gc();
        await new Promise((r) => setTimeout(r, 300));
        gc();
        return performance.memory.usedJSHeapSize;
      };
      const before = await play(60);
      return [before, await play(n)];
    },
    small ? 60 : 600,
  );
  report("memory after 600 periods of play", used[1] / used[0], "before", 1.1);
  await page.close();
}
// What 500 steps of zooming and 100 maps made and taken away leave behind.
{
  const page = await browser.newPage({ bypassCSP: true, viewport: { width: 1280, height: 800 } });
  await page.goto(pathToFileURL(join(folder, "points.html")).href);
  await page.locator(".ochre-alive").waitFor();
  await page.evaluate(() => {
    window.used = async () => {
      for (let k = 0; k < 3; k++) {
        gc();
        await new Promise((r) => setTimeout(r, 200));
      }
      return performance.memory.usedJSHeapSize;
    };
    window.remount = async (n) => {
      const text = document.getElementById("ochre-plan").textContent;
      for (let k = 0; k < n; k++) {
        const root = document.body.appendChild(document.createElement("div"));
        root.style.height = "400px";
        const map = window.ochreMap.mount(root, JSON.parse(text), { level: 2 });
        await new Promise((r) => requestAnimationFrame(() => setTimeout(r)));
        map.dispose();
        root.remove();
      }
      return used();
    };
  });
  const tell = (what, [before, after]) =>
    report(`memory after ${what}`, after / before, "before", 1.1, `${(after / 1e6).toFixed(1)} MB`);
  await frames(page, OURS, false);
  const zoomed = [await page.evaluate(() => used())];
  for (let k = 0; k < (small ? 1 : 9); k++) await frames(page, OURS, false);
  zoomed.push(await page.evaluate(() => used()));
  tell("500 steps of zooming", zoomed);
  const mounted = [
    await page.evaluate(() => remount(5)),
    await page.evaluate((n) => remount(n), small ? 5 : 100),
  ];
  tell("100 maps made and taken away", mounted);
  await page.close();
}
await browser.close();
