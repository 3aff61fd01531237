// Every kind of page that there is, with all that a reader can press: none may throw, warn, or
// ask for what it was not allowed to.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { before, test } from "node:test";
import { maps, open, painted, isFirefox } from "./reader.mjs";

const folder = mkdtempSync(join(tmpdir(), "ochre-kinds-"));
const code = `
suppressMessages(suppressWarnings({
library(ochre)
areas <- read_boundaries(ochre_demo("districts.geojson"))
visits <- read_statistics(ochre_demo("visits.csv"))
rates <- join_statistics(areas, sum_areas(visits, visits, by = district), by = c(code = "district"), match = "tidied") |> rate_per(visits, population)
rates$few <- rates$visits < 100
clinics <- read_statistics(ochre_demo("clinics.csv"))
every <- c("measure", "position", "share", "fullscreen", "print")
map_sheet("Insets", inset = list(Fern = c(-38.2, 46.4, -37.6, 46.8)), locale = "de", page = page_style(tools = every)) |>
  shade_areas(rates, visits_per_1000, hatch = few) |> publish("insets.html")
map_sheet("Symbols", locale = "pl", page = page_style(tools = every)) |> place_symbols(clinics, patients, popup = c(Name = name)) |> publish("symbols.html")
map_sheet("Lines", page = page_style(tools = every)) |> draw_lines(read_boundaries(ochre_demo("ferries.geojson"))) |> publish("lines.html")
map_sheet("Heat", locale = "es") |> draw_lines(areas) |> shade_heat(clinics) |> publish("heat.html")
map_sheet("Density", page = page_style(cards = c("sum", "mean", "highest"), bars = 5)) |> shade_areas(rates, visits_per_1000) |> shade_density(clinics, kernel = 30000) |> write_labels(areas, name) |> publish("density.html")
none <- clinics[0, ]
lost <- clinics
lost$patients <- NA_real_
lost$kind <- NA_character_
blank <- areas
blank$population <- NA_real_
blank$region <- NA_character_
ferries <- read_boundaries(ochre_demo("ferries.geojson"))
on <- function() map_sheet("Nothing today") |> shade_areas(areas)
empty <- list(
  areas = shade_areas(map_sheet("Nothing today"), blank, population),
  categories = shade_areas(map_sheet("Nothing today"), blank, region, steps = steps_categories()),
  bars = map_sheet("Nothing today", page = page_style(bars = 5, cards = c("sum", "mean", "highest"))) |> shade_areas(blank, population),
  symbols = place_symbols(on(), none, patients), plain = place_symbols(on(), none),
  colours = place_symbols(on(), none, colour = kind), lost = place_symbols(on(), lost, patients, colour = kind),
  kinds = place_symbols(on(), lost, colour = kind), away = place_symbols(on(), transform(clinics, longitude = longitude + 60), patients),
  upright = place_symbols(on(), none, patients, shape = "bar"), halves = place_symbols(on(), none, patients, second = patients),
  lines = draw_lines(on(), ferries[0, ]), widths = draw_lines(on(), ferries[0, ], width = minutes),
  density = shade_density(on(), none, kernel = 30000), heat = shade_heat(on(), none), labels = write_labels(on(), areas[0, ], name)
)
for (name in names(empty)) publish(empty[[name]], paste0("none-", name, ".html"))
map_sheet("Numbers", page = page_style(tools = every)) |>
  shade_areas(rates, visits_per_1000, popup = c("Residents" = population, "Both" = "{visits} of {population}")) |> publish("numbers.html")
some <- clinics
some$patients[2:3] <- c(0, NA)
some$longitude[4] <- NA
map_sheet("Unplaced") |> place_symbols(some, patients, popup = c(Kind = kind)) |>
  publish("unplaced.html")
map_sheet("Pairs") |> shade_pairs(rates, visits_per_1000, population) |> publish("pairs-of-numbers.html")
jsonlite::write_json(list(codes = rates$code, population = rates$population, rate = rates$visits_per_1000), "numbers.json", digits = NA, na = "null")
}))`;

before(() =>
  execFileSync("Rscript", ["-e", code], { cwd: folder, stdio: ["ignore", "ignore", "inherit"] }),
);

