// A map in sections, from disk: wherever a reader looks, it is the map of the one file.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, renameSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { before, test } from "node:test";
import { pathToFileURL } from "node:url";
import { apart, browser, colourAt, hex, insideOf, isFirefox, painted, seen } from "./reader.mjs";
import { arcsOf, ringsOf, unpack } from "./unpack.mjs";

const folder = mkdtempSync(join(tmpdir(), "ochre-sections-"));
const code = `
suppressMessages(suppressWarnings({
library(ochre)
assignInNamespace("most_in_section", list(areas = 250, vertices = 4000), "ochre")
counties <- read_boundaries(ochre_demo("counties.topojson.gz"))
figures <- read_statistics(ochre_demo("county-figures.csv"))
joined <- join_statistics(counties, figures, by = c(code = "county"), match = "tidied")
sheet <- map_sheet("Counties", page = page_style(locator = TRUE, zooms = c(1, 64))) |>
  shade_areas(joined, residents, hover = "{name} ({code}): {residents}", popup = c("Code" = code))
publish(sheet, "one.html")
publish_folder(sheet, "site", sections = TRUE)
months <- rbind(transform(joined, month = "May"), transform(joined, month = "June"))
months$residents[seq_len(nrow(joined))] <- rev(joined$residents)
moving <- map_sheet("Periods") |> shade_areas(months, residents, by = month)
publish(moving, "moving.html")
publish_folder(moving, "moving", sections = TRUE)
}))`;

let whole, moving, files;
const planOf = (file) =>
  unpack(JSON.parse(/id="ochre-plan">(.*?)<\/script>/s.exec(readFileSync(file, "utf8"))[1]));
before(() => {
  execFileSync("Rscript", ["-e", code], { cwd: folder, stdio: ["ignore", "ignore", "inherit"] });
  whole = planOf(join(folder, "one.html"));
  moving = planOf(join(folder, "moving.html"));
  files = readdirSync(join(folder, "site", "index-sections"));
});

const TALL = { width: 1000, height: 700 };
async function see(name, hash = "", viewport = TALL) {
  const context = await browser.newContext({ viewport });
  const page = await context.newPage();
  const [faults, asked] = [[], []];
  page.on("pageerror", (e) => faults.push(e.message));
  page.on("console", (m) => m.type() === "error" && faults.push(m.text()));
  page.on("request", (r) => r.url().includes("-sections/") && asked.push(r.url()));
  await page.goto(pathToFileURL(join(folder, name)).href + hash);
  await page.locator(".ochre-alive").waitFor();
  await settled(page);
  return { page, faults, asked, close: () => context.close() };
}

// Nothing is on its way, and what came is drawn.
async function settled(page) {
  for (let calm = 0; calm < 3;) {
    const coming = await page.evaluate(
      () => document.head.querySelectorAll("script[src*='-sections/']").length,
    );
    await painted(page);
    calm = coming ? 0 : calm + 1;
  }
}

const middle = async (page) => {
  const box = await page.locator(".ochre-stage").boundingBox();
  return [box.x + box.width / 2, box.y + box.height / 2];
};
const viewAt = ({ frame: [x0, y0, x1, y1] }, [x, y], zoom) =>
  `#view=${(x - x0) / (x1 - x0)},${(y - y0) / (y1 - y0)},${zoom}`;

// The corners of each area, found once.
const corners = new Map();
function cornersOf(plan, item) {
  const { topology, layers } = plan;
  if (!corners.has(plan)) {
    const arcs = arcsOf(topology);
    const runs = ringsOf(topology, layers[0].id);
    corners.set(
      plan,
      runs.map((rings) => rings.flat().flatMap((ref) => arcs[ref < 0 ? ~ref : ref])),
    );
  }
  return corners.get(plan)[item];
}

