// Pages of the second made-up world, which is as hard as real files are, and what a reader can lay
// over a map.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { before, test } from "node:test";
import { open } from "./reader.mjs";

const folder = mkdtempSync(join(tmpdir(), "ochre-worlds-"));
const code = `
suppressMessages(suppressWarnings({
library(ochre)
counties <- read_boundaries(ochre_demo("counties.topojson.gz"))
figures <- read_statistics(ochre_demo("county-figures.csv"))
joined <- join_statistics(counties, figures, by = c(code = "county"), match = "tidied")
joined$big <- joined$residents * 1e6
own <- border_style(colour = "#00ff00")
map_sheet("Counties") |> shade_areas(joined, residents, borders = own) |> publish("counties.html")
orvane <- read_boundaries(ochre_demo("districts.geojson"))
map_sheet("Districts") |> shade_areas(orvane, population, borders = own) |>
  publish("districts.html")
for (code in c("en", "de", "fr", "es", "pl")) map_sheet("Large", locale = code,
  page = page_style(cards = c("sum", "mean", "highest"), bars = 5)) |>
  shade_areas(joined, big) |> publish(paste0("large-", code, ".html"))
map_sheet("Corner", legend = legend_style("inside")) |> shade_areas(joined, residents) |>
  publish("corner.html")
box <- wk::as_wkb(wk::wkt("POLYGON ((0 0, 3 0, 3 2, 0 2, 0 0))"))
map_sheet("Full", projection = "equirectangular", legend = legend_style("inside")) |>
  shade_areas(tibble::tibble(v = 1, geometry = box), v) |> publish("full.html")
clinics <- read_statistics(ochre_demo("clinics.csv"))
corners <- list(c(-41, 48), c(-36, 48), c(-36, 45), c(-41, 45))
map_sheet("Over", outline = FALSE) |> shade_areas(orvane, legend = "Land") |>
  lay_picture(ochre_demo("chart.png"), "Survey of Orvane", corners = corners, name = "Old chart",
    over = TRUE, opacity = 0.6) |>
  place_symbols(clinics, shape = "pin", legend = "Clinics") |> publish("over.html")
}))`;

before(() =>
  execFileSync("Rscript", ["-e", code], { cwd: folder, stdio: ["ignore", "ignore", "inherit"] }),
);
const see = (name, options) => open(join(folder, name), options);
const settle = (page) => page.waitForFunction(() => document.readyState === "complete");

// How many pixels of the map are of the borders' colour, of all that are drawn; blends count by
// how green they are.
const borderShare = (page) =>
  page.evaluate(() => {
    const canvas = document.querySelector(".ochre-stage canvas:not(.ochre-backdrop)");
    const { data } = canvas.getContext("2d").getImageData(0, 0, canvas.width, canvas.height);
    let [land, border] = [0, 0];
    for (let i = 0; i < data.length; i += 4) {
      if (data[i + 3] < 128) continue;
      land++;
      const green = data[i + 1] - Math.max(data[i], data[i + 2]);
      if (green > 0) border += green / 255;
    }
    return border / land;
  });

for (const name of ["districts", "counties"])
  test(`borders of ${name} leave the map visible, near and far`, async () => {
    const { page, context, faults } = await see(`${name}.html`);
    for (let zoom = 0; zoom < 3; zoom++) {
      assert.ok((await borderShare(page)) < 0.12, `${name} at zoom ${zoom}`);
      await page.locator(".ochre-stage").focus();
      await page.keyboard.press("+");
      await page.waitForTimeout(150);
    }
    assert.deepEqual(faults, []);
    await context.close();
  });

test("words of a legend are whole and apart, in any language and width", async () => {
  for (const code of ["en", "de", "fr", "es", "pl"]) {
    for (const viewport of [
      { width: 1280, height: 800 },
      { width: 640, height: 500 },
      { width: 320, height: 568 },
    ]) {
      const { page, context } = await see(`large-${code}.html`, { viewport });
      await settle(page);
      const rows = await page.locator(".ochre-class").evaluateAll((all) =>
        all.map((row) => {
          const side = row.closest(".ochre-legend").getBoundingClientRect();
          const boxes = [...row.querySelectorAll(":scope > :not(.ochre-unseen)")].map((child) =>
            child.getBoundingClientRect(),
          );
          const inside = boxes.every((b) => b.left >= side.left - 1 && b.right <= side.right + 1);
          const apart = boxes.every((b, i) => i === 0 || boxes[i - 1].right <= b.left + 1);
          const whole = [...row.querySelectorAll(":scope > :not(.ochre-unseen)")].every(
            (c) => c.scrollWidth <= c.clientWidth + 1 || !c.clientWidth,
          );
          return inside && apart && whole;
        }),
      );
      assert.ok(rows.length >= 5);
      assert.ok(rows.every(Boolean), `${code} at ${viewport.width}`);
      // Title, totals and ranked bars are whole as well.
      const cut = await page
        .locator(".ochre-title, .ochre-card, .ochre-card *, .ochre-bars *")
        .evaluateAll((all) =>
          all
            .filter((e) => e.clientWidth > 0 && e.scrollWidth > e.clientWidth + 1)
            .map((e) => `${e.className} ${e.textContent}`),
        );
      assert.deepEqual(cut, [], `${code} at ${viewport.width}`);
      // Under a narrow map the legend has all the width there is.
      const share = await page.evaluate(
        () =>
          document.querySelector(".ochre-legend").clientWidth /
          document.querySelector(".ochre-body").clientWidth,
      );
      assert.ok(viewport.width > 400 || share > 0.95);
      await context.close();
    }
  }
});

