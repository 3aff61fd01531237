// What a reader does beside looking: search, table, layers, bars, links, tools, an article around the map, light and dark, no scripts.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test } from "node:test";
import { pathToFileURL } from "node:url";
import { browser, colourAt, contrast, insideOf, maps, onPage, open } from "./reader.mjs";

// One page with everything that a publisher may ask for, and values that try to break it.
const folder = mkdtempSync(join(tmpdir(), "ochre-reading-"));
const file = join(folder, "all.html");
writeFileSync(join(folder, "run.R"), `
  library(ochre); options(ochre.quiet = c("unmatched", "missing", "reading", "off_map", "counts", "link", "rounding"))
  maps <- commandArgs(TRUE)
  areas <- read_boundaries(file.path(maps, "districts.geojson"))
  areas <- rate_per(areas, population_65_plus, population, 100, name = "old")
  areas$old[5] <- NA
  areas$url <- paste0("https://example.org/", areas$code)
  areas$url[7] <- "javascript:window.broken=1"
  areas$name[8] <- "=cmd()|'<b>\\u202e"
  areas$name[9] <- "constructor"
  areas$name[10] <- strrep("long", 2500)
  map_sheet("Everything", ground = "follow", page = page_style(cards = c("mean", "highest"), bars = 5, tools = c("measure", "position", "share", "fullscreen", "print"))) |>
    shade_areas(areas, old, steps = steps_natural(5, digits = 1), legend = "Over 64, percent", hover = "{name}: {old|1}",
                popup = c("District" = name, "Report" = popup_link("{url}", "On {name}"), "Found" = popup_link("https://example.org/q?x={name}"), "Photo" = popup_picture("{url}.png", "A photo"), "Share" = "{old|1}")) |>
    draw_lines(read_boundaries(file.path(maps, "ferries.geojson")), legend = "Ferry") |>
    publish("all.html")
  map_sheet("Zooms") |> shade_areas(areas, old) |> draw_lines(areas, colour = "red", legend = "Off") |> show_layer(off = TRUE) |>
    write_labels(areas[1, ], "{code}", colour = "blue") |> show_layer(zooms = c(2, 64)) |> publish("zooms.html")
  set.seed(3)
  crowd <- data.frame(longitude = -38.5 + rnorm(3000) / 3, latitude = 46.7 + rnorm(3000) / 6, n = 1, name = paste("Place", 1:3000))
  map_sheet("Crowd") |> draw_lines(areas) |> place_symbols(crowd, n, hover = "{name}", group = TRUE) |> publish("crowd.html")
  map_sheet("ar", locale = map_locale("en", code = "ar")) |> shade_areas(areas, old) |> publish("rtl.html")
`);
execFileSync("Rscript", ["run.R", maps], { cwd: folder, stdio: "ignore" });
// Pictures are fetched from where the publisher said, and from nowhere else.
const start = async (options, script = () => undefined) => {
  const out = await open(file, options, async (page) => {
    await page.route("https://example.org/**", (r) => r.abort());
    await page.addInitScript(script);
  });
  return { ...out, others: () => out.faults.filter((f) => !f.includes("example.org") && !f.includes("ERR_FAILED")) };
};
const near = (a, b, slack) => assert.ok(Math.abs(a - b) <= slack, `${a} is not ${b}`);

test("search finds names without accents and codes, by keys and by touch, and moves to the area", async () => {
  const { page, plan, context, others } = await start();
  const layer = plan.layers[0];
  const field = page.getByRole("combobox", { name: "Search" });
  await field.fill("hORROW");
  const item = layer.names.indexOf("Hörrow");
  assert.equal(await page.locator(".ochre-found").first().textContent(), "Hörrow");
  await field.press("Enter");
  await page.locator(".ochre-hover").waitFor();
  assert.equal(await page.locator(".ochre-hover").textContent(), layer.hover[item]);
  const box = await page.locator(".ochre-stage").boundingBox();
  assert.equal(await colourAt(page, box.x + box.width / 2, box.y + box.height / 2), layer.colours[layer.class[item] - 1], "in the middle of the view");
  await field.fill(layer.codes[20]);
  assert.equal(await page.locator(".ochre-found").first().textContent(), layer.names[20]);
  await field.fill("constr");
  await field.press("ArrowDown");
  assert.equal(await page.locator('[aria-selected="true"] .ochre-found').textContent(), "constructor");
  await field.fill("xyzzy");
  assert.equal(await page.locator(".ochre-none").textContent(), "Nothing found");
  await field.press("Escape");
  assert.equal(await page.locator(".ochre-suggestions").isVisible(), false);
  assert.deepEqual(others(), []);
  await context.close();
});

