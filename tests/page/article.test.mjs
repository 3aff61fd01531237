// Around the map: an article, no scripts, layers that wait, many points.
import assert from "node:assert/strict";
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { test } from "node:test";
import { pathToFileURL } from "node:url";
import { file, folder, near } from "./everything.mjs";
import { browser, isFirefox, maps, onPage, open, painted } from "./reader.mjs";
import { unpack } from "./unpack.mjs";

test("in an article the wheel and one finger scroll the page", async () => {
  const context = await browser.newContext({ viewport: { width: 800, height: 600 } });
  const page = await context.newPage();
  const faults = [];
  page.on("pageerror", (e) => faults.push(e.message));
  await page.goto(pathToFileURL(file).href);
  const source = await page.content();
  const script = /<script>([\s\S]*?)<\/script>/.exec(source)[1];
  const style = /<style>([\s\S]*?)<\/style>/.exec(source)[1];
  const data = await page.locator("#ochre-plan").textContent();
  writeFileSync(
    join(folder, "article.html"),
    `<!DOCTYPE html><meta charset="utf-8"><style>${style.replace("html,body{height:100%;margin:0}", "")}</style><h1>An article</h1><p style="height:100px"></p><div id="one" style="height:420px"></div>
    <div id="tab" style="display:none"><div id="two" style="height:300px"></div></div><div id="none" style="width:0;height:0"></div><p style="height:1500px"></p><script type="application/json" id="data">${data.replace(/</g, "\\u003c")}</script>
    <script>${script}</script><script>for (const id of ["one", "two", "none"]) ochreMap.mount(document.getElementById(id), JSON.parse(document.getElementById("data").textContent), { level: 2 });</script>`,
  );
  await page.goto(pathToFileURL(join(folder, "article.html")).href);
  const stage = page.locator("#one .ochre-stage");
  await stage.waitFor();
  assert.equal(await page.locator("h1").count(), 1, "the article's own");
  const box = await stage.boundingBox();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.wheel(0, 120);
  assert.match(await page.locator("#one .ochre-hint.ochre-shown").textContent(), /Ctrl/);
  await page.waitForFunction(() => scrollY >= 100);
  await page.evaluate(() => scrollTo(0, 0));
  const shot = () =>
    page
      .locator("#one canvas")
      .first()
      .evaluate((c) => c.toDataURL());
  const before = await shot();
  await page.keyboard.down("Control");
  await page.mouse.wheel(0, -200);
  await page.keyboard.up("Control");
  await painted(page);
  assert.notEqual(await shot(), before, "the map zooms");
  assert.equal(await page.evaluate(() => scrollY), 0);
  assert.equal(await stage.evaluate((s) => s.style.touchAction), "pan-x pan-y");
  // A map in a tab draws itself when the tab is opened.
  await page.evaluate(() => (document.getElementById("tab").style.display = "block"));
  await page.waitForFunction(() => {
    const c = document.querySelector("#two canvas");
    const d = c.getContext("2d").getImageData(0, 0, c.width || 1, c.height || 1).data;
    let n = 0;
    for (let i = 3; i < d.length; i += 4) n += d[i] > 0;
    return n > 2000;
  });
  assert.equal(
    new Set(await page.locator("[id^='ochre-']").evaluateAll((all) => all.map((e) => e.id))).size,
    await page.locator("[id^='ochre-']").count(),
  );
  assert.deepEqual(faults, []);
  await context.close();
});

test(
  "without scripts there are the picture, the legend and the table",
  { skip: isFirefox },
  async () => {
    const context = await browser.newContext({ javaScriptEnabled: false });
    const page = await context.newPage();
    await page.goto(pathToFileURL(file).href);
    const plan = unpack(JSON.parse(await page.locator("#ochre-plan").textContent()));
    const layer = plan.layers[0];
    assert.equal(await page.locator("tbody tr, .ochre-plain-table tr").count(), layer.names.length);
    assert.equal(await page.locator("th").nth(8).textContent(), "constructor");
    const fills = await page
      .locator("svg path")
      .evaluateAll((all) => all.map((p) => p.getAttribute("fill")));
    assert.deepEqual(fills.slice(0, 6), [layer.no_data.colour, ...layer.colours]);
    await context.close();
    const other = await open(join(folder, "rtl.html"));
    assert.equal(await other.page.locator(".ochre-map").getAttribute("dir"), "rtl");
    const [stage, side] = [
      await other.page.locator(".ochre-stage").boundingBox(),
      await other.page.locator(".ochre-legend").first().boundingBox(),
    ];
    assert.ok(side.x < stage.x, "the legend is on the left");
    await other.context.close();
  },
);

