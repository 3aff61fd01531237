// The published page in headless Chromium, opened from disk as a reader opens it.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test } from "node:test";
import { pathToFileURL } from "node:url";
import {
  browser,
  colourAt,
  find,
  insideOf,
  maps,
  onPage,
  open,
  painted,
  isFirefox,
} from "./reader.mjs";
import { ringsOf } from "./unpack.mjs";

test("hovering any district shows its label and lights its class", async () => {
  const { page, plan, faults, context } = await open(join(maps, "map.html"));
  const layer = plan.layers[0];
  for (const start of ["The Nine Skerries", "Hörrow", "Saint-Ilmock", "L'Zérumillac", "Ulvdre"]) {
    const item = find(layer, start);
    assert.ok(item >= 0, start);
    const [x, y] = await onPage(page, plan, insideOf(plan, layer, item));
    await page.mouse.move(x, y);
    await page.locator(".ochre-hover").waitFor();
    assert.equal(await page.locator(".ochre-hover").textContent(), layer.hover[item]);
    const k = layer.class[item];
    assert.equal(
      await page.locator(".ochre-lit .ochre-class-label").textContent(),
      k ? layer.labels[k - 1] : layer.no_data.label,
    );
    assert.equal(await colourAt(page, x, y), k ? layer.colours[k - 1] : layer.no_data.colour);
    const label = await page.locator(".ochre-hover").boundingBox();
    assert.ok(
      Math.hypot(label.x - x, label.y - y) < 360 && label.x >= 0 && label.x + label.width <= 1280,
      "beside the pointer",
    );
  }
  await page.mouse.move(1275, 795);
  assert.equal(await page.locator(".ochre-hover").isVisible(), false);
  assert.deepEqual(faults, []);
  await context.close();
});

test("a click opens the popup with its fields and class; Escape closes it", async () => {
  const { page, plan, faults, context } = await open(join(maps, "map.html"));
  const layer = plan.layers[0];
  const item = find(layer, "Ulvdre");
  await page.mouse.click(...(await onPage(page, plan, insideOf(plan, layer, item))));
  const popup = page.locator(".ochre-popup");
  await popup.waitFor();
  assert.deepEqual(await popup.locator("dt").allTextContents(), layer.popup.labels);
  assert.deepEqual(
    await popup.locator("dd").allTextContents(),
    layer.popup.fields.map((f) => f[item]),
  );
  assert.equal(
    await popup.locator(".ochre-popup-class").textContent(),
    `${layer.legend}: ${layer.labels[layer.class[item] - 1]}`,
  );
  await page.keyboard.press("Escape");
  assert.equal(await popup.isVisible(), false);
  // Fields of which nothing is known are left out.
  const lost = find(layer, "Saint-Ilmock");
  await page.mouse.click(...(await onPage(page, plan, insideOf(plan, layer, lost))));
  await popup.waitFor();
  assert.deepEqual(
    await popup.locator("dt").allTextContents(),
    layer.popup.labels.filter((_, i) => layer.popup.fields[i][lost] !== null),
  );
  assert.deepEqual(faults, []);
  await context.close();
});

test("an area in an inset is drawn in its frame, with its label", async () => {
  const { page, plan, faults, context } = await open(join(maps, "regions.html"));
  const layer = plan.layers[0];
  const [inset] = plan.insets;
  assert.match(inset.label, /^The Nine Skerries/);
  const item = find(layer, "The Nine Skerries");
  const place = insideOf(plan, layer, item);
  const [x0, y0, x1, y1] = inset.frame;
  assert.ok(
    place[0] > x0 && place[0] < x1 && place[1] > y0 && place[1] < y1,
    "inside of the frame",
  );
  const [x, y] = await onPage(page, plan, place);
  assert.equal(await colourAt(page, x, y), layer.colours[layer.class[item] - 1]);
  await page.mouse.move(x, y);
  await page.locator(".ochre-hover").waitFor();
  assert.equal(await page.locator(".ochre-hover").textContent(), layer.hover[item]);
  // The frame itself: a line where its left edge lies, nothing left of it.
  const [fx, fy] = await onPage(page, plan, [x0, (y0 + y1) / 2]);
  const around = await Promise.all([-1, 0, 1].map((d) => colourAt(page, fx + d, fy)));
  assert.ok(
    around.some((c) => c !== "#000000" && c !== "#FFFFFF"),
    `a line at the frame's edge: ${around}`,
  );
  assert.deepEqual(faults, []);
  await context.close();
});

