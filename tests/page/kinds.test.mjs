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
  const wanted = new Map(
    (layer.names ?? []).map((text, i) => [text, now.values?.[i] ?? now.no_data.label]),
  );
  if (layer.names && now.values)
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
          .filter((f) => f.endsWith(".html"))
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