const png = Buffer.from(
  "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk" +
    "+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==",
  "base64",
);
// Tiles are answered here; the server has tests of its own.
const served = "http://127.0.0.1:8791";
const answers = { "/places": { places: [] }, "/values": { values: {} } };
const serve = (page) =>
  page.route(`${served}/**`, (route) => {
    const json = answers[new URL(route.request().url()).pathname];
    return json
      ? route.fulfill({ json, headers: { "Access-Control-Allow-Origin": "*" } })
      : route.fulfill({ body: png, contentType: "image/png" });
  });

async function walk(page) {
  const box = await page.locator(".ochre-stage").boundingBox();
  for (let i = 1; i < 6; i++) {
    for (let j = 1; j < 6; j++)
      await page.mouse.move(box.x + (box.width * i) / 6, box.y + (box.height * j) / 6);
    await page.mouse.click(box.x + (box.width * i) / 6, box.y + box.height / 2);
    await page.keyboard.press("Escape");
  }
  await page.locator(".ochre-stage").focus();
  for (const key of ["+", "ArrowLeft", "ArrowDown", "Tab", "Enter", "Escape", "-", "0", "Home"])
    await page.keyboard.press(key);
}

// Each thing that can be pressed, found anew each time since pressing changes what is there.
async function pressAll(page) {
  const parts =
    "button, input[type=checkbox], input[type=radio], select, input[type=range], summary";
  const count = await page.locator(parts).count();
  for (let i = 0; i < count; i++) {
    const part = page.locator(parts).nth(i);
    if (!(await part.isVisible().catch(() => false)) || !(await part.isEnabled())) continue;
    for (let twice = 0; twice < 2; twice++)
      await part.evaluate((e) =>
        e.type === "range"
          ? ((e.value = String((Number(e.min) + Number(e.max)) >> 1)),
            e.dispatchEvent(new Event("input", { bubbles: true })))
          : e.click(),
      );
    await page.keyboard.press("Escape");
  }
}

async function readTable(page, plan) {
  const layer = plan.layers.find((l) => l.kind === "areas");
  const name = plan.words.table;
  const opener = page.getByRole("button", { name, exact: true });
  if (!layer || !(await opener.count())) return false;
  await opener.first().click();
  const table = page.getByRole("region", { name, exact: true });
  await table.waitFor();
  const panels = layer.panels ?? [layer];
  const now = panels[layer.panels ? plan.panels.length - 1 : 0];
  assert.equal(await table.locator("tbody tr").count(), now.class.length, "each area has a row");
  const shown = await table
    .locator("tbody tr")
    .evaluateAll((rows) =>
      rows.map((r) => [r.cells[0].textContent, r.querySelector(".ochre-number")?.textContent]),
    );
  const written = layer.square?.texts?.[0] ?? now.values ?? [];
  const wanted = new Map(
    (layer.names ?? []).map((text, i) => [text, written[i] ?? now.no_data.label]),
  );
  if (layer.names && (now.numbers ?? layer.square))
    for (const [text, value] of shown) assert.equal(value, wanted.get(text), text);
  for (let k = 0; k < (await table.locator("th[scope=col] button").count()); k++)
    await table.locator("th[scope=col] button").nth(k).click();
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    table.getByRole("button", { name: plan.words.download, exact: true }).click(),
  ]);
  const lines = readFileSync(await file.path(), "utf8")
    .trim()
    .split("\r\n");
  assert.equal(
    lines.length - 1,
    panels.length * now.class.length,
    "the CSV has all rows of all periods",
  );
  await page.keyboard.press("Escape");
  return true;
}

const phone = { viewport: { width: 360, height: 740 }, hasTouch: true, isMobile: true };
for (const [name, options] of [
  ["on a desk", {}],
  ["on a phone", phone],
]) {
  test(
    `every kind of page takes all that a reader can do, ${name}, without a fault`,
    { skip: isFirefox },
    async () => {
      const files = [maps, folder].flatMap((d) =>
        readdirSync(d)
          .filter((f) => f.endsWith(".html") && !f.startsWith("none-"))
          .map((f) => join(d, f)),
      );
      assert.ok(files.length >= 11, files.join());
      let tables = 0;
      for (const file of files) {
        const { page, plan, faults, context } = await open(
          file,
          { acceptDownloads: true, ...options },
          serve,
          [served, "blob:"],
        );
        if (await readTable(page, plan)) tables++;
        await walk(page);
        await pressAll(page);
        await painted(page);
        assert.deepEqual([...new Set(faults)], [], file);
        await context.close();
      }
      assert.ok(tables >= 5, `${tables} tables`);
    },
  );
}

