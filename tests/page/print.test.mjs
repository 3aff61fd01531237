// On paper, in pictures that are saved, and before the script runs.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test } from "node:test";
import { pathToFileURL } from "node:url";
import { apart, browser, decodePng, hex, isFirefox, maps, open, painted } from "./reader.mjs";

const folder = mkdtempSync(join(tmpdir(), "ochre-print-"));
const names = ["map", "months", "ages", "regions", "places", "pairs"];
// A round symbol of a colour that nothing else has, and a long legend.
writeFileSync(
  join(folder, "run.R"),
  `
  library(ochre)
  options(ochre.quiet = TRUE)
  areas <- read_boundaries(ochre_demo("districts.geojson"))
  areas$kind <- paste("Kind", seq_len(nrow(areas)) %% 11)
  one <- data.frame(longitude = -38.6, latitude = 46.6, n = 1, name = "One")
  note <- paste(rep("A note that is long.", 21), collapse = " ")
  for (place in c("beside", "below", "inside")) {
    map_sheet("Round", note = note, source = "The office", legend = legend_style(place)) |>
      shade_areas(areas, kind, steps = steps_categories()) |>
      place_symbols(one, n, colour = "#00FF00", sizes = c(26, 30), legend = "Round") |>
      publish(paste0(place, ".html"))
  }
  page <- page_style(cards = c("sum", "mean", "highest"), bars = 12)
  map_sheet("Full", note = substr(note, 1, 120), source = "The office", page = page) |>
    shade_areas(areas, population) |>
    place_symbols(one, n, colour = "#00FF00", legend = "Round") |>
    publish("full.html")
`,
);
execFileSync("Rscript", ["run.R"], { cwd: folder, stdio: "ignore" });

const pixels = (pdf, page = 1) => {
  const name = join(folder, "page");
  const range = ["-f", String(page), "-l", String(page), "-singlefile"];
  execFileSync("pdftoppm", ["-r", "100", ...range, "-png", pdf, name]);
  return decodePng(readFileSync(`${name}.png`));
};
const pagesOf = (pdf) =>
  Number(/Pages:\s+(\d+)/.exec(execFileSync("pdfinfo", [pdf], { encoding: "utf8" }))[1]);
