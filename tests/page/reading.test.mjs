// What a reader does beside looking: search, table, layers, bars, links, tools.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { pathToFileURL } from "node:url";
import { file, near, start } from "./everything.mjs";
import { colourAt, insideOf, onPage, painted, isFirefox } from "./reader.mjs";

test("search finds names without accents and codes, by keys and by touch", async () => {
  const { page, plan, context, others } = await start();
  const layer = plan.layers[0];
  const field = page.getByRole("combobox", { name: "Search" });
  await field.fill("hORROW");
  const item = layer.names.indexOf("Hörrow");
  assert.equal(await page.locator(".ochre-found").first().textContent(), "Hörrow");
  await field.press("Enter");
  await page.locator(".ochre-popup").waitFor();
  assert.equal(await page.locator("[aria-live]").textContent(), layer.hover[item]);
  assert.equal(await page.evaluate(() => document.activeElement.className), "ochre-stage");
  await painted(page);
  const box = await page.locator(".ochre-stage").boundingBox();
  assert.equal(
    await colourAt(page, box.x + box.width / 2, box.y + box.height / 2),
    layer.colours[layer.class[item] - 1],
    "in the middle of the view",
  );
  await field.fill(layer.codes[20]);
  assert.equal(await page.locator(".ochre-found").first().textContent(), layer.names[20]);
  await field.fill("constr");
  await field.press("ArrowDown");
  assert.equal(
    await page.locator('[aria-selected="true"] .ochre-found').textContent(),
    "constructor",
  );
  await field.fill("xyzzy");
  assert.equal(await page.locator(".ochre-none").textContent(), "Nothing found");
  await field.press("Escape");
  assert.equal(await page.locator(".ochre-suggestions").isVisible(), false);
  assert.deepEqual(others(), []);
  await context.close();
});

test(
  "the table has every value, sorts with missing ones last, leads to the map",
  { skip: isFirefox },
  async () => {
    const { page, plan, context, others } = await start();
    const layer = plan.layers[0];
    await page.getByRole("button", { name: "Table", exact: true }).click();
    const cells = (k) => page.locator(`.ochre-table tbody tr > :nth-child(${k})`).allTextContents();
    assert.equal((await cells(1)).length, layer.names.length);
    await page.locator(".ochre-table th button").nth(3).click();
    const values = await cells(4);
    assert.equal(
      await page.locator(".ochre-table th").nth(3).getAttribute("aria-sort"),
      "descending",
    );
    assert.equal(values.at(-1), layer.no_data.label);
    const numbers = values.slice(0, -1).map(Number);
    assert.deepEqual(
      numbers,
      [...numbers].sort((a, b) => b - a),
    );
    const waiting = page.waitForEvent("download");
    await page.getByRole("button", { name: "Save as CSV" }).click();
    const text = readFileSync(await (await waiting).path(), "utf8");
    const lines = text.replace("\ufeff", "").trim().split("\r\n");
    assert.equal(lines.length, 1 + layer.names.length);
    assert.equal(lines[0], 'Name,Code,Region,"Over 64, percent",Class,Report,Found');
    assert.ok(text.includes("'=cmd()"));
    // As the table is sorted.
    const first = layer.numbers.indexOf(Math.max(...layer.numbers));
    assert.ok(
      lines[1].startsWith(
        [layer.names, layer.codes, layer.regions, layer.numbers].map((v) => v[first]).join(),
      ),
      lines[1],
    );
    await page.locator(".ochre-table tbody button").first().click();
    assert.equal(await page.locator(".ochre-table").isVisible(), false);
    const top = layer.numbers.indexOf(Math.max(...layer.numbers.filter((v) => v !== null)));
    assert.equal(await page.locator("[aria-live]").textContent(), layer.hover[top]);
    await page.locator(".ochre-popup").waitFor();
    assert.deepEqual(others(), []);
    await context.close();
  },
);