// A place well inside of an area, and how near one must be to see it well; null for an area at the
// edge of the map, which cannot be in the middle of a view, for one that is too small to be pointed
// at, and for one without a code.
const places = new Map();
function placeOf(plan, item) {
  const key = `${plan.title} ${item}`;
  if (!places.has(key)) places.set(key, findPlace(plan, item));
  return places.get(key);
}
function findPlace(plan, item) {
  const around = cornersOf(plan, item);
  if (!around.length || !plan.layers[0].codes[item]) return null;
  const [x0, y0, x1, y1] = plan.frame;
  const ends = [0, 1]
    .map((k) => around.map((c) => c[k]))
    .map((v) => [Math.min(...v), Math.max(...v)]);
  const inner = ([from, to], low, high) =>
    from > 0.8 * low + 0.2 * high && to < 0.2 * low + 0.8 * high;
  const sizes = ends.map(([from, to]) => to - from);
  if (!inner(ends[0], x0, x1) || !inner(ends[1], y0, y1)) return null;
  if (Math.min(...sizes) < (x1 - x0) / 2000) return null;
  try {
    const zoom = Math.min(64, Math.max(1, (x1 - x0) / Math.max(...sizes) / 6));
    return { at: insideOf(plan, plan.layers[0], item), zoom };
  } catch {
    return null;
  }
}
// So many areas from all over the map.
const some = (plan, count) => {
  const all = plan.layers[0].names.length;
  return Array.from({ length: count }, (_, k) => {
    let item = Math.floor((k * all) / count);
    while (!placeOf(plan, item)) item = (item + 1) % all;
    return item;
  });
};
const colourOf = (layer, item) => [layer.no_data.colour, ...layer.colours][layer.class[item]];

test("near each area a reader finds its colour, words and class; few files are read", async () => {
  const { page, faults, asked, close } = await see("site/index.html");
  const layer = whole.layers[0];
  for (const [k, item] of some(whole, 24).entries()) {
    const { at, zoom } = placeOf(whole, item);
    await page.evaluate((hash) => (location.hash = hash), viewAt(whole, at, zoom));
    await settled(page);
    const [x, y] = await middle(page);
    await page.mouse.move(x + 1, y);
    await page.mouse.move(x, y);
    await settled(page);
    const label = await page.locator(".ochre-hover").textContent();
    assert.equal(label, layer.hover[item], `area ${item}`);
    const lit = page.locator(".ochre-class.ochre-lit .ochre-class-label");
    assert.equal(await lit.textContent(), ["No data", ...layer.labels][layer.class[item]]);
    const shown = await colourAt(page, x, y);
    assert.ok(apart(hex(shown), hex(colourOf(layer, item))) < 3, `${label}: ${shown}`);
    // Firefox does not tell which files are read from disk.
    if (k === 0 && !isFirefox) assert.ok(asked.length > 0);
    if (k === 0) assert.ok(asked.length < files.length / 3, `${asked.length} of ${files.length}`);
  }
  assert.equal(new Set(asked).size, asked.length);
  assert.deepEqual(faults, []);
  await close();
});

test("the whole map looks like that of one file; pointing reads what lies there", async () => {
  const drawn = async (name, hash) => {
    const { page, faults, close } = await see(name, hash);
    const box = await page.locator(".ochre-stage").boundingBox();
    assert.deepEqual(faults, []);
    const picture = await seen(page);
    await close();
    return { ...picture, box };
  };
  const { at } = placeOf(whole, some(whole, 3)[1]);
  for (const [zoom, most] of [
    [1, 0.12],
    [6, 0.06],
    [40, 0.03],
  ]) {
    const hash = viewAt(whole, zoom === 1 ? [0, 0] : at, zoom);
    const [one, parted] = [await drawn("one.html", hash), await drawn("site/index.html", hash)];
    let [other, all] = [0, 0];
    const { x: left, y: top, width, height } = one.box;
    for (let y = Math.ceil(top); y < top + height - 60; y++)
      for (let x = Math.ceil(left); x < left + width; x++) {
        const [a, b] = [one.at(x, y), parted.at(x, y)];
        if (Math.min(...a, ...b) > 250) continue;
        all += 1;
        if (apart(a, b) > 60) other += 1;
      }
    assert.ok(other / all < most, `zoom ${zoom}: ${other} of ${all} pixels are others`);
  }
  const { page, asked, close } = await see("site/index.html");
  assert.ok(asked.length <= 12, asked.join());
  const layer = whole.layers[0];
  for (const item of some(whole, 8)) {
    const { at: place } = placeOf(whole, item);
    const box = await page.locator(".ochre-stage").boundingBox();
    const [x0, y0, x1, y1] = whole.frame;
    const scale = Math.min((box.width - 24) / (x1 - x0), (box.height - 24) / (y1 - y0));
    const x = box.x + box.width / 2 + (place[0] - (x0 + x1) / 2) * scale;
    const y = box.y + box.height / 2 - (place[1] - (y0 + y1) / 2) * scale;
    await page.mouse.move(x, y);
    await settled(page);
    // A pixel of the whole map may hold several areas.
    const text = await page.locator(".ochre-hover").textContent();
    assert.ok(layer.hover.includes(text), text);
  }
  await close();
});