// The box of the largest patch of a colour.
function boxOf(picture, colour) {
  const { width, height } = picture;
  const wanted = hex(colour);
  const is = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      is[y * width + x] = apart(picture.at(x, y), wanted) < 60 ? 1 : 0;
  let best = { size: 0, width: 0, height: 0 };
  for (let from = 0; from < is.length; from++) {
    if (!is[from]) continue;
    let [size, x0, y0, x1, y1] = [0, Infinity, Infinity, -1, -1];
    const open = [from];
    is[from] = 0;
    while (open.length) {
      const at = open.pop();
      const [x, y] = [at % width, Math.floor(at / width)];
      size++;
      [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
      for (const next of [at - 1, at + 1, at - width, at + width])
        if (is[next]) {
          is[next] = 0;
          open.push(next);
        }
    }
    if (size > best.size) best = { size, width: x1 - x0 + 1, height: y1 - y0 + 1 };
  }
  return best;
}

test(
  "on paper a circle is round, the legend whole, all on one page",
  { skip: isFirefox },
  async () => {
    for (const name of ["beside", "below", "inside"])
      for (const viewport of [
        { width: 1280, height: 800 },
        { width: 390, height: 844 },
      ])
        for (const landscape of [false, true]) {
          const { page, plan, context, faults } = await open(join(folder, `${name}.html`), {
            viewport,
          });
          const path = join(folder, "out.pdf");
          await page.pdf({ path, format: "A4", landscape, printBackground: true });
          const what = `${name} from ${viewport.width}, ${landscape ? "across" : "upright"}`;
          assert.equal(pagesOf(path), 1, what);
          const circle = boxOf(pixels(path), "#00FF00");
          assert.ok(circle.width > 20, `${what}: ${JSON.stringify(circle)}`);
          assert.ok(
            Math.abs(circle.width - circle.height) <= 1,
            `${what}: ${JSON.stringify(circle)}`,
          );
          const text = execFileSync("pdftotext", ["-layout", path, "-"], { encoding: "utf8" });
          for (const word of [...plan.layers[0].labels, plan.title, plan.source, "Round"])
            assert.ok(text.includes(word), `${what}: ${word}`);
          assert.deepEqual(faults, []);
          await context.close();
        }
  },
);

test("every kind of page prints on one sheet", { skip: isFirefox }, async () => {
  for (const name of [...names.map((n) => join(maps, `${n}.html`)), join(folder, "full.html")]) {
    const { page, context, faults } = await open(name);
    const path = join(folder, "out.pdf");
    for (const landscape of [false, true]) {
      await page.pdf({ path, format: "A4", landscape, printBackground: true });
      assert.equal(pagesOf(path), 1, name);
    }
    // The map is there again afterwards, and only once.
    assert.equal(await page.locator("svg.ochre-paper").count(), 0);
    assert.deepEqual(faults, []);
    await context.close();
  }
});

test(
  "the map is saved as a picture with title, legend and source",
  { skip: isFirefox },
  async () => {
    const file = join(folder, "tools.html");
    writeFileSync(
      join(folder, "tools.R"),
      `suppressMessages(library(ochre)); options(ochre.quiet = TRUE)
    x <- read_boundaries(ochre_demo("districts.geojson"))
    map_sheet("Saved <map>", source = "The office", page = page_style(tools = "picture")) |>
      shade_areas(x, population, steps = steps_equal(4), legend = "People") |>
      publish("tools.html")`,
    );
    execFileSync("Rscript", ["tools.R"], { cwd: folder, stdio: "ignore" });
    const { page, plan, context, faults } = await open(file, { acceptDownloads: true }, undefined, [
      "blob:",
    ]);
    const take = async (kind) => {
      await page.getByRole("button", { name: plan.words.picture_tool }).click();
      const waiting = page.waitForEvent("download");
      await page.getByRole("button", { name: kind, exact: true }).click();
      return (await waiting).path();
    };
    const text = readFileSync(await take("SVG"), "utf8");
    for (const word of ["Saved", "&lt;map&gt;", "People", "The office", ...plan.layers[0].labels])
      assert.ok(text.includes(word), word);
    const fills = [...text.matchAll(/<path[^>]*fill="(#[0-9A-F]{6})"/g)].map((m) => m[1]);
    for (const colour of plan.layers[0].colours) assert.ok(fills.includes(colour), colour);
    const saved = decodePng(readFileSync(await take("PNG")));
    assert.deepEqual([saved.width, saved.height], [2560, 1600]);
    // What is saved is what is seen, at twice the size.
    const seen = decodePng(await page.screenshot());
    let [same, all] = [0, 0];
    for (let x = 40; x < 1000; x += 23)
      for (let y = 90; y < 700; y += 19) {
        all++;
        same += apart(saved.at(2 * x, 2 * y), seen.at(x, y)) < 40;
      }
    assert.ok(same / all > 0.97, `${same} of ${all}`);
    // On a low screen the legend scrolls; in the picture it is whole.
    await page.setViewportSize({ width: 1280, height: 260 });
    await page.locator(".ochre-legend").evaluate((legend) => (legend.scrollTop = 40));
    const low = readFileSync(await take("SVG"), "utf8");
    const at = (word) =>
      Number(low.match(new RegExp(`<text x="[^"]*" y="([^"]*)"[^>]*>${word}`))[1]);
    assert.ok(Number(low.match(/height="([^"]*)"/)[1]) > at(plan.source));
    for (const word of ["People", ...plan.layers[0].labels.map((text) => text.split("\u2013")[0])])
      assert.ok(at(word) > 0 && at(word) < at(plan.source), word);
    assert.deepEqual(faults, []);
    await context.close();
  },
);

test("the picture stands before the script, and the live map takes its place", async () => {
  for (const name of ["map", "months", "ages", "places", "pairs"])
    for (const [width, height] of [
      [1280, 800],
      [820, 1180],
      [390, 844],
      [320, 568],
      [844, 390],
    ]) {
      const context = await browser.newContext({ viewport: { width, height } });
      const page = await context.newPage();
      await page.addInitScript(() => {
        const look = () => {
          const stage = document.querySelector(".ochre-stage");
          const first = document.querySelector(".ochre-first");
          if (!stage || !first || document.readyState === "loading")
            return requestAnimationFrame(look);
          const box = (e) => e.getBoundingClientRect().toJSON();
          window.before = { stage: box(stage), paths: first.querySelectorAll("*").length };
        };
        requestAnimationFrame(look);
      });
      await page.goto(pathToFileURL(join(maps, `${name}.html`)).href);
      await page.locator(".ochre-alive").waitFor();
      await painted(page);
      const before = await page.evaluate(() => window.before);
      const after = await page
        .locator(".ochre-stage")
        .evaluate((e) => e.getBoundingClientRect().toJSON());
      assert.ok(before.paths > 1, `${name} has a picture`);
      for (const side of ["left", "top", "width", "height"])
        assert.ok(
          Math.abs(before.stage[side] - after[side]) <= 1,
          `${name} at ${width}x${height}: ${side} ${before.stage[side]} becomes ${after[side]}`,
        );
      assert.equal(await page.locator(".ochre-first").count(), 0);
      // The map has most of the screen.
      const share = (after.width * after.height) / (width * height);
      if (width === 1280) assert.ok(share >= 0.6, `${name}: ${share} of the screen`);
      if (width < 400) assert.ok(share >= 0.45, `${name}: ${share} of a phone`);
      await context.close();
    }
});

test(
  "the still picture has the colours of the map where they are",
  { skip: isFirefox },
  async () => {
    const viewport = { width: 1280, height: 800 };
    const still = await browser.newContext({ javaScriptEnabled: false, viewport });
    const quiet = await still.newPage();
    await quiet.goto(pathToFileURL(join(maps, "regions.html")).href);
    const { page, context } = await open(join(maps, "regions.html"));
    const [a, b] = [await quiet.screenshot(), await page.screenshot()].map(decodePng);
    const stage = await page.locator(".ochre-stage").boundingBox();
    let [same, all] = [0, 0];
    for (let x = stage.x + 10; x < stage.x + stage.width - 130; x += 11)
      for (let y = stage.y + 60; y < stage.y + stage.height - 50; y += 11) {
        all++;
        same += apart(a.at(Math.round(x), Math.round(y)), b.at(Math.round(x), Math.round(y))) < 30;
      }
    assert.ok(same / all > 0.95, `${same} of ${all}`);
    await context.close();
    await still.close();
  },
);