test(
  "a screen reader is told what the map shows, and the page names its language",
  { skip: isFirefox },
  async () => {
    const { page, plan, context } = await open(join(maps, "map.html"));
    const id = await page.locator(".ochre-stage").getAttribute("aria-describedby");
    assert.equal(await page.locator(`#${id}`).textContent(), plan.alt);
    assert.match(plan.alt, /runs from \d+ \(.+\) to \d+ \(.+\)\. 1 of 100 areas have no data/);
    assert.equal(await page.locator("html").getAttribute("lang"), plan.locale);
    const box = await page.locator(`#${id}`).boundingBox();
    assert.ok(box.width <= 1 && box.height <= 1, "unseen by others");
    await context.close();
    // Without scripts the same words stand on the page.
    const bare = await browser.newContext({ javaScriptEnabled: false });
    const quiet = await bare.newPage();
    await quiet.goto(pathToFileURL(join(maps, "map.html")).href);
    assert.equal(await quiet.getByRole("img", { name: plan.alt }).count(), 1);
    await bare.close();
  },
);

test("areas with a hatch have its lines on paper's colour", async () => {
  const { page, plan, faults, context } = await open(join(maps, "ages.html"));
  const layer = plan.layers[0];
  const { class: key, colour } = layer.hatch;
  const item = layer.class
    .map((c, i) => [c, i, ringsOf(plan.topology, layer.id)[i].flat().length])
    .filter(([c]) => c === key)
    .sort((a, b) => b[2] - a[2])[0][1];
  const [x, y] = await onPage(page, plan, insideOf(plan, layer, item));
  const seen = new Set();
  for (let d = 0; d < 14; d++) seen.add(await colourAt(page, Math.round(x) + d - 7, Math.round(y)));
  assert.ok(seen.has(layer.colours[key - 1]), `paper between the lines: ${[...seen]}`);
  assert.ok(
    [...seen].some((c) => c !== layer.colours[key - 1] && !layer.colours.includes(c)),
    `lines: ${[...seen]}`,
  );
  const row = page.locator(".ochre-class").nth(key - 1);
  assert.equal(await row.locator(".ochre-class-label").textContent(), layer.labels[key - 1]);
  assert.match(
    await row.locator(".ochre-swatch").evaluate((s) => s.style.backgroundImage),
    /repeating-linear-gradient/,
  );
  const count = await row
    .locator(".ochre-class-count")
    .evaluate((n) => n.getBoundingClientRect().right);
  assert.ok(count <= 1280, "a long label leaves room for the count");
  await page.mouse.move(x, y);
  await page.locator(".ochre-hover").waitFor();
  assert.match(
    await page.locator(".ochre-hover .ochre-swatch").evaluate((s) => s.style.backgroundImage),
    /repeating-linear-gradient/,
  );
  assert.ok(colour.startsWith("#"));
  assert.deepEqual(faults, []);
  await context.close();
});