test("a legend stands in a corner where it covers nothing, else beside the map", async () => {
  const { page, context, faults } = await see("corner.html");
  const legend = await page.locator(".ochre-legend").boundingBox();
  const stage = await page.locator(".ochre-stage").boundingBox();
  assert.ok(legend.x >= stage.x && legend.x + legend.width <= stage.x + stage.width);
  assert.ok(legend.y >= stage.y && legend.y + legend.height <= stage.y + stage.height + 1);
  // Under it the map is empty.
  const under = await page.evaluate((box) => {
    const canvas = document.querySelector(".ochre-stage canvas:not(.ochre-backdrop)");
    const at = canvas.getBoundingClientRect();
    const scale = canvas.width / at.width;
    const { data } = canvas
      .getContext("2d")
      .getImageData(
        (box.x - at.x) * scale,
        (box.y - at.y) * scale,
        box.width * scale,
        box.height * scale,
      );
    return data.filter((v, i) => i % 4 === 3 && v > 0).length;
  }, legend);
  assert.equal(under, 0);
  await context.close();
  const full = await see("full.html", { viewport: { width: 900, height: 460 } });
  const beside = await full.page.locator(".ochre-legend").boundingBox();
  const map = await full.page.locator(".ochre-stage").boundingBox();
  assert.ok(beside.x >= map.x + map.width - 1);
  assert.deepEqual([...faults, ...full.faults], []);
  await full.context.close();
});

test("a picture over the plain ground is off at first, and mixed by its slider", async () => {
  const { page, context, plan, faults } = await see("over.html");
  assert.deepEqual(plan.backdrops, []);
  const inked = () =>
    page.evaluate(() => {
      const canvas = document.querySelector("canvas.ochre-backdrop");
      const { data } = canvas.getContext("2d").getImageData(0, 0, canvas.width, canvas.height);
      return data.filter((v, i) => i % 4 === 3 && v > 0).length;
    });
  assert.equal(await inked(), 0);
  assert.ok(!(await page.locator(".ochre-credit").first().textContent()).includes("Survey"));
  await page.getByLabel("Old chart", { exact: true }).check();
  await page.waitForFunction(() => {
    const canvas = document.querySelector("canvas.ochre-backdrop");
    const { data } = canvas.getContext("2d").getImageData(0, 0, canvas.width, canvas.height);
    return data.some((v, i) => i % 4 === 3 && v > 0);
  });
  const opacity = () =>
    page
      .locator("canvas.ochre-backdrop")
      .first()
      .evaluate((c) => c.style.opacity);
  assert.equal(await opacity(), "0.6");
  assert.match(await page.locator(".ochre-credit").first().textContent(), /Survey of Orvane/);
  await page.locator(".ochre-overlays input[type=range]").fill("25");
  assert.equal(await opacity(), "0.25");
  await page.getByLabel("Old chart", { exact: true }).uncheck();
  assert.equal(await inked(), 0);
  assert.deepEqual(faults, []);
  await context.close();
});

test("a pin answers at its head, and its tip is on its place", async () => {
  const { page, context, plan } = await see("over.html");
  const layer = plan.layers.findIndex((l) => l.kind === "symbols");
  const { x, y, r, outline, hover } = plan.layers[layer];
  const stage = await page.locator(".ochre-stage").boundingBox();
  const [x0, y0, x1, y1] = plan.frame;
  const scale = Math.min(stage.width / (x1 - x0), stage.height / (y1 - y0)) * 0.96;
  const at = x.length - 1;
  const px = stage.x + stage.width / 2 + (x[at] - (x0 + x1) / 2) * scale;
  const py = stage.y + stage.height / 2 - (y[at] - (y0 + y1) / 2) * scale;
  const head = Math.max(...outline.y) * 0.6 * r[at] * scale;
  await page.mouse.move(px, py - head);
  await page.locator(".ochre-hover").filter({ hasText: hover[at] }).waitFor({ timeout: 3000 });
  await context.close();
});