test("the table has every value, sorts with missing ones last, leads to the map, and is saved as CSV that a spreadsheet cannot run", async () => {
  const { page, plan, context, others } = await start();
  const layer = plan.layers[0];
  await page.getByRole("button", { name: "Table", exact: true }).click();
  const cells = (k) => page.locator(`.ochre-table tbody tr > :nth-child(${k})`).allTextContents();
  assert.equal((await cells(1)).length, layer.names.length);
  await page.locator(".ochre-table th button").nth(2).click();
  const values = await cells(3);
  assert.equal(await page.locator(".ochre-table th").nth(2).getAttribute("aria-sort"), "descending");
  assert.equal(values.at(-1), layer.no_data.label);
  const numbers = values.slice(0, -1).map(Number);
  assert.deepEqual(numbers, [...numbers].sort((a, b) => b - a));
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save as CSV" }).click();
  const text = readFileSync(await (await waiting).path(), "utf8");
  const lines = text.replace("\ufeff", "").trim().split("\r\n");
  assert.equal(lines.length, 1 + layer.names.length);
  assert.equal(lines[0], 'Code,Name,"Over 64, percent",Class');
  assert.ok(lines[8].includes("'=cmd()"), lines[8]);
  assert.ok(lines[1].startsWith(`${layer.codes[0]},${layer.names[0]},${layer.numbers[0]},`), lines[1]);
  await page.locator(".ochre-table tbody button").first().click();
  assert.equal(await page.locator(".ochre-table").isVisible(), false);
  const top = layer.numbers.indexOf(Math.max(...layer.numbers.filter((v) => v !== null)));
  assert.equal(await page.locator(".ochre-hover").textContent(), layer.hover[top]);
  assert.deepEqual(others(), []);
  await context.close();
});

test("bars and map are linked both ways, cards have the totals", async () => {
  const { page, plan, context, others } = await start();
  const layer = plan.layers[0];
  const order = layer.numbers.map((v, i) => [v, i]).filter(([v]) => v !== null).sort((a, b) => b[0] - a[0] || a[1] - b[1]);
  assert.deepEqual(await page.locator(".ochre-bar-name").allTextContents(), order.slice(0, 5).map(([, i]) => layer.names[i]));
  assert.deepEqual(await page.locator(".ochre-card dd").allTextContents(), [(order.reduce((s, [v]) => s + v, 0) / order.length).toFixed(1), order[0][0].toFixed(1)]);
  const [, item] = order[1];
  await page.mouse.move(...(await onPage(page, plan, insideOf(plan, layer, item))));
  await page.waitForTimeout(60);
  assert.equal(await page.locator(".ochre-bar-row.ochre-lit .ochre-bar-name").textContent(), layer.names[item]);
  await page.locator(".ochre-bar-row").nth(2).hover();
  assert.equal(await page.locator(".ochre-class.ochre-lit .ochre-class-label").textContent(), layer.labels[layer.class[order[2][1]] - 1]);
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
  // Swatches have the layers' own colours, as faint as they are drawn.
  const swatch = page.locator(".ochre-layer-areas");
  const rgb = (c) => `rgb(${[1, 3, 5].map((i) => parseInt(c.slice(i, i + 2), 16)).join(", ")})`;
  assert.deepEqual([...new Set((await swatch.evaluate((n) => n.style.backgroundImage)).match(/rgb\([^)]*\)/g))], layer.colours.map(rgb));
  const box = page.getByRole("checkbox", { name: "Show Over 64, percent" });
  await box.uncheck();
  await page.waitForTimeout(60);
  assert.equal(await colourAt(page, x, y), "#000000", "nothing is there");
  await page.mouse.move(x, y);
  assert.equal(await page.locator(".ochre-hover").isVisible(), false);
  await box.check();
  await page.getByRole("slider", { name: "How solid Over 64, percent is" }).fill("40");
  await page.waitForTimeout(80);
  const alpha = await page.evaluate(([px, py]) => { const c = document.querySelector(".ochre-stage canvas"); const b = c.getBoundingClientRect(); return c.getContext("2d").getImageData(px - b.x, py - b.y, 1, 1).data[3]; }, [x, y]);
  near(alpha / 255, 0.4, 0.02);
  const names = () => page.locator(".ochre-layer label").allTextContents();
  assert.deepEqual(await names(), ["Ferry", "Over 64, percent"]);
  await page.getByRole("button", { name: "Move Over 64, percent up" }).click();
  assert.deepEqual(await names(), ["Over 64, percent", "Ferry"]);
  assert.deepEqual(others(), []);
  await context.close();
});