test("the table has the areas in view, says how many there are, and leads to all", async () => {
  const item = some(whole, 5)[2];
  const { at, zoom } = placeOf(whole, item);
  const { page, faults, close } = await see("site/index.html", viewAt(whole, at, zoom));
  const stage = await page.locator(".ochre-stage").boundingBox();
  await page.locator(".ochre-open-table").click();
  const layer = whole.layers[0];
  const [x0, y0, x1, y1] = whole.frame;
  const scale = zoom * Math.min((stage.width - 24) / (x1 - x0), (stage.height - 24) / (y1 - y0));
  const [wide, high] = [stage.width / scale / 2, stage.height / scale / 2];
  // Boxes that touch the view, and those that do so clearly.
  const inView = (room) =>
    layer.codes.filter((_, i) => {
      const around = cornersOf(whole, i);
      if (!around.length) return false;
      const span = (k) => around.map((c) => c[k]).sort((a, b) => a - b);
      const [xs, ys] = [span(0), span(1)];
      return (
        xs[0] <= at[0] + wide + room &&
        xs.at(-1) >= at[0] - wide - room &&
        ys[0] <= at[1] + high + room &&
        ys.at(-1) >= at[1] - high - room
      );
    });
  const rows = await page.locator(".ochre-table tbody tr td:nth-child(2)").allTextContents();
  assert.ok(rows.includes(layer.codes[item]));
  const few = 2 / scale;
  for (const code of inView(-few)) assert.ok(rows.includes(code), code);
  const most = new Set(inView(few));
  for (const code of rows) assert.ok(most.has(code), code);
  const note = await page.locator(".ochre-table-note").textContent();
  assert.match(note, new RegExp(`^${rows.length} of 2,994 areas`));
  assert.equal(await page.locator(".ochre-table-all").getAttribute("href"), "index-data.csv");
  // A row leads to its area, with its rank among all.
  await page.locator(".ochre-table tbody button").first().click();
  await settled(page);
  const ranked = layer.rank.filter((r) => r > 0).length;
  const words = (await page.locator(".ochre-popup-rank").textContent()).replace(/\D+/g, " ");
  assert.match(words, new RegExp(` ${ranked} ?$`));
  assert.deepEqual(faults, []);
  await close();
});

test("classes go and come back; keys step through what is in view", async () => {
  const item = some(whole, 7)[3];
  const { at, zoom } = placeOf(whole, item);
  const key = whole.layers[0].class[item];
  const { page, faults, close } = await see("site/index.html", viewAt(whole, at, zoom));
  const place = await middle(page);
  const before = await colourAt(page, ...place);
  const row = page.locator(".ochre-class").filter({
    hasText: ["No data", ...whole.layers[0].labels][key],
  });
  await row.click();
  await page.mouse.move(5, 5);
  await settled(page);
  assert.notEqual(await colourAt(page, ...place), before);
  await row.click();
  await page.mouse.move(5, 5);
  await settled(page);
  assert.equal(await colourAt(page, ...place), before);
  await page.locator(".ochre-stage").focus();
  await page.keyboard.press("PageDown");
  await settled(page);
  const said = await page.locator(".ochre-body > [aria-live]").textContent();
  assert.ok(whole.layers[0].hover.includes(said), said);
  assert.deepEqual(faults, []);
  await close();
});

test("a search finds what is not loaded, and a link brings what was chosen", async () => {
  const { page, faults, asked, close } = await see("site/index.html");
  const layer = whole.layers[0];
  const [first, second] = some(whole, 17).slice(8, 10);
  const before = asked.length;
  const typed = layer.names[first].slice(0, -4).toUpperCase();
  await page.locator(".ochre-search input").fill(typed);
  const rows = page.locator(".ochre-suggestions [role=option]");
  await rows.filter({ hasText: layer.codes[first] }).first().waitFor();
  // One file of names is enough; names that begin with the text, and no others.
  if (!isFirefox) assert.equal(asked.length, before + 1);
  for (const text of await rows.locator(".ochre-found").allTextContents())
    assert.ok(text.toUpperCase().startsWith(typed), text);
  await rows.filter({ hasText: layer.codes[first] }).first().dispatchEvent("pointerdown");
  await page.locator(".ochre-popup", { hasText: layer.codes[first] }).waitFor();
  assert.equal(await page.locator(".ochre-body > [aria-live]").textContent(), layer.hover[first]);
  // By its code, whole; and what nobody is called by.
  await page.locator(".ochre-search input").fill(layer.codes[second]);
  await page.waitForFunction(() => document.querySelector(".ochre-suggestions [role=option]"));
  assert.equal(await rows.first().locator(".ochre-found").textContent(), layer.names[second]);
  await page.keyboard.press("Enter");
  await page.locator(".ochre-popup", { hasText: layer.codes[second] }).waitFor();
  await page.locator(".ochre-search input").fill("\u0001 nobody");
  await page.locator(".ochre-none").waitFor();
  assert.deepEqual(faults, []);
  await close();
  const { at, zoom } = placeOf(whole, first);
  const hash = `${viewAt(whole, at, zoom)}&chosen=0:${layer.codes[first]}`;
  const linked = await see("site/index.html", hash);
  await linked.page.locator(".ochre-popup", { hasText: layer.codes[first] }).waitFor();
  assert.deepEqual(linked.faults, []);
  await linked.close();
});