test("a layer that is off at first waits to be switched on", async () => {
  const { page, context, faults } = await open(join(folder, "zooms.html"));
  const seen = (rgb) =>
    page.evaluate(([r, g, b]) => {
      const c = document.querySelector(".ochre-stage canvas");
      const d = c.getContext("2d").getImageData(0, 0, c.width, c.height).data;
      let n = 0;
      for (let i = 0; i < d.length; i += 4) n += d[i] === r && d[i + 1] === g && d[i + 2] === b;
      return n;
    }, rgb);
  const [red, blue] = [
    [255, 0, 0],
    [0, 0, 255],
  ];
  assert.equal(await seen(red), 0);
  assert.equal(await page.locator(".ochre-legend-line").count(), 0);
  await page.getByRole("checkbox", { name: "Off" }).check();
  await painted(page);
  assert.ok((await seen(red)) > 500);
  assert.equal(await page.locator(".ochre-legend-line").count(), 1);
  assert.equal(await seen(blue), 0);
  await page.getByRole("combobox").fill("0101");
  await page.keyboard.press("Enter");
  await painted(page);
  assert.ok((await seen(blue)) > 0);
  assert.deepEqual(faults, []);
  await context.close();
});

test("many points are counted circles that open as the reader comes nearer", async () => {
  const { page, plan, context, faults } = await open(join(folder, "crowd.html"));
  const symbols = plan.layers[1];
  assert.match(
    await page.locator(".ochre-legend-symbols .ochre-legend-note").textContent(),
    /A circle with a number/,
  );
  // The thickest place, by counting here.
  const [mx, my] = ["x", "y"].map(
    (k) => [...symbols[k]].sort((a, b) => a - b)[symbols[k].length >> 1],
  );
  const box = await page.locator(".ochre-stage").boundingBox();
  const label = page.locator(".ochre-hover");
  const counts = [];
  let [x, y] = await onPage(page, plan, [mx, my]);
  for (let k = 0; k < 12; k++) {
    let text = null;
    for (let d = 0; d < 240 && !text; d += 8)
      for (const [a, b] of [
        [d, 0],
        [0, d],
        [-d, 0],
        [0, -d],
        [d, d],
        [d, -d],
        [-d, d],
        [-d, -d],
      ]) {
        await page.mouse.move(x + a, y + b);
        if (await label.isVisible()) {
          text = await label.textContent();
          [x, y] = [x + a, y + b];
          break;
        }
      }
    assert.ok(text, `something is under the pointer after ${counts}`);
    const found = /^(\d+) places$/.exec(text);
    if (!found) {
      assert.match(text, /^Place \d+$/);
      break;
    }
    counts.push(Number(found[1]));
    await page.mouse.click(x, y);
    await painted(page);
    [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  }
  assert.ok(counts.length >= 2 && counts[0] > 20, String(counts));
  assert.deepEqual(
    counts,
    [...counts].sort((a, b) => b - a),
    "each step has fewer",
  );
  assert.deepEqual(faults, []);
  await context.close();
});

test("a page around the map is told its height, at first and when it changes", async () => {
  const context = await browser.newContext({ viewport: { width: 900, height: 700 } });
  const page = await context.newPage();
  const embed = readFileSync(new URL("../../inst/embed/ochre-embed.js", import.meta.url), "utf8");
  const frame = (name) =>
    `<iframe data-ochre src="${name}" style="width:100%;height:90px"></iframe>`;
  writeFileSync(
    join(folder, "around.html"),
    `<!DOCTYPE html><h1>An article</h1>${frame("all.html")}<p>Between</p>${frame("zooms.html")}
    <script>${embed}</script>`,
  );
  await page.goto(pathToFileURL(join(folder, "around.html")).href);
  const fits = () =>
    page.waitForFunction(() =>
      [...document.querySelectorAll("iframe")].every((f) => f.clientHeight > 250),
    );
  await fits();
  const inner = page.frames().slice(1);
  // Once nothing changes any more; browsers let frames rest that are out of view.
  const heights = async () => {
    for (let k = 0; k < 25; k++) {
      await page.waitForTimeout(300);
      const now = await measured();
      if (now.every(([outer, content]) => Math.abs(outer - content) <= 2)) return now;
    }
    return measured();
  };
  const measured = async () => {
    const out = [];
    for (const f of inner) {
      const around = await f.frameElement();
      await around.scrollIntoViewIfNeeded();
      await page.waitForTimeout(150);
      const [content, hidden] = await f.evaluate(() => [
        document.querySelector(".ochre-page").scrollHeight,
        document.documentElement.scrollHeight - innerHeight,
      ]);
      out.push([await around.evaluate((e) => e.clientHeight), content, hidden]);
    }
    return out;
  };
  for (const [outer, content, hidden] of await heights()) {
    near(outer, content, 2);
    assert.ok(hidden <= 1, `${hidden} pixels are hidden`);
  }
  const before = await heights();
  await page.setViewportSize({ width: 360, height: 700 });
  const after = await heights();
  assert.ok(after[0][0] > before[0][0], `${before[0][0]} becomes ${after[0][0]}`);
  for (const [outer, content] of after) near(outer, content, 2);
  await context.close();
});

test("an address brings back view, period, classes, layers and what is chosen", async () => {
  const { page, plan, context, faults } = await open(join(maps, "months.html"));
  const layer = plan.layers[0];
  const item = layer.names.indexOf("H\u00f6rrow");
  const hash =
    `#view=0.5,0.5,2&period=1&classes=${encodeURIComponent("0:2")}` +
    `&chosen=${encodeURIComponent(`0:${layer.codes[item]}`)}`;
  await page.evaluate((h) => (location.hash = h), hash);
  await page.locator(".ochre-popup").waitFor();
  await painted(page);
  assert.equal(await page.locator(".ochre-period-name").textContent(), plan.panels[1]);
  assert.equal(
    await page.locator("button.ochre-class").nth(1).getAttribute("aria-pressed"),
    "false",
  );
  assert.equal(
    await page.locator(".ochre-popup dd").first().textContent(),
    layer.panels[1].popup.fields[0][item],
  );
  assert.deepEqual(faults, []);
  await context.close();
});

test("on a page without areas search, table, keys and bars speak of symbols", async () => {
  const { page, plan, context, faults } = await open(join(folder, "places.html"));
  const layer = plan.layers[0];
  assert.equal(layer.kind, "symbols");
  await page.getByRole("combobox").fill(layer.names[3].slice(0, 6));
  await page.locator(".ochre-found", { hasText: layer.names[3] }).first().click();
  await page.locator(".ochre-popup").waitFor();
  assert.equal(
    await page.locator(".ochre-popup dd").first().textContent(),
    layer.popup.fields[0][3],
  );
  await page.keyboard.press("Escape");
  const [first] = [...layer.names].sort((a, b) => a.localeCompare(b, "en"));
  await page.keyboard.press("PageDown");
  assert.match(await page.locator("[aria-live]").textContent(), new RegExp(`^${first}`));
  await page.locator(".ochre-open-table").click();
  assert.equal(await page.locator(".ochre-table tbody tr").count(), layer.names.length);
  await page.keyboard.press("Escape");
  assert.equal(await page.locator(".ochre-bar-row").count(), 3);
  assert.equal(
    await page.locator(".ochre-bar-name").first().textContent(),
    layer.names[layer.numbers.indexOf(Math.max(...layer.numbers))],
  );
  assert.deepEqual(faults, []);
  await context.close();
});

test("a view that a publisher sets is seen first, and nobody zooms where none may", async () => {
  const { page, plan, context, faults } = await open(join(folder, "still.html"));
  assert.deepEqual(plan.page.zooms, [1, 1]);
  assert.equal(await page.getByRole("button", { name: "Zoom in" }).count(), 0);
  const shot = () =>
    page
      .locator(".ochre-stage canvas")
      .first()
      .evaluate((c) => c.toDataURL());
  const before = await shot();
  await page.locator(".ochre-stage").focus();
  await page.keyboard.press("+");
  await page.mouse.move(400, 400);
  await page.mouse.wheel(0, -300);
  await painted(page);
  assert.equal(await shot(), before);
  const other = await open(join(folder, "near.html"));
  const [x0, y0, x1, y1] = other.plan.page.view;
  const [fx0, fy0, fx1, fy1] = other.plan.frame;
  await other.page.getByRole("button", { name: "Share this view" }).click();
  const hash = decodeURIComponent(new URL(other.page.url()).hash);
  const [u, v, zoom] = /view=([^&]*)/.exec(hash)[1].split(",").map(Number);
  near(u, ((x0 + x1) / 2 - fx0) / (fx1 - fx0), 0.001);
  near(v, ((y0 + y1) / 2 - fy0) / (fy1 - fy0), 0.001);
  // The box fills the stage one way.
  const stage = await other.page.locator(".ochre-stage").boundingBox();
  const home = Math.min((stage.width - 24) / (fx1 - fx0), (stage.height - 24) / (fy1 - fy0));
  const fits = Math.min(stage.width / (x1 - x0), stage.height / (y1 - y0)) / home;
  near(zoom, Math.min(64, fits), 0.01 * zoom);
  assert.deepEqual([...faults, ...other.faults], []);
  await other.context.close();
  await context.close();
});