test("links go to safe schemes only and open apart, values in addresses are encoded, and text from data never becomes more", async () => {
  const { page, plan, context, others } = await start();
  const layer = plan.layers[0];
  for (const item of [0, 6, 7]) {
    await page.keyboard.press("Escape");
    await page.mouse.click(...(await onPage(page, plan, insideOf(plan, layer, item))));
    await page.locator(".ochre-popup").waitFor();
    const links = await page.locator(".ochre-popup a").evaluateAll((all) => all.map((a) => [a.getAttribute("href"), a.textContent, a.rel, a.target]));
    const found = `https://example.org/q?x=${encodeURIComponent(layer.names[item]).replace(/[!'()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`)}`;
    const expected = [...(item === 6 ? [] : [[`https://example.org/${layer.codes[item]}`, `On ${layer.names[item]}`]]), [found, found]];
    assert.deepEqual(links.map((l) => l.slice(0, 2)), expected);
    for (const [, , rel, target] of links) assert.deepEqual([rel, target], ["noopener noreferrer", "_blank"]);
    if (item !== 6) await page.locator(".ochre-popup dd", { hasText: "A photo" }).waitFor();
  }
  assert.equal(await page.evaluate(() => window.broken), undefined);
  const policy = await page.locator('meta[http-equiv="Content-Security-Policy"]').getAttribute("content");
  assert.match(policy, /img-src data: https:\/\/example\.org;/);
  assert.deepEqual(others(), []);
  await context.close();
});

test("names of any length and direction stay inside of label, popup, table and search, at every size", async () => {
  for (const viewport of [{ width: 1280, height: 800 }, { width: 320, height: 640 }]) {
    const { page, plan, context, others } = await start({ viewport });
    await page.getByRole("combobox").fill("longlong");
    const wide = async (part) => page.locator(part).first().evaluate((b) => b.getBoundingClientRect()).then((b) => assert.ok(b.left >= -0.5 && b.right <= viewport.width + 0.5, `${part} at ${viewport.width}: ${b.left} to ${b.right}`));
    await wide(".ochre-suggestions");
    await page.keyboard.press("Enter");
    await page.locator(".ochre-hover").waitFor();
    await wide(".ochre-hover");
    await page.locator(".ochre-stage").focus();
    await page.keyboard.press("Enter");
    await page.locator(".ochre-popup").waitFor();
    await wide(".ochre-popup");
    const stage = await page.locator(".ochre-stage").boundingBox();
    const card = await page.locator(".ochre-popup").boundingBox();
    assert.ok(card.y >= stage.y && card.y + card.height <= stage.y + stage.height + 1, "the popup is inside of the map");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Table", exact: true }).click();
    await wide(".ochre-table");
    for (const part of [".ochre-buttons", ".ochre-controls", ".ochre-title"]) await wide(part);
    assert.ok(plan.layers[0].names[9].length === 10000);
    assert.deepEqual(others(), []);
    await context.close();
  }
});