test("two variables have a square legend whose fields light up with the area", async () => {
  for (const viewport of [
    { width: 1280, height: 800 },
    { width: 390, height: 780 },
  ]) {
    const { page, plan, faults, context } = await open(join(maps, "pairs.html"), { viewport });
    const layer = plan.layers[0];
    const fields = page.locator(".ochre-square .ochre-field");
    assert.equal(await fields.count(), 9);
    assert.deepEqual(
      await fields.evaluateAll((all) => all.map((f) => f.getAttribute("fill"))),
      layer.colours,
    );
    assert.deepEqual(
      await page.locator(".ochre-field-count").allTextContents(),
      layer.counts.map(String),
    );
    // The first variable rises upward, the second to the right.
    const places = await fields.evaluateAll((all) =>
      all.map((f) => [f.getBoundingClientRect().x, f.getBoundingClientRect().y]),
    );
    assert.ok(
      places[1][1] < places[0][1] && places[1][0] === places[0][0],
      "first variable upward",
    );
    assert.ok(
      places[3][0] > places[0][0] && places[3][1] === places[0][1],
      "second variable to the right",
    );
    assert.deepEqual(await page.locator(".ochre-tick").allTextContents(), [
      ...layer.square.first,
      ...layer.square.second,
    ]);
    assert.ok(
      await page
        .locator(".ochre-square")
        .evaluate((s) => s.getBoundingClientRect().right <= innerWidth),
      "the square is on the screen",
    );
    const item = layer.class.findIndex((c, i) => c > 0 && layer.hover[i].startsWith("Ilmathwen"));
    const [x, y] = await onPage(page, plan, insideOf(plan, layer, item));
    assert.equal(await colourAt(page, x, y), layer.colours[layer.class[item] - 1]);
    await page.mouse.move(x, y);
    await page.locator(".ochre-hover").waitFor();
    const lit = await fields.evaluateAll((all) =>
      all.map((f) => f.classList.contains("ochre-lit")),
    );
    assert.deepEqual(
      lit,
      layer.colours.map((_, k) => k === layer.class[item] - 1),
    );
    assert.deepEqual(faults, []);
    await context.close();
  }
});

test("wheel, drag, buttons and keys move and zoom, and zero brings all back", async () => {
  const { page, plan, faults, context } = await open(join(maps, "map.html"));
  const layer = plan.layers[0];
  const item = find(layer, "Ulvdre");
  const [x, y] = await onPage(page, plan, insideOf(plan, layer, item));
  const labelAt = async (px, py) => {
    await page.mouse.move(px, py);
    await painted(page);
    return (await page.locator(".ochre-hover").isVisible())
      ? page.locator(".ochre-hover").textContent()
      : null;
  };
  await page.mouse.move(x, y);
  for (let i = 0; i < 4; i++) await page.mouse.wheel(0, -300);
  assert.equal(await labelAt(x, y), layer.hover[item], "the place under the pointer stays");
  assert.equal(await labelAt(x + 12, y + 8), layer.hover[item], "the district is larger now");
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 60, y + 40);
  await page.mouse.move(x - 120, y + 80);
  await page.mouse.up();
  assert.equal(await labelAt(x - 120, y + 80), layer.hover[item], "the map follows the drag");
  await page.locator(".ochre-stage").focus();
  await page.keyboard.press("ArrowLeft");
  assert.equal(await labelAt(x - 60, y + 80), layer.hover[item], "an arrow key moves the map");
  await page.keyboard.press("0");
  assert.equal(await labelAt(x, y), layer.hover[item]);
  const before = await colourAt(page, 300, 300);
  await page.getByRole("button", { name: "Zoom in" }).click();
  await page.getByRole("button", { name: "Zoom in" }).click();
  await painted(page);
  await page.getByRole("button", { name: "Show the whole map" }).click();
  await painted(page);
  assert.equal(await colourAt(page, 300, 300), before);
  assert.deepEqual(faults, []);
  await context.close();
});

test("two fingers pinch, and a tap shows what is under it", { skip: isFirefox }, async () => {
  const { page, plan, faults, context } = await open(join(maps, "map.html"), {
    viewport: { width: 390, height: 780 },
    hasTouch: true,
    isMobile: true,
    deviceScaleFactor: 3,
  });
  const layer = plan.layers[0];
  const item = find(layer, "Ulvdre");
  const [x, y] = await onPage(page, plan, insideOf(plan, layer, item));
  await page.touchscreen.tap(x, y);
  await page.locator(".ochre-popup").waitFor();
  assert.equal(
    await page.locator(".ochre-popup dd").first().textContent(),
    layer.popup.fields[0][item],
  );
  await page.locator(".ochre-close").click();
  const cdp = await context.newCDPSession(page);
  const touch = (type, points) =>
    cdp.send("Input.dispatchTouchEvent", {
      type,
      touchPoints: points.map(([px, py], id) => ({ x: px, y: py, id })),
    });
  await touch("touchStart", [
    [x - 20, y],
    [x + 20, y],
  ]);
  for (let d = 30; d <= 90; d += 15)
    await touch("touchMove", [
      [x - d, y],
      [x + d, y],
    ]);
  await touch("touchEnd", []);
  await painted(page);
  assert.equal(await page.locator(".ochre-popup").isVisible(), false);
  assert.equal(await colourAt(page, x, y), layer.colours[layer.class[item] - 1]);
  const { scrollWidth, scrollHeight } = await page.evaluate(() => ({
    scrollWidth: document.documentElement.scrollWidth,
    scrollHeight: document.documentElement.scrollHeight,
  }));
  assert.ok(
    scrollWidth <= 390 && scrollHeight <= 2 * 780,
    `nothing is off-screen: ${scrollWidth} x ${scrollHeight}`,
  );
  assert.deepEqual(faults, []);
  await context.close();
});