test("periods move pictures and shapes, each with its own words", async () => {
  const item = some(moving, 9)[4];
  const { at, zoom } = placeOf(moving, item);
  const { page, faults, close } = await see("moving/index.html", viewAt(moving, at, zoom));
  for (const [k, key] of [
    [1, null],
    [0, "[aria-label='Previous']"],
  ]) {
    if (key) await page.locator(key).click();
    await settled(page);
    const place = await middle(page);
    await page.mouse.move(place[0] + 1, place[1]);
    await page.mouse.move(...place);
    await settled(page);
    const panel = moving.layers[0].panels[k];
    assert.equal(await page.locator(".ochre-hover").textContent(), panel.hover[item]);
    const want = [panel.no_data.colour, ...(panel.colours ?? moving.layers[0].colours)];
    assert.ok(apart(hex(await colourAt(page, ...place)), hex(want[panel.class[item]])) < 3);
    assert.ok(await page.locator(".ochre-stage").isVisible());
  }
  assert.deepEqual(faults, []);
  await close();
});

test("a section that does not come is said, and asked for again; a phone has it", async () => {
  const item = some(whole, 11)[6];
  const { at, zoom } = placeOf(whole, item);
  const { page, close } = await see("site/index.html");
  const [there, away] = ["index-sections", "away"].map((name) => join(folder, "site", name));
  renameSync(there, away);
  await page.evaluate((hash) => (location.hash = hash), viewAt(whole, at, zoom));
  const note = page.locator(".ochre-note", { hasText: "does not load" });
  await note.waitFor();
  renameSync(away, there);
  await note.waitFor({ state: "hidden" });
  await settled(page);
  const place = await middle(page);
  await page.mouse.move(place[0] + 1, place[1]);
  await page.mouse.move(...place);
  await settled(page);
  assert.equal(await page.locator(".ochre-hover").textContent(), whole.layers[0].hover[item]);
  // A search whose names do not come does not say that there are none.
  renameSync(there, away);
  await page.locator(".ochre-search input").fill(whole.layers[0].names[item]);
  const none = page.locator(".ochre-none", { hasText: "does not load" });
  await none.waitFor();
  renameSync(away, there);
  await close();
  const phone = await see("site/index.html", viewAt(whole, at, zoom), { width: 390, height: 780 });
  const [x, y] = await middle(phone.page);
  assert.ok(apart(hex(await colourAt(phone.page, x, y)), hex(colourOf(whole.layers[0], item))) < 3);
  assert.deepEqual(phone.faults, []);
  await phone.close();
});

test("what is printed has the sections that are seen", { skip: isFirefox }, async () => {
  const item = some(whole, 13)[5];
  const { at, zoom } = placeOf(whole, item);
  const { page, faults, close } = await see("site/index.html", viewAt(whole, at, zoom));
  await page.emulateMedia({ media: "print" });
  await page.evaluate(() => window.dispatchEvent(new Event("beforeprint")));
  const paper = page.locator(".ochre-paper");
  assert.ok((await paper.locator("clipPath").count()) >= 1);
  const fills = await paper
    .locator("path[fill]")
    .evaluateAll((all) => all.map((p) => p.getAttribute("fill")));
  assert.ok(fills.includes(colourOf(whole.layers[0], item)));
  assert.deepEqual(faults, []);
  await close();
});

test("without its files the map still says what it is", async () => {
  rmSync(join(folder, "site", "index-sections"), { recursive: true });
  const { page, close } = await see("site/index.html");
  const box = await page.locator(".ochre-stage").boundingBox();
  const shades = new Set();
  for (let k = 1; k < 20; k++)
    shades.add(await colourAt(page, box.x + (k * box.width) / 20, box.y + box.height / 2));
  assert.ok(shades.size > 2, [...shades].join());
  await close();
});
