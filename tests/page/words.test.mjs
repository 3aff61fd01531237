// Words that are large, spaced wide, or long: whole, within the page, and no short one broken.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { before, test } from "node:test";
import { maps, open, painted } from "./reader.mjs";

const folder = mkdtempSync(join(tmpdir(), "ochre-words-"));
const code = `
suppressMessages(suppressWarnings({
library(ochre)
areas <- read_boundaries(ochre_demo("districts.geojson"))
areas$share <- areas$population_65_plus / areas$population
clinics <- read_statistics(ochre_demo("clinics.csv"))
ferries <- read_boundaries(ochre_demo("ferries.geojson"))
map_sheet("Durchschnittskrankenversicherungsbeitrag je Einwohner", locale = "de",
  subtitle = paste("Bevölkerungsentwicklungsabweichungen nach Gesundheitsamtsbezirken,",
    "Anteil der Einwohnerinnen und Einwohner über vierundsechzig Jahren"),
  note = strrep("Vorläufige Zahlen des Gesundheitsamts, gerundet. ", 9),
  source = "Gesundheitsamt Orvane, Arbeitsunfähigkeitsbescheinigungen 2031",
  page = page_style(tools = c("measure", "position", "share", "fullscreen", "print", "picture"),
    cards = c("mean", "highest"), bars = 5)) |>
  shade_areas(areas, share, steps = steps_quantile(12), format = number_format(percent = TRUE),
    legend = "Durchschnittskrankenversicherungsbeitragsbemessungsgrenze",
    popup = c("Krankenhausaufnahmen" = population, "Gemeinde" = name)) |>
  draw_lines(ferries, legend = "Fährverbindungen") |>
  draw_lines(areas, legend = "Verwaltungsgrenzen") |>
  place_symbols(clinics, size = patients, legend = "Patientinnen und Patienten") |>
  write_labels(areas) |>
  publish("long.html")
}))`;
before(() =>
  execFileSync("Rscript", ["-e", code], { cwd: folder, stdio: ["ignore", "ignore", "inherit"] }),
);

// WCAG 2.2, 1.4.12.
const spacing = `* { line-height: 1.5 !important; letter-spacing: 0.12em !important;
  word-spacing: 0.16em !important; } p { margin-bottom: 2em !important; }`;

// Of each word that is seen: does it stand within the page and within all boxes that would cut it,
// and is a short one in one line?
const wrongWords = (page) =>
  page.evaluate(() => {
    const out = [];
    const walker = document.createTreeWalker(
      document.querySelector(".ochre-map"),
      NodeFilter.SHOW_TEXT,
    );
    for (let node = walker.nextNode(); node; node = walker.nextNode()) {
      const holder = node.parentElement;
      // What is for the ear only, and signs, are not read here.
      if (!holder.checkVisibility({ visibilityProperty: true, opacityProperty: true })) continue;
      if (holder.closest(".ochre-unseen, .ochre-hint, svg, script, noscript")) continue;
      for (const { 0: word, index } of node.data.matchAll(/[\p{L}\d]+/gu)) {
        const range = document.createRange();
        range.setStart(node, index);
        range.setEnd(node, index + word.length);
        const boxes = [...range.getClientRects()];
        const lines = new Set(boxes.map((b) => Math.round(b.top)));
        if (word.length <= 10 && lines.size > 1) out.push(`broken: ${word}`);
        for (const b of boxes) {
          if (b.left < -1 || b.right > innerWidth + 1) out.push(`off the page: ${word}`);
          // What scrolls brings its words to view.
          const scrolls = (box) => /auto|scroll/.test(getComputedStyle(box).overflowY);
          for (let box = holder; box && !scrolls(box); box = box.parentElement) {
            const { overflowX, overflowY } = getComputedStyle(box);
            const frame = box.getBoundingClientRect();
            const cuts = (overflow) => /hidden|clip/.test(overflow);
            if (
              (cuts(overflowX) && b.right > frame.right + 2) ||
              (cuts(overflowY) && b.bottom > frame.bottom + 3)
            )
              out.push(`cut by ${box.className}: ${word}`);
          }
        }
      }
    }
    if (document.documentElement.scrollWidth > innerWidth) out.push("the page scrolls sideways");
    return [...new Set(out)];
  });

const files = () => [
  join(folder, "long.html"),
  join(maps, "months.html"),
  join(maps, "pairs.html"),
];
// A window of 1280 by 1024 at twice and four times the size, and phones.
for (const [width, height] of [
  [1280, 800],
  [640, 512],
  [320, 256],
  [320, 568],
])
  test(`words are whole at ${width}x${height}, and spaced wide`, async () => {
    for (const file of files()) {
      const viewport = { width, height };
      const { page, context } = await open(file, { viewport, bypassCSP: true });
      assert.deepEqual(await wrongWords(page), [], file);
      await page.addStyleTag({ content: spacing });
      await page.waitForTimeout(150);
      await painted(page);
      assert.deepEqual(await wrongWords(page), [], `${file}, spaced`);
      // What is chosen says its words too.
      await page.locator(".ochre-stage").focus();
      await page.keyboard.press("PageDown");
      await page.keyboard.press("Enter");
      assert.deepEqual(await wrongWords(page), [], `${file}, an area chosen`);
      await context.close();
    }
  });