test("the map follows its container and stays sharp on dense screens", async () => {
  const { page, plan, faults, context } = await open(join(maps, "map.html"), {
    deviceScaleFactor: 2,
  });
  for (const [width, height] of [
    [1280, 800],
    [700, 900],
    [320, 568],
  ]) {
    await page.setViewportSize({ width, height });
    await painted(page);
    const box = await page.locator(".ochre-stage").boundingBox();
    const canvas = await page
      .locator(".ochre-stage canvas")
      .first()
      .evaluate((c) => [c.width, c.height]);
    assert.ok(
      Math.abs(canvas[0] - 2 * box.width) <= 2 && Math.abs(canvas[1] - 2 * box.height) <= 2,
    );
    for (const part of [".ochre-title", ".ochre-stage", ".ochre-buttons", ".ochre-foot"]) {
      const b = await page.locator(part).boundingBox();
      assert.ok(b.x >= 0 && b.y >= 0 && b.x + b.width <= width, `${part} at ${width}`);
    }
    const [x0, , x1] = plan.frame;
    const scale = Math.min(
      (box.width - 24) / (x1 - x0),
      (box.height - 24) / (plan.frame[3] - plan.frame[1]),
    );
    const radius = Number(
      await page.locator(".ochre-legend-sizes circle").first().getAttribute("r"),
    );
    assert.ok(
      Math.abs(radius - plan.layers[3].sizes.r[0] * scale) < 0.1,
      `${radius} is not ${plan.layers[3].sizes.r[0] * scale} at ${width}`,
    );
  }
  assert.deepEqual(faults, []);
  await context.close();
});

test("text from data stays text", async () => {
  const folder = mkdtempSync(join(tmpdir(), "ochre-page-"));
  const nasty =
    '</script><script>window.broken=1</script><img src=x onerror="window.broken=1">&amp;';
  const square = {
    type: "Polygon",
    coordinates: [
      [
        [0, 0],
        [2, 0],
        [2, 1],
        [0, 1],
        [0, 0],
      ],
    ],
  };
  writeFileSync(
    join(folder, "a.geojson"),
    JSON.stringify({ type: "Feature", properties: { name: nasty, v: 1 }, geometry: square }),
  );
  writeFileSync(
    join(folder, "run.R"),
    `library(ochre); x <- read_boundaries("a.geojson")
    publish(suppressWarnings(resolve_sheet(map_sheet(x$name, x$name, source = x$name) |> shade_areas(x, v, legend = x$name, popup = c("Name" = name)))), "a.html")`,
  );
  execFileSync("Rscript", ["run.R"], { cwd: folder });
  const { page, plan, faults, context } = await open(join(folder, "a.html"));
  await page.mouse.click(
    ...(await onPage(page, plan, [
      (plan.frame[0] + plan.frame[2]) / 2,
      (plan.frame[1] + plan.frame[3]) / 2,
    ])),
  );
  await page.locator(".ochre-popup").waitFor();
  assert.equal(await page.locator(".ochre-popup dd").textContent(), nasty);
  assert.equal(await page.locator(".ochre-title").textContent(), nasty);
  assert.equal(await page.title(), nasty);
  assert.equal(await page.evaluate(() => window.broken), undefined);
  assert.deepEqual(faults, []);
  await context.close();
});

test("the policy of the page stops any other script", async () => {
  const { page, context } = await open(join(maps, "map.html"));
  await page.evaluate(() => {
    const s = document.createElement("script");
    s.textContent = "window.intruder = 1";
    document.body.append(s);
  });
  assert.equal(await page.evaluate(() => window.intruder), undefined);
  await context.close();
});
