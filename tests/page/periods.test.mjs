// Periods, classes that are switched, and the layers of points, lines and labels.
import assert from "node:assert/strict";
import { join } from "node:path";
import { test } from "node:test";
import { colourAt, insideOf, maps, onPage, open, painted } from "./reader.mjs";
import { ringsOf } from "./unpack.mjs";

const shown = (layer, panel, item) => {
  const k = layer.panels[panel].class[item];
  return k ? layer.colours[k - 1] : layer.no_data.colour;
};

test("slider, steps, keys and play show each period in the classes of all", async () => {
  for (const options of [
    {},
    { viewport: { width: 360, height: 740 }, hasTouch: true, isMobile: true },
  ]) {
    const { page, plan, faults, context } = await open(join(maps, "months.html"), options);
    const layer = plan.layers[0];
    const last = plan.panels.length - 1;
    // An area that has no data in one period only.
    const item = layer.panels[0].class.findIndex((k, i) => k === 0 && layer.panels[1].class[i] > 0);
    const place = insideOf(plan, { ...layer }, item);
    const colour = async () => colourAt(page, ...(await onPage(page, plan, place)));
    const name = page.locator(".ochre-period-name");
    assert.equal(await name.textContent(), plan.panels[last]);
    assert.equal(await colour(), shown(layer, last, item));
    await page.locator(".ochre-slider").focus();
    await page.keyboard.press("Home");
    assert.equal(await name.textContent(), plan.panels[0]);
    await painted(page);
    assert.equal(await colour(), layer.no_data.colour);
    await page.getByRole("button", { name: "Next" }).click();
    await painted(page);
    assert.equal(await colour(), shown(layer, 1, item));
    // The legend counts the areas of this period.
    const counts = await page.locator(".ochre-class-count").allTextContents();
    assert.deepEqual(counts.slice(0, layer.labels.length), layer.panels[1].count_labels);
    assert.equal(await page.locator(".ochre-legend-note").textContent(), layer.legend_note);
    await page.getByRole("button", { name: "Speed" }).click();
    await page.getByRole("button", { name: "Speed" }).click();
    await page.getByRole("button", { name: "Play" }).click();
    await page.waitForFunction(
      (text) => document.querySelector(".ochre-period-name").textContent === text,
      plan.panels[last],
      { timeout: 8000 },
    );
    await page.getByRole("button", { name: "Play" }).waitFor();
    assert.equal(await colour(), shown(layer, last, item));
    for (const part of [".ochre-periods", ".ochre-buttons"]) {
      const b = await page.locator(part).boundingBox();
      assert.ok(
        b.x >= 0 && b.x + b.width <= (options.viewport?.width ?? 1280),
        `${part} is on the screen`,
      );
    }
    const [bar, side] = [
      await page.locator(".ochre-periods").boundingBox(),
      await page.locator(".ochre-legend").first().boundingBox(),
    ];
    assert.ok(
      bar.x + bar.width <= side.x + 1 || bar.y + bar.height <= side.y + 1,
      "the bar and the legend do not overlap",
    );
    assert.deepEqual(faults, []);
    await context.close();
  }
});