test("distances and areas are those on the ellipsoid, and a shared address brings the view back", async () => {
  const { page, plan, context, others } = await start({ permissions: ["clipboard-read", "clipboard-write"] });
  await page.getByRole("button", { name: "Measure" }).click();
  const [x0, y0, x1, y1] = plan.frame;
  // Near the centre of an equal-area map its units are metres.
  const [cx, cy] = [(x0 + x1) / 2, (y0 + y1) / 2];
  for (const [dx, dy] of [[-20000, -20000], [20000, -20000], [20000, 20000]]) await page.mouse.click(...(await onPage(page, plan, [cx + dx, cy + dy])));
  const [km, km2] = (await page.locator(".ochre-note").textContent()).match(/\d[\d,.]*/g).map((v) => Number(v.replace(/,/g, "")));
  near(km, 80, 0.5);
  near(km2, 800, 8);
  await page.keyboard.press("Escape");
  assert.equal(await page.locator(".ochre-note").isVisible(), false);
  await page.getByRole("button", { name: "Zoom in" }).click();
  await page.getByRole("button", { name: "Zoom in" }).click();
  const box = await page.locator(".ochre-stage").boundingBox();
  await page.waitForTimeout(80);
  const places = [[0.3, 0.3], [0.5, 0.5], [0.6, 0.7], [0.8, 0.4]].map(([u, v]) => [box.x + u * box.width, box.y + v * box.height]);
  const before = await Promise.all(places.map(([x, y]) => colourAt(page, x, y)));
  await page.getByRole("button", { name: "Share this view" }).click();
  const address = await page.evaluate(() => location.href);
  assert.match(address, /#view=/);
  await page.goto("about:blank");
  await page.goto(address);
  await page.locator(".ochre-stage canvas").first().waitFor();
  await page.waitForTimeout(150);
  assert.deepEqual(await Promise.all(places.map(([x, y]) => colourAt(page, x, y))), before);
  await page.goto("about:blank");
  await page.goto(`${pathToFileURL(file).href}#view=NaN,9e99,-1,99999`);
  await page.locator(".ochre-stage canvas").first().waitFor();
  assert.deepEqual(others(), []);
  await context.close();
});

test("the reader's position is asked only on a press, and shown", async () => {
  const { page, context, others } = await start({ permissions: ["geolocation"], geolocation: { longitude: -38.2, latitude: 46.9 } }, () => {
    const ask = navigator.geolocation.getCurrentPosition.bind(navigator.geolocation);
    window.asked = 0;
    navigator.geolocation.getCurrentPosition = (...rest) => { window.asked++; ask(...rest); };
  });
  await page.mouse.move(300, 300);
  assert.equal(await page.evaluate(() => window.asked), 0);
  await page.getByRole("button", { name: "My position" }).click();
  await page.waitForFunction(() => document.querySelector(".ochre-board").width > 1);
  assert.equal(await page.evaluate(() => window.asked), 1);
  assert.deepEqual(others(), []);
  await context.close();
});

test("by keys alone: from area to area in the order of names, each read out, its popup opened and closed", async () => {
  const { page, plan, context, others } = await start();
  const layer = plan.layers[0];
  await page.locator(".ochre-stage").focus();
  const order = layer.names.map((_, i) => i).sort((a, b) => layer.names[a].localeCompare(layer.names[b], "en"));
  const label = page.locator(".ochre-hover");
  for (const at of [0, 1, 2]) {
    await page.keyboard.press("PageDown");
    await label.waitFor();
    assert.equal(await label.textContent(), layer.hover[order[at]]);
  }
  assert.equal(await label.getAttribute("role"), "status");
  await page.keyboard.press("PageUp");
  await page.keyboard.press("Enter");
  await page.locator(".ochre-popup").waitFor();
  assert.equal(await page.locator(".ochre-popup dd").first().textContent(), layer.popup.fields[0][order[1]]);
  await page.keyboard.press("Escape");
  assert.equal(await page.evaluate(() => document.activeElement.className), "ochre-stage");
  assert.deepEqual(others(), []);
  await context.close();
});

test("the page is light or dark as the reader has set it, and changes with it", async () => {
  const { page, plan, context, others } = await start({ colorScheme: "dark" });
  const layer = plan.layers[0];
  const item = layer.names.indexOf("Hörrow");
  const [x, y] = await onPage(page, plan, insideOf(plan, layer, item));
  const k = layer.class[item] - 1;
  assert.equal(await colourAt(page, x, y), plan.dark.layers[0].colours[k]);
  await page.emulateMedia({ colorScheme: "light" });
  await page.waitForTimeout(100);
  assert.equal(await colourAt(page, x, y), layer.colours[k]);
  assert.deepEqual(others(), []);
  await context.close();
});

// Every word that is seen against what lies behind it, and every focus ring; [what, contrast] where it is too little.
const faint = (page) => page.evaluate(() => {
  const parse = (c) => { const v = c.match(/[\d.]+/g)?.map(Number) ?? [0, 0, 0, 0]; return c.startsWith("color(srgb") ? [...v.slice(0, 3).map((x) => 255 * x), v[3] ?? 1] : [v[0], v[1], v[2], v[3] ?? 1]; };
  const over = (top, below) => [0, 1, 2].map((i) => top[3] * top[i] + (1 - top[3]) * below[i]);
  const chain = (node) => { const out = []; for (let n = node; n instanceof Element; n = n.parentElement) out.unshift(n); return out; };
  const behind = (node) => chain(node).reduce((paper, n) => { const style = getComputedStyle(n); const c = parse(style.backgroundColor); return over([...c.slice(0, 3), c[3] * Number(style.opacity)], paper); }, [255, 255, 255]);
  const solid = (node) => chain(node).reduce((a, n) => a * Number(getComputedStyle(n).opacity), 1);
  const out = [];
  const add = (what, ink, paper) => out.push([what, ink, paper]);
  for (const node of document.querySelectorAll(".ochre-map *")) {
    if (!node.checkVisibility({ checkOpacity: false }) || node.closest(":disabled, .ochre-unseen, .ochre-hint, noscript")) continue;
    const style = getComputedStyle(node);
    const words = [...node.childNodes].filter((n) => n.nodeType === 3 && n.textContent.trim()).map((n) => n.textContent.trim()).join(" ");
    const paper = behind(node);
    const ink = parse(node instanceof SVGElement ? style.fill : style.color);
    if (words) add(words.slice(0, 30), over([...ink.slice(0, 3), ink[3] * solid(node)], paper), paper);
    if (node.placeholder) { const c = parse(getComputedStyle(node, "::placeholder").color); add(`placeholder ${node.placeholder}`, over(c, paper), paper); }
    if (node.matches("input[type=search]")) add("edge of the search", parse(style.borderTopColor), paper, 3);
    if (node.matches("button, input, summary, a, [tabindex]")) add("focus", parse(getComputedStyle(node).getPropertyValue("--focus").replace(/^#(..)(..)(..)$/, (_, r, g, b) => `rgb(${[r, g, b].map((v) => parseInt(v, 16)).join()})`)), behind(node.parentElement));
  }
  return out;
});

test("every word and control stands out enough, in light and dark, with all that can be opened", async () => {
  for (const colorScheme of ["light", "dark"]) {
    const { page, plan, context } = await start({ colorScheme, viewport: { width: 1280, height: 1400 } });
    const look = async (what) => {
      const found = await faint(page);
      assert.ok(found.length > 20);
      for (const [text, ink, paper] of found) assert.ok(contrast(ink.map(Number).slice(0, 3), paper) >= (text === "focus" || text.startsWith("edge") ? 3 : 4.5), `${colorScheme}, ${what}: "${text}" ${ink.map(Math.round)} on ${paper.map(Math.round)}`);
    };
    await page.locator(".ochre-class").first().click();
    await page.mouse.move(5, 5);
    await look("a class off");
    await page.getByRole("combobox").fill("o");
    await look("suggestions");
    await page.getByRole("combobox").press("Escape");
    await page.mouse.click(...(await onPage(page, plan, insideOf(plan, plan.layers[0], 3))));
    await page.locator(".ochre-popup").waitFor();
    await look("popup");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Measure" }).click();
    await look("note");
    await page.getByRole("button", { name: "Table" }).click();
    await look("table");
    await context.close();
  }
});

test("no control is off-screen, from the smallest phone to a wall, upright and across, and no two lie on each other", async () => {
  const pages = ["map", "months", "places"].map((name) => join(maps, `${name}.html`));
  const sizes = [[320, 568], [568, 320], [390, 844], [768, 1024], [1280, 800], [3840, 2160]];
  for (const [k, path] of [file, ...pages].entries()) {
    for (const [width, height] of sizes) {
      const { page, context } = await open(path, { viewport: { width, height } }, async (p) => p.route("https://example.org/**", (r) => r.abort()));
      await page.locator(".ochre-layers summary").evaluateAll((all) => all.forEach((s) => (s.parentElement.open = true)));
      const wrong = await page.evaluate(() => {
        const shown = [...document.querySelectorAll(".ochre-map :is(button, input, a, summary)")].filter((n) => n.checkVisibility() && n.getBoundingClientRect().width > 0);
        const out = [];
        const boxes = shown.map((n) => {
          const b = n.getBoundingClientRect();
          let around = n.parentElement;
          while (around && !/auto|scroll/.test(getComputedStyle(around).overflowY)) around = around.parentElement;
          const frame = around ? around.getBoundingClientRect() : { left: 0, top: 0, right: innerWidth, bottom: innerHeight };
          const inside = b.left >= frame.left - 1 && b.right <= frame.right + 1 && frame.left >= -1 && frame.right <= innerWidth + 1 && frame.bottom <= innerHeight + 1;
          // What is scrolled out of view can be scrolled to; its box must have room to be seen at all.
          // WCAG 2.2, 2.5.8: 24 pixels; a box within a label has the label's room, links within words are excepted.
          if (!n.matches("a, label input") && Math.min(b.width, b.height) < 23.5) out.push(`${n.className} has ${b.width}x${b.height}`);
          if (!inside || (!around && (b.top < -1 || b.bottom > innerHeight + 1)) || (around && around.clientHeight < 30)) out.push(n.outerHTML.slice(0, 90));
          return { n, b, around };
        });
        for (const p of boxes) for (const q of boxes) {
          if (p.n === q.n || p.around !== q.around || p.n.contains(q.n) || q.n.contains(p.n)) continue;
          if (Math.min(p.b.right, q.b.right) - Math.max(p.b.left, q.b.left) > 2 && Math.min(p.b.bottom, q.b.bottom) - Math.max(p.b.top, q.b.top) > 2) out.push(`${p.n.className} on ${q.n.className}`);
        }
        return out;
      });
      assert.deepEqual(wrong, [], `${k} at ${width}x${height}`);
      const stage = await page.locator(".ochre-stage").boundingBox();
      assert.ok(stage.width >= 200 && stage.height >= 120, `${k} at ${width}x${height}: the map has ${stage.width}x${stage.height}`);
      await context.close();
    }
  }
});

test("in an article the wheel and one finger scroll the page, Ctrl and two fingers are the map's; hidden and second maps behave", async () => {
  const context = await browser.newContext({ viewport: { width: 800, height: 600 } });
  const page = await context.newPage();
  const faults = [];
  page.on("pageerror", (e) => faults.push(e.message));
  await page.goto(pathToFileURL(file).href);
  const source = await page.content();
  const script = /<script>([\s\S]*?)<\/script>/.exec(source)[1];
  const style = /<style>([\s\S]*?)<\/style>/.exec(source)[1];
  const data = await page.locator("#ochre-plan").textContent();
  writeFileSync(join(folder, "article.html"), `<!DOCTYPE html><meta charset="utf-8"><style>${style.replace("html,body{height:100%;margin:0}", "")}</style><h1>An article</h1><p style="height:100px"></p><div id="one" style="height:420px"></div>
    <div id="tab" style="display:none"><div id="two" style="height:300px"></div></div><div id="none" style="width:0;height:0"></div><p style="height:1500px"></p><script type="application/json" id="data">${data.replace(/</g, "\\u003c")}</script>
    <script>${script}</script><script>for (const id of ["one", "two", "none"]) ochreMap.mount(document.getElementById(id), JSON.parse(document.getElementById("data").textContent));</script>`);
  await page.goto(pathToFileURL(join(folder, "article.html")).href);
  const stage = page.locator("#one .ochre-stage");
  await stage.waitFor();
  const box = await stage.boundingBox();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.wheel(0, 120);
  await page.waitForTimeout(250);
  assert.ok((await page.evaluate(() => scrollY)) >= 100, "the page scrolls");
  assert.match(await page.locator("#one .ochre-hint.ochre-shown").textContent(), /Ctrl/);
  await page.evaluate(() => scrollTo(0, 0));
  const shot = () => page.locator("#one canvas").first().evaluate((c) => c.toDataURL());
  const before = await shot();
  await page.keyboard.down("Control");
  await page.mouse.wheel(0, -200);
  await page.keyboard.up("Control");
  await page.waitForTimeout(150);
  assert.notEqual(await shot(), before, "the map zooms");
  assert.equal(await page.evaluate(() => scrollY), 0);
  assert.equal(await stage.evaluate((s) => s.style.touchAction), "pan-x pan-y");
  // A map in a tab draws itself when the tab is opened.
  await page.evaluate(() => (document.getElementById("tab").style.display = "block"));
  await page.waitForTimeout(200);
  const drawn = await page.locator("#two canvas").first().evaluate((c) => { const d = c.getContext("2d").getImageData(0, 0, c.width, c.height).data; let n = 0; for (let i = 3; i < d.length; i += 4) n += d[i] > 0; return n; });
  assert.ok(drawn > 2000, `${drawn} pixels`);
  assert.equal(new Set(await page.locator("[id^='ochre-']").evaluateAll((all) => all.map((e) => e.id))).size, await page.locator("[id^='ochre-']").count());
  assert.deepEqual(faults, []);
  await context.close();
});

test("without scripts there are the picture, the legend and the table; in Arabic the page runs from right to left", async () => {
  const context = await browser.newContext({ javaScriptEnabled: false });
  const page = await context.newPage();
  await page.goto(pathToFileURL(file).href);
  const plan = JSON.parse(await page.locator("#ochre-plan").textContent());
  const layer = plan.layers[0];
  assert.equal(await page.locator("tbody tr, noscript tr").count(), layer.names.length);
  assert.equal(await page.locator("th").nth(8).textContent(), "constructor");
  const fills = await page.locator("svg path").evaluateAll((all) => all.map((p) => p.getAttribute("fill")));
  assert.deepEqual(fills.slice(0, 6), [layer.no_data.colour, ...layer.colours]);
  await context.close();
  const other = await open(join(folder, "rtl.html"));
  assert.equal(await other.page.locator(".ochre-map").getAttribute("dir"), "rtl");
  const [stage, side] = [await other.page.locator(".ochre-stage").boundingBox(), await other.page.locator(".ochre-legend").first().boundingBox()];
  assert.ok(side.x < stage.x, "the legend is on the left");
  await other.context.close();
});

test("a layer that is off at first waits to be switched on, and one for close views comes with the zoom", async () => {
  const { page, context, faults } = await open(join(folder, "zooms.html"));
  const seen = (rgb) => page.evaluate(([r, g, b]) => { const c = document.querySelector(".ochre-stage canvas"); const d = c.getContext("2d").getImageData(0, 0, c.width, c.height).data; let n = 0; for (let i = 0; i < d.length; i += 4) n += d[i] === r && d[i + 1] === g && d[i + 2] === b; return n; }, rgb);
  const [red, blue] = [[255, 0, 0], [0, 0, 255]];
  assert.equal(await seen(red), 0);
  assert.equal(await page.locator(".ochre-legend-line").count(), 0);
  await page.getByRole("checkbox", { name: "Show Off" }).check();
  await page.waitForTimeout(80);
  assert.ok((await seen(red)) > 500);
  assert.equal(await page.locator(".ochre-legend-line").count(), 1);
  assert.equal(await seen(blue), 0);
  await page.getByRole("combobox").fill("0101");
  await page.keyboard.press("Enter");
  await page.waitForTimeout(80);
  assert.ok((await seen(blue)) > 0);
  assert.deepEqual(faults, []);
  await context.close();
});

test("many points are counted circles that say how many and open as the reader comes nearer", async () => {
  const { page, plan, context, faults } = await open(join(folder, "crowd.html"));
  const symbols = plan.layers[1];
  assert.match(await page.locator(".ochre-legend-symbols .ochre-legend-note").textContent(), /A circle with a number/);
  // The thickest place, by counting here.
  const [mx, my] = ["x", "y"].map((k) => [...symbols[k]].sort((a, b) => a - b)[symbols[k].length >> 1]);
  const box = await page.locator(".ochre-stage").boundingBox();
  const label = page.locator(".ochre-hover");
  const counts = [];
  let [x, y] = await onPage(page, plan, [mx, my]);
  for (let k = 0; k < 12; k++) {
    let text = null;
    for (let d = 0; d < 240 && !text; d += 8) for (const [a, b] of [[d, 0], [0, d], [-d, 0], [0, -d], [d, d], [d, -d], [-d, d], [-d, -d]]) {
      await page.mouse.move(x + a, y + b);
      if (await label.isVisible()) { text = await label.textContent(); [x, y] = [x + a, y + b]; break; }
    }
    assert.ok(text, `something is under the pointer after ${counts}`);
    const found = /^(\d+) places$/.exec(text);
    if (!found) { assert.match(text, /^Place \d+$/); break; }
    counts.push(Number(found[1]));
    await page.mouse.click(x, y);
    await page.waitForTimeout(90);
    [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  }
  assert.ok(counts.length >= 2 && counts[0] > 20, String(counts));
  assert.deepEqual(counts, [...counts].sort((a, b) => b - a), "each step has fewer");
  assert.deepEqual(faults, []);
  await context.close();
});