test("bars and map are linked both ways, cards have the totals", async () => {
  const { page, plan, context, others } = await start();
  const layer = plan.layers[0];
  const order = layer.numbers
    .map((v, i) => [v, i])
    .filter(([v]) => v !== null)
    .sort((a, b) => b[0] - a[0] || a[1] - b[1]);
  assert.deepEqual(
    await page.locator(".ochre-bar-name").allTextContents(),
    order.slice(0, 5).map(([, i]) => layer.names[i]),
  );
  assert.deepEqual(await page.locator(".ochre-card dd").allTextContents(), [
    (order.reduce((s, [v]) => s + v, 0) / order.length).toFixed(1),
    order[0][0].toFixed(1),
  ]);
  const [, item] = order[1];
  await page.mouse.move(...(await onPage(page, plan, insideOf(plan, layer, item))));
  await painted(page);
  assert.equal(
    await page.locator(".ochre-bar-row.ochre-lit .ochre-bar-name").textContent(),
    layer.names[item],
  );
  await page.locator(".ochre-bar-row").nth(2).hover();
  assert.equal(
    await page.locator(".ochre-class.ochre-lit .ochre-class-label").textContent(),
    layer.labels[layer.class[order[2][1]] - 1],
  );
  assert.deepEqual(others(), []);
  await context.close();
});

test("layers are switched, made fainter and ordered", async () => {
  const { page, plan, context, others } = await start();
  const layer = plan.layers[0];
  const item = layer.names.indexOf("Hörrow");
  const [x, y] = await onPage(page, plan, insideOf(plan, layer, item));
  const colour = layer.colours[layer.class[item] - 1];
  assert.equal(await colourAt(page, x, y), colour);
  await page.locator(".ochre-layers summary").click();
  const box = page.getByRole("checkbox", { name: "Over 64, percent" });
  await box.uncheck();
  await painted(page);
  assert.equal(await colourAt(page, x, y), "#000000", "nothing is there");
  await page.mouse.move(x, y);
  assert.equal(await page.locator(".ochre-hover").isVisible(), false);
  await box.check();
  assert.equal(await page.getByRole("slider").count(), 0, "sliders wait behind a control");
  await page.getByRole("button", { name: "Order and opacity" }).click();
  await page.getByRole("slider", { name: "Opacity of Over 64, percent" }).fill("40");
  await painted(page);
  const alpha = await page.evaluate(
    ([px, py]) => {
      const c = document.querySelector(".ochre-stage canvas");
      const b = c.getBoundingClientRect();
      return c.getContext("2d").getImageData(px - b.x, py - b.y, 1, 1).data[3];
    },
    [x, y],
  );
  near(alpha / 255, 0.4, 0.02);
  const names = () => page.locator(".ochre-layer label").allTextContents();
  assert.deepEqual(await names(), ["Ferry", "Over 64, percent"]);
  await page.getByRole("button", { name: "Move Over 64, percent up" }).click();
  assert.deepEqual(await names(), ["Over 64, percent", "Ferry"]);
  assert.deepEqual(others(), []);
  await context.close();
});

test("links go to safe schemes only and open apart, values in addresses are encoded", async () => {
  const { page, plan, context, others } = await start();
  const layer = plan.layers[0];
  for (const item of [0, 6, 7]) {
    await page.keyboard.press("Escape");
    await page.mouse.click(...(await onPage(page, plan, insideOf(plan, layer, item))));
    await page.locator(".ochre-popup").waitFor();
    const links = await page
      .locator(".ochre-popup a")
      .evaluateAll((all) =>
        all.map((a) => [a.getAttribute("href"), a.textContent, a.rel, a.target]),
      );
    const found = `https://example.org/q?x=${encodeURIComponent(layer.names[item]).replace(/[!'()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`)}`;
    const expected = [
      ...(item === 6
        ? []
        : [[`https://example.org/${layer.codes[item]}`, `On ${layer.names[item]}`]]),
      [found, found],
    ];
    assert.deepEqual(
      links.map((l) => l.slice(0, 2)),
      expected,
    );
    for (const [, , rel, target] of links)
      assert.deepEqual([rel, target], ["noopener noreferrer", "_blank"]);
    if (item !== 6) await page.locator(".ochre-popup dd", { hasText: "A photo" }).waitFor();
  }
  assert.equal(await page.evaluate(() => window.broken), undefined);
  const policy = await page
    .locator('meta[http-equiv="Content-Security-Policy"]')
    .getAttribute("content");
  assert.match(policy, /img-src data: https:\/\/example\.org;/);
  assert.deepEqual(others(), []);
  await context.close();
});

