// What a screen reader is told, and what a checker of accessibility finds: nothing.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test } from "node:test";
import { file, start } from "./everything.mjs";
import { isFirefox, maps, open, painted } from "./reader.mjs";

const viewer = createRequire(new URL("../../viewer/", import.meta.url));
const axe = readFileSync(viewer.resolve("axe-core/axe.min.js"), "utf8");
// Scripts from outside are kept out by the page's policy, so the checker comes by the browser.
const faultsOf = async (page) => {
  await page.evaluate(axe);
  return page.evaluate(async () => {
    const { violations } = await window.axe.run(document, { resultTypes: ["violations"] });
    return violations.map(
      (v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 120)).join(" | ")}`,
    );
  });
};

const sizes = [
  { width: 1280, height: 800 },
  { width: 390, height: 844 },
];
const names = ["map", "months", "ages", "regions", "places", "pairs"];

for (const viewport of sizes)
  test(`a checker finds no fault at ${viewport.width}`, { skip: isFirefox }, async () => {
    const files = [...names.map((name) => join(maps, `${name}.html`)), file];
    for (const path of files) {
      const { page, context } = await open(path, { viewport, bypassCSP: true }, async (p) =>
        p.route("https://example.org/**", (r) => r.abort()),
      );
      assert.deepEqual(await faultsOf(page), [], path);
      const opener = page.locator(".ochre-open-table");
      if (await opener.count()) {
        await opener.click();
        assert.deepEqual(await faultsOf(page), [], `${path} with its table`);
        assert.equal(await opener.getAttribute("aria-expanded"), "true");
        await page.keyboard.press("Escape");
      }
      await page.locator(".ochre-stage").focus();
      await page.keyboard.press("PageDown");
      await page.keyboard.press("Enter");
      await painted(page);
      assert.deepEqual(await faultsOf(page), [], `${path} with a popup`);
      await context.close();
    }
  });

test(
  "colours that are forced leave swatches and bars what they are",
  { skip: isFirefox },
  async () => {
    const { page, plan, context } = await start({ forcedColors: "active" });
    const colours = await page
      .locator(".ochre-class .ochre-swatch")
      .evaluateAll((all) => all.map((s) => getComputedStyle(s).backgroundColor));
    const rgb = (c) => `rgb(${[1, 3, 5].map((i) => parseInt(c.slice(i, i + 2), 16)).join(", ")})`;
    assert.deepEqual(colours.slice(0, 5), plan.layers[0].colours.map(rgb));
    const bar = await page
      .locator(".ochre-bar")
      .first()
      .evaluate((s) => getComputedStyle(s).backgroundColor);
    assert.ok(plan.layers[0].colours.map(rgb).includes(bar));
    await context.close();
  },
);

test("what lies under an open table cannot be reached, and Escape comes back", async () => {
  const { page, context } = await open(join(maps, "months.html"));
  await page.locator(".ochre-open-table").click();
  const inside = [];
  for (let k = 0; k < 12; k++) {
    inside.push(await page.evaluate(() => document.activeElement.closest(".ochre-stage") !== null));
    await page.keyboard.press("Tab");
  }
  assert.ok(!inside.includes(true));
  await page.locator(".ochre-table button").first().focus();
  await page.keyboard.press("Escape");
  assert.equal(await page.evaluate(() => document.activeElement.className), "ochre-open-table");
  await context.close();
});

// From loading to the value of one district, as the accessibility tree tells it; the transcripts
// are held as files, one for each language.
const folder = mkdtempSync(join(tmpdir(), "ochre-heard-"));
writeFileSync(
  join(folder, "run.R"),
  `
  suppressMessages(library(ochre))
  options(ochre.quiet = TRUE)
  areas <- read_boundaries(ochre_demo("districts.geojson"))
  for (code in c("en", "de", "fr", "es", "pl")) {
    map_sheet("Orvane", source = "The office", locale = code) |>
      shade_areas(
        areas,
        population,
        steps = steps_equal(3),
        popup = c("65+" = population_65_plus)
      ) |>
      publish(paste0(code, ".html"))
  }
`,
);
execFileSync("Rscript", ["run.R"], { cwd: folder, stdio: "ignore" });

test(
  "a screen reader is told of the map from load to one district's value",
  { skip: isFirefox },
  async () => {
    for (const code of ["en", "de", "fr", "es", "pl"]) {
      const { page, context, faults } = await open(join(folder, `${code}.html`));
      const heard = [await page.locator("body").ariaSnapshot()];
      await page.locator(".ochre-stage").focus();
      await page.keyboard.press("PageDown");
      heard.push(await page.locator("[aria-live]").textContent());
      await page.keyboard.press("Enter");
      heard.push(await page.locator(".ochre-popup").ariaSnapshot());
      const text = `${heard.join("\n\n---\n\n")}\n`;
      const held = new URL(`heard/${code}.txt`, import.meta.url);
      if (process.env.OCHRE_HOLD) writeFileSync(held, text);
      assert.equal(text, readFileSync(held, "utf8"), code);
      assert.deepEqual(faults, []);
      await context.close();
    }
  },
);

test("a question mark lists the keys", async () => {
  const { page, plan, context } = await open(join(maps, "map.html"));
  await page.locator(".ochre-stage").focus();
  await page.keyboard.press("?");
  assert.equal(await page.locator(".ochre-note").textContent(), plan.words.key_help_list);
  await page.keyboard.press("Escape");
  assert.equal(await page.locator(".ochre-note").isVisible(), false);
  await context.close();
});
