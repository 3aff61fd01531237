// Opening a published page in headless Chromium as a reader does, from disk, and finding places
// on it. What a test expects is computed from the plan that the page holds, by the code here and
// not the viewer's.
import { existsSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { after, before } from "node:test";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { inflateSync } from "node:zlib";
import { pathToFileURL } from "node:url";
import { cornersOf, unpack } from "./unpack.mjs";

const { chromium, firefox } = createRequire(new URL("../../viewer/", import.meta.url))(
  "playwright-core",
);
export const maps = process.env.OCHRE_MAPS;
// Chromium, or Firefox by WebDriver BiDi with OCHRE_BROWSER=firefox. What that cannot do yet is
// skipped there: downloads, fingers, PDF, pages without scripts, wishes of the reader.
export const isFirefox = process.env.OCHRE_BROWSER === "firefox";
const found = (given, paths) => given ?? paths.find((p) => existsSync(p));
const chrome = found(process.env.CHROMIUM, [
  "/usr/bin/chromium",
  "/usr/bin/chromium-browser",
  "/usr/bin/google-chrome",
]);
const fox = found(process.env.FIREFOX, ["/usr/bin/firefox-esr", "/usr/bin/firefox"]);

export let browser;
before(async () => {
  browser = isFirefox
    ? await firefox.launch({ channel: "moz-firefox", executablePath: fox })
    : await chromium.launch({ executablePath: chrome, args: ["--no-sandbox"] });
});
after(() => browser.close());

export async function open(file, options = {}, before = async () => undefined, allowed = []) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, ...options });
  const page = await context.newPage();
  const faults = [];
  page.on(
    "console",
    (m) =>
      ["error", "warning"].includes(m.type()) &&
      !m.text().includes("willReadFrequently") &&
      faults.push(m.text()),
  );
  page.on("pageerror", (e) => faults.push(e.message));
  const asked = [];
  page.on(
    "request",
    (r) =>
      r.url() !== pathToFileURL(file).href &&
      !r.url().startsWith("data:") &&
      (asked.push(r.url()),
      allowed.some((a) => r.url().startsWith(a)) || faults.push(`request to ${r.url()}`)),
  );
  await before(page);
  await page.goto(pathToFileURL(file).href);
  await page.locator(".ochre-alive .ochre-stage canvas").first().waitFor();
  await painted(page);
  const plan = unpack(JSON.parse(await page.locator("#ochre-plan").textContent()));
  return { page, context, plan, faults, asked };
}

// A layer with all fields that a page has of its kind; those not given are null.
export function blankLayer(given) {
  const { $defs } = JSON.parse(
    readFileSync(new URL("../../inst/schema/plan.schema.json", import.meta.url), "utf8"),
  );
  const part = Object.values($defs).find((d) => d.properties?.kind?.const === given.kind);
  const fields = Object.entries(part.properties).filter(([, v]) => v["x-page"] !== false);
  return { ...Object.fromEntries(fields.map(([name]) => [name, null])), ...given };
}