test("hover and popup have the words of the period, the area's trend with its gap", async () => {
  const { page, plan, faults, context } = await open(join(maps, "months.html"));
  const layer = plan.layers[0];
  const last = plan.panels.length - 1;
  const item = layer.panels[0].class.findIndex((k, i) => k === 0 && layer.panels[1].class[i] > 0);
  const at = await onPage(page, plan, insideOf(plan, layer, item));
  await page.mouse.move(...at);
  const label = page.locator(".ochre-hover");
  await label.waitFor();
  assert.equal(await label.locator("span").last().textContent(), layer.panels[last].hover[item]);
  const path = await label.locator(".ochre-trend-line").getAttribute("d");
  const known = layer.panels.map((p) => p.share[item]).filter((s) => s >= 0);
  assert.equal(path.match(/[ML]/g).length, known.length);
  assert.equal(path.match(/M/g).length, 1, "the gap is at the beginning");
  const needle = await page.locator(".ochre-needle").getAttribute("transform");
  assert.ok(
    Math.abs(
      Number(needle.match(/\(([\d.]+)/)[1]) - (layer.panels[last].share[item] / 1000) * 190,
    ) < 0.2,
  );
  await page.mouse.click(...at);
  await page.locator(".ochre-popup").waitFor();
  assert.deepEqual(
    await page.locator(".ochre-popup dd").allTextContents(),
    layer.panels[last].popup.fields.map((f) => f[item]),
  );
  const higher = layer.panels[last].share.filter((s) => s >= 0).length;
  assert.equal(
    await page.locator(".ochre-popup-rank").textContent(),
    `Rank ${layer.panels[last].rank[item]} of ${higher}`,
  );
  assert.deepEqual(faults, []);
  await context.close();
});

test("a class is brought out by the pointer, switched off and on by a press or a key", async () => {
  const { page, plan, faults, context } = await open(join(maps, "regions.html"));
  const layer = plan.layers[0];
  const item = layer.class.findIndex(
    (k, i) => k === 2 && ringsOf(plan.topology, layer.id)[i].flat().length > 4,
  );
  const other = layer.class.findIndex(
    (k, i) => k === 4 && ringsOf(plan.topology, layer.id)[i].flat().length > 4,
  );
  const at = await onPage(page, plan, insideOf(plan, layer, item));
  const away = await onPage(page, plan, insideOf(plan, layer, other));
  const row = page.locator("button.ochre-class").nth(1);
  await row.hover();
  await painted(page);
  assert.equal(await colourAt(page, ...at), layer.colours[1]);
  assert.notEqual(await colourAt(page, ...away), layer.colours[3], "the others recede");
  await row.click();
  assert.equal(await row.getAttribute("aria-pressed"), "false");
  await page.mouse.move(...at);
  await painted(page);
  assert.notEqual(await colourAt(page, ...at), layer.colours[1]);
  assert.equal(await colourAt(page, ...away), layer.colours[3]);
  assert.equal(await page.locator(".ochre-hover").isVisible(), false);
  await row.focus();
  await page.keyboard.press("Enter");
  await page.mouse.move(...at);
  await page.locator(".ochre-hover").waitFor();
  assert.equal(await colourAt(page, ...at), layer.colours[1]);
  assert.deepEqual(faults, []);
  await context.close();
});

test("a dark page is dark, its density has the legend's colours, its symbols answer", async () => {
  const { page, plan, faults, context } = await open(join(maps, "places.html"));
  assert.equal(
    await page.locator(".ochre-map").evaluate((m) => getComputedStyle(m).backgroundColor),
    `rgb(${[1, 3, 5].map((i) => parseInt(plan.inks.ground.slice(i, i + 2), 16)).join(", ")})`,
  );
  const density = plan.layers[0];
  assert.equal(
    density.grid.runs.reduce((a, b) => a + b, 0),
    density.grid.columns * density.grid.rows,
  );
  assert.deepEqual(
    await page.locator(".ochre-legend-density .ochre-class-label").allTextContents(),
    density.labels,
  );
  const swatches = await page
    .locator(".ochre-legend-density .ochre-swatch")
    .evaluateAll((all) => all.map((s) => s.style.backgroundColor));
  assert.equal(swatches.length, density.colours.length);
  const symbols = plan.layers[3];
  const [x, y] = await onPage(page, plan, [symbols.x[0], symbols.y[0]]);
  await page.mouse.move(x, y);
  await page.locator(".ochre-hover").waitFor();
  assert.equal(await page.locator(".ochre-hover").textContent(), symbols.hover[0]);
  // A ferry answers along its line with the format of its variable.
  const ferry = plan.layers[2];
  assert.ok(
    ferry.widths.labels.every((l) => /^\d+\u00a0min$/.test(l)),
    String(ferry.widths.labels),
  );
  assert.deepEqual(faults, []);
  await context.close();
});