async function savedTable(page, words) {
  await page.getByRole("button", { name: words.table, exact: true }).first().click();
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: words.download, exact: true }).click(),
  ]);
  const lines = readFileSync(await file.path(), "utf8")
    .replace("\ufeff", "")
    .trim()
    .split("\r\n");
  return lines.map((line) =>
    line.match(/("([^"]|"")*"|[^,]*)(,|$)/g).map((v) => v.replace(/,$/, "")),
  );
}

test(
  "a table sorts and saves numbers as numbers, of two variables each in its column",
  { skip: isFirefox },
  async () => {
    const truth = JSON.parse(readFileSync(join(folder, "numbers.json"), "utf8"));
    const { page, plan, context } = await open(join(folder, "numbers.html"), {
      acceptDownloads: true,
    });
    const [head, ...rows] = await savedTable(page, plan.words);
    const at = (title) => head.indexOf(title);
    const people = new Map(truth.codes.map((code, i) => [code, truth.population[i]]));
    for (const row of rows)
      if (row[at("Code")]) assert.equal(Number(row[at("Residents")]), people.get(row[at("Code")]));
    await page.getByRole("columnheader", { name: "Residents" }).getByRole("button").click();
    const column = (n) =>
      page.locator(`.ochre-table tbody tr td:nth-child(${n + 1})`).allTextContents();
    const sorted = (await column(at("Residents"))).map((text) => Number(text.replace(/,/g, "")));
    assert.deepEqual(
      sorted,
      [...sorted].sort((a, b) => b - a),
    );
    await context.close();
    const pairs = await open(join(folder, "pairs-of-numbers.html"), { acceptDownloads: true });
    const [titles, ...lines] = await savedTable(pairs.page, pairs.plan.words);
    for (const [title, values] of [
      ["Visits per 1000", truth.rate],
      ["Population", truth.population],
    ]) {
      const k = titles.indexOf(title);
      const saved = lines
        .map((line) => line[k])
        .filter((v) => v !== "")
        .map(Number);
      const known = values.filter((v) => v !== null);
      assert.equal(saved.length, known.length, title);
      const total = (list) => list.reduce((sum, v) => sum + v, 0);
      assert.ok(Math.abs(total(saved) / total(known) - 1) < 1e-9, title);
    }
    await pairs.context.close();
  },
);

test("rows without a symbol are in table, file and search", { skip: isFirefox }, async () => {
  const { page, plan, context } = await open(join(folder, "unplaced.html"), {
    acceptDownloads: true,
  });
  const { names, x } = plan.layers[0];
  assert.ok(names.length >= x.length + 3);
  const [, ...rows] = await savedTable(page, plan.words);
  assert.deepEqual(rows.map(([name]) => name.replace(/"/g, "")).sort(), [...names].sort());
  await page.getByRole("button", { name: plan.words.back, exact: true }).click();
  const lost = names.at(-1);
  await page.getByRole("combobox").fill(lost);
  await page.keyboard.press("Enter");
  await page.getByText(plan.words.not_drawn.replace("{0}", lost)).waitFor();
  await context.close();
});

test("a layer with nothing to draw is a page all the same, and its legend says so", async () => {
  for (const file of readdirSync(folder).filter((f) => f.startsWith("none-"))) {
    const { page, faults, context } = await open(join(folder, file));
    assert.deepEqual(faults, [], file);
    const said = await page.locator(".ochre-legend").first().innerText();
    if (!/labels|lines|plain/.test(file)) assert.match(said, /None|No data/, file);
    await context.close();
  }
});

test(
  "nothing changes its size while the pointer moves over the map",
  { skip: isFirefox },
  async () => {
    for (const width of [1280, 768]) {
      const { page, context } = await open(join(folder, "numbers.html"), {
        viewport: { width, height: 800 },
      });
      const { x, y, width: wide, height } = await page.locator(".ochre-stage").boundingBox();
      await page.evaluate(() => {
        window.moves = -1;
        new ResizeObserver(() => window.moves++).observe(document.querySelector(".ochre-stage"));
      });
      for (let i = 0; i < 40; i++)
        await page.mouse.move(
          x + wide * (0.1 + 0.8 * ((i * 0.382) % 1)),
          y + height * (0.1 + 0.8 * ((i * 0.618) % 1)),
          { steps: 3 },
        );
      await painted(page);
      assert.equal(await page.evaluate(() => Math.max(0, window.moves)), 0);
      await context.close();
    }
  },
);
