// Opening a published page in headless Chromium as a reader does, from disk, and finding places on it. What a test expects is
// computed from the plan that the page holds, by the code here and not the viewer's.
import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { after, before } from "node:test";
import { pathToFileURL } from "node:url";

const { chromium } = createRequire(new URL("../../viewer/", import.meta.url))("playwright-core");
export const maps = process.env.OCHRE_MAPS;
const chrome = process.env.CHROMIUM ?? ["/usr/bin/chromium", "/usr/bin/chromium-browser", "/usr/bin/google-chrome"].find((p) => { try { readFileSync(p, { flag: "r" }); return true; } catch { return false; } });

export let browser;
before(async () => { browser = await chromium.launch({ executablePath: chrome, args: ["--no-sandbox"] }); });
after(() => browser.close());

export async function open(file, options = {}, before = async () => undefined) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, ...options });
  const page = await context.newPage();
  const faults = [];
  page.on("console", (m) => ["error", "warning"].includes(m.type()) && !m.text().includes("willReadFrequently") && faults.push(m.text()));
  page.on("pageerror", (e) => faults.push(e.message));
  page.on("request", (r) => r.url() !== pathToFileURL(file).href && faults.push(`request to ${r.url()}`));
  await before(page);
  await page.goto(pathToFileURL(file).href);
  await page.locator(".ochre-stage canvas").first().waitFor();
  const plan = JSON.parse(await page.locator("#ochre-plan").textContent());
  return { page, context, plan, faults };
}

// The largest ring of an area, and a point well inside it, by trying a grid of points.
export function insideOf(plan, layer, item) {
  const { arcs, transform: { scale, translate }, objects } = plan.topology;
  const decode = (ref) => {
    let [x, y] = [0, 0];
    const points = arcs[ref < 0 ? ~ref : ref].map(([dx, dy]) => [translate[0] + scale[0] * (x += dx), translate[1] + scale[1] * (y += dy)]);
    return ref < 0 ? points.reverse() : points;
  };
  const rings = objects[layer.id].geometries[item].arcs.flat().map((refs) => refs.flatMap(decode));
  const isIn = (px, py) => rings.reduce((inside, ring) => {
    ring.forEach(([x1, y1], i) => {
      const [x2, y2] = ring[(i + 1) % ring.length];
      if (y1 > py !== y2 > py && px < ((x2 - x1) * (py - y1)) / (y2 - y1) + x1) inside = !inside;
    });
    return inside;
  }, false);
  const xs = rings.flat().map((p) => p[0]), ys = rings.flat().map((p) => p[1]);
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const step = Math.max(x1 - x0, y1 - y0) / 40;
  for (const reach of [4, 3, 2, 1]) {
    for (let x = x0; x <= x1; x += step) for (let y = y0; y <= y1; y += step) {
      const around = [[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1]].every(([a, b]) => isIn(x + a * reach * step, y + b * reach * step));
      const free = plan.layers.every((l) => l.kind !== "symbols" || l.x.every((sx, i) => Math.hypot(sx - x, l.y[i] - y) > l.r[i] + 3 * step));
      if (around && free) return [x, y];
    }
  }
  throw new Error("no place inside");
}

// Where a map position stands on the page in the home view (the frame fitted with a margin of 12).
export async function onPage(page, plan, [x, y]) {
  const box = await page.locator(".ochre-stage").boundingBox();
  const [x0, y0, x1, y1] = plan.frame;
  const scale = Math.min((box.width - 24) / (x1 - x0), (box.height - 24) / (y1 - y0));
  return [box.x + box.width / 2 + (x - (x0 + x1) / 2) * scale, box.y + box.height / 2 - (y - (y0 + y1) / 2) * scale];
}

export const find = (layer, start) => layer.hover.findIndex((t) => t.startsWith(start));
export const colourAt = (page, x, y) => page.evaluate(([x, y]) => {
  const canvas = document.querySelector(".ochre-stage canvas");
  const box = canvas.getBoundingClientRect();
  const dense = canvas.width / box.width;
  const [r, g, b] = canvas.getContext("2d").getImageData((x - box.x) * dense, (y - box.y) * dense, 1, 1).data;
  return "#" + [r, g, b].map((v) => v.toString(16).padStart(2, "0")).join("").toUpperCase();
}, [x, y]);