test("names of any length and direction stay inside of all that shows them", async () => {
  for (const viewport of [
    { width: 1280, height: 800 },
    { width: 320, height: 640 },
  ]) {
    const { page, plan, context, others } = await start({ viewport });
    await page.getByRole("combobox").fill("longlong");
    const wide = async (part) =>
      page
        .locator(part)
        .first()
        .evaluate((b) => b.getBoundingClientRect())
        .then((b) =>
          assert.ok(
            b.left >= -0.5 && b.right <= viewport.width + 0.5,
            `${part} at ${viewport.width}: ${b.left} to ${b.right}`,
          ),
        );
    await wide(".ochre-suggestions");
    await page.keyboard.press("Enter");
    await page.locator(".ochre-popup").waitFor();
    await wide(".ochre-popup");
    const stage = await page.locator(".ochre-stage").boundingBox();
    const card = await page.locator(".ochre-popup").boundingBox();
    const low = viewport.width > 600 ? stage.y + stage.height : viewport.height;
    assert.ok(card.y >= stage.y && card.y + card.height <= low + 1, "the popup is seen whole");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Table", exact: true }).click();
    await wide(".ochre-table");
    for (const part of [".ochre-buttons", ".ochre-controls", ".ochre-title"]) await wide(part);
    assert.ok(plan.layers[0].names[9].length === 10000);
    assert.deepEqual(others(), []);
    await context.close();
  }
});

test("distances and areas are those on the ellipsoid", async () => {
  const { page, plan, context, others } = await start({
    permissions: ["clipboard-read", "clipboard-write"],
  });
  await page.getByRole("button", { name: "Measure" }).click();
  const [x0, y0, x1, y1] = plan.frame;
  // Near the centre of an equal-area map its units are metres.
  const [cx, cy] = [(x0 + x1) / 2, (y0 + y1) / 2];
  for (const [dx, dy] of [
    [-20000, -20000],
    [20000, -20000],
    [20000, 20000],
  ])
    await page.mouse.click(...(await onPage(page, plan, [cx + dx, cy + dy])));
  const [km, km2] = (await page.locator(".ochre-note").textContent())
    .match(/\d[\d,.]*/g)
    .map((v) => Number(v.replace(/,/g, "")));
  near(km, 80, 0.5);
  near(km2, 800, 8);
  await page.keyboard.press("Escape");
  assert.equal(await page.locator(".ochre-note").isVisible(), false);
  await page.getByRole("button", { name: "Zoom in" }).click();
  await page.getByRole("button", { name: "Zoom in" }).click();
  const box = await page.locator(".ochre-stage").boundingBox();
  await painted(page);
  const places = [
    [0.3, 0.3],
    [0.5, 0.5],
    [0.6, 0.7],
    [0.8, 0.4],
  ].map(([u, v]) => [box.x + u * box.width, box.y + v * box.height]);
  const before = await Promise.all(places.map(([x, y]) => colourAt(page, x, y)));
  await page.getByRole("button", { name: "Share this view" }).click();
  const address = await page.evaluate(() => location.href);
  assert.match(address, /#view=/);
  await page.goto("about:blank");
  await page.goto(address);
  await page.locator(".ochre-alive .ochre-stage canvas").first().waitFor();
  await painted(page);
  assert.deepEqual(await Promise.all(places.map(([x, y]) => colourAt(page, x, y))), before);
  await page.goto("about:blank");
  await page.goto(`${pathToFileURL(file).href}#view=NaN,9e99,-1,99999`);
  await page.locator(".ochre-alive .ochre-stage canvas").first().waitFor();
  assert.deepEqual(others(), []);
  await context.close();
});

test("the reader's position is asked only on a press, and shown", { skip: isFirefox }, async () => {
  const { page, context, others } = await start(
    { permissions: ["geolocation"], geolocation: { longitude: -38.2, latitude: 46.9 } },
    () => {
      const ask = navigator.geolocation.getCurrentPosition.bind(navigator.geolocation);
      window.asked = 0;
      navigator.geolocation.getCurrentPosition = (...rest) => {
        window.asked++;
        ask(...rest);
      };
    },
  );
  await page.mouse.move(300, 300);
  assert.equal(await page.evaluate(() => window.asked), 0);
  await page.getByRole("button", { name: "My position" }).click();
  await page.waitForFunction(() => document.querySelector(".ochre-board").width > 1);
  assert.equal(await page.evaluate(() => window.asked), 1);
  assert.deepEqual(others(), []);
  await context.close();
});