// The largest ring of an area, and a point well inside it, by trying a grid of points.
export function insideOf(plan, layer, item) {
  const rings = cornersOf(plan.topology, layer.id, item);
  const isIn = (px, py) =>
    rings.reduce((inside, ring) => {
      ring.forEach(([x1, y1], i) => {
        const [x2, y2] = ring[(i + 1) % ring.length];
        if (y1 > py !== y2 > py && px < ((x2 - x1) * (py - y1)) / (y2 - y1) + x1) inside = !inside;
      });
      return inside;
    }, false);
  const xs = rings.flat().map((p) => p[0]),
    ys = rings.flat().map((p) => p[1]);
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  const step = Math.max(x1 - x0, y1 - y0) / 40;
  for (const reach of [4, 3, 2, 1]) {
    for (let x = x0; x <= x1; x += step)
      for (let y = y0; y <= y1; y += step) {
        const around = [
          [0, 0],
          [1, 0],
          [-1, 0],
          [0, 1],
          [0, -1],
        ].every(([a, b]) => isIn(x + a * reach * step, y + b * reach * step));
        const free = plan.layers.every(
          (l) =>
            l.kind !== "symbols" ||
            l.x.every((sx, i) => Math.hypot(sx - x, l.y[i] - y) > l.r[i] + 3 * step),
        );
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
  return [
    box.x + box.width / 2 + (x - (x0 + x1) / 2) * scale,
    box.y + box.height / 2 - (y - (y0 + y1) / 2) * scale,
  ];
}

export const find = (layer, start) => layer.hover.findIndex((t) => t.startsWith(start));
export const colourAt = (page, x, y) =>
  page.evaluate(
    ([x, y]) => {
      const canvas = document.querySelector(".ochre-stage canvas");
      const box = canvas.getBoundingClientRect();
      const dense = canvas.width / box.width;
      const [r, g, b] = canvas
        .getContext("2d")
        .getImageData((x - box.x) * dense, (y - box.y) * dense, 1, 1).data;
      return (
        "#" +
        [r, g, b]
          .map((v) => v.toString(16).padStart(2, "0"))
          .join("")
          .toUpperCase()
      );
    },
    [x, y],
  );

// A page with another plan: the policy names scripts and styles, and the plan is neither.
let variants = 0;
export function variant(file, change) {
  const out = join(mkdtempSync(join(tmpdir(), "ochre-variant-")), `${++variants}.html`);
  writeFileSync(
    out,
    readFileSync(file, "utf8").replace(/(id="ochre-plan">)(.*?)(<\/script>)/s, (_, a, text, b) => {
      const plan = unpack(JSON.parse(text));
      change(plan);
      return a + JSON.stringify(plan).replace(/</g, "\\u003c") + b;
    }),
  );
  return out;
}

// Pixels of a PNG of eight bits without a palette (ISO/IEC 15948), as [r, g, b] at a column and
// row.
export function decodePng(bytes) {
  const width = bytes.readUInt32BE(16),
    height = bytes.readUInt32BE(20),
    kind = bytes[25];
  if (bytes[24] !== 8 || ![2, 6].includes(kind))
    throw new Error(`PNG of ${bytes[24]} bits, kind ${kind}`);
  const parts = [];
  for (let at = 8; at < bytes.length; at += bytes.readUInt32BE(at) + 12)
    if (bytes.toString("latin1", at + 4, at + 8) === "IDAT")
      parts.push(bytes.subarray(at + 8, at + 8 + bytes.readUInt32BE(at)));
  const raw = inflateSync(Buffer.concat(parts)),
    step = kind === 2 ? 3 : 4,
    row = width * step;
  const out = Buffer.alloc(row * height);
  for (let y = 0; y < height; y++) {
    const filter = raw[y * (row + 1)];
    for (let i = 0; i < row; i++) {
      const a = i >= step ? out[y * row + i - step] : 0,
        b = y ? out[(y - 1) * row + i] : 0,
        c = i >= step && y ? out[(y - 1) * row + i - step] : 0;
      const p = a + b - c,
        [pa, pb, pc] = [Math.abs(p - a), Math.abs(p - b), Math.abs(p - c)];
      out[y * row + i] =
        raw[y * (row + 1) + 1 + i] +
        [0, a, b, (a + b) >> 1, pa <= pb && pa <= pc ? a : pb <= pc ? b : c][filter];
    }
  }
  return {
    width,
    height,
    at: (x, y) => [...out.subarray(y * row + x * step, y * row + x * step + 3)],
  };
}

// What a reader sees: a picture of the page.
// After what was done has been drawn: the map draws once for each frame of the screen.
export const painted = (page) =>
  page.evaluate(
    () =>
      new Promise((done) => {
        let frames = 3;
        const next = () => {
          const busy = document.querySelector(".ochre-drawing");
          if (!busy) frames--;
          if (frames > 0) requestAnimationFrame(next);
          else done();
        };
        next();
      }),
  );
export const seen = async (page) => decodePng(await page.screenshot());
export const apart = (a, b) => Math.max(...a.map((v, i) => Math.abs(v - b[i])));
export const hex = (colour) => [1, 3, 5].map((i) => parseInt(colour.slice(i, i + 2), 16));

// Relative luminance and contrast, WCAG 2.2.
const light = (rgb) =>
  rgb
    .map((v) => v / 255)
    .map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4))
    .reduce((sum, v, i) => sum + v * [0.2126, 0.7152, 0.0722][i], 0);
export const contrast = (a, b) => {
  const [hi, lo] = [light(a), light(b)].sort((p, q) => q - p);
  return (hi + 0.05) / (lo + 0.05);
};
