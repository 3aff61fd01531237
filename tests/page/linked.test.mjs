// Two maps in one page: what a reader does in one happens in both.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { before, test } from "node:test";
import { pathToFileURL } from "node:url";
import { browser, contrast, insideOf, isFirefox, painted } from "./reader.mjs";
import { unpack } from "./unpack.mjs";

const folder = mkdtempSync(join(tmpdir(), "ochre-linked-"));
const code = `
suppressMessages(suppressWarnings({
library(ochre)
areas <- read_boundaries(ochre_demo("districts.geojson"))
areas <- areas[!is.na(areas$code), ]
long <- areas[rep(seq_len(nrow(areas)), 2), ]
long$year <- rep(c(2030, 2031), each = nrow(areas))
long$value <- seq_len(nrow(long))
style <- page_style(tools = "share")
left <- map_sheet("Left", page = style) |>
  shade_areas(long, value, by = year, hover = "{name}: {value}", popup = c("Value" = value))
# The other way round: areas are told by their codes, not by where they stand in the table.
turned <- long[rev(seq_len(nrow(long))), ]
right <- map_sheet("Right <b>", subtitle = strrep("Long words. ", 20), page = style) |>
  shade_areas(turned, value, by = year, hover = "{name} has {value}")
pair <- link_maps(left, right, title = "Both & more")
publish(pair, "pair.html")
dark <- function(title) map_sheet(title, ground = "dark") |> shade_areas(areas, population)
publish(link_maps(dark("A"), dark("B"), title = "Dark"), "dark.html")
htmlwidgets::saveWidget(as_page(pair), "widget.html", selfcontained = FALSE)
}))`;
before(() =>
  execFileSync("Rscript", ["-e", code], { cwd: folder, stdio: ["ignore", "ignore", "inherit"] }),
);

async function see(name, options = {}) {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, ...options });
  const page = await context.newPage();
  const faults = [];
  page.on("pageerror", (e) => faults.push(e.message));
  page.on("console", (m) => m.type() === "error" && faults.push(m.text()));
  await page.goto(pathToFileURL(join(folder, name)).href);
  await page.locator(".ochre-alive").nth(1).waitFor();
  await painted(page);
  const maps = page.locator(".ochre-strip-of-maps > .ochre-map");
  return { context, page, faults, left: maps.nth(0), right: maps.nth(1) };
}
// Where a place of the map stands in a map's stage in the home view.
async function placeIn(map, plan, [x, y]) {
  const box = await map.locator(".ochre-stage").boundingBox();
  const [x0, y0, x1, y1] = plan.frame;
  const scale = Math.min((box.width - 24) / (x1 - x0), (box.height - 24) / (y1 - y0));
  return [
    box.x + box.width / 2 + (x - (x0 + x1) / 2) * scale,
    box.y + box.height / 2 - (y - (y0 + y1) / 2) * scale,
  ];
}
const label = (map) => map.locator(".ochre-hover");

for (const name of ["pair.html", "widget.html"])
  test(`in ${name} view, mark and period are those of both maps`, async () => {
    const { context, page, faults, left, right } = await see(name);
    const plan =
      name === "pair.html"
        ? unpack(JSON.parse(await page.locator("#ochre-left-plan").textContent()))
        : unpack(
            JSON.parse(
              JSON.parse(await page.locator("script[data-for]").first().textContent()).x.plans[0],
            ),
          );
    const layer = plan.layers[0];
    assert.equal(
      await page
        .locator(name === "pair.html" ? "h1" : ".ochre-linked h2")
        .first()
        .textContent(),
      "Both & more",
    );
    const boxes = [
      await left.locator(".ochre-stage").boundingBox(),
      await right.locator(".ochre-stage").boundingBox(),
    ];
    for (const side of ["y", "width", "height"]) assert.equal(boxes[0][side], boxes[1][side]);
    for (const item of [3, 40, 77]) {
      const at = insideOf(plan, layer, item);
      await page.mouse.move(...(await placeIn(left, plan, at)));
      const value = layer.panels.at(-1).hover[item];
      await label(left).filter({ hasText: value }).waitFor();
      await label(right)
        .filter({ hasText: value.replace(":", " has") })
        .waitFor();
      await page.mouse.move(...(await placeIn(right, plan, at)));
      await label(right)
        .filter({ hasText: value.replace(":", " has") })
        .waitFor();
      await label(left).filter({ hasText: value }).waitFor();
    }
    // Moved in one, the other looks at the same place, and back.
    const hash = (map) =>
      map
        .getByRole("button", { name: "Share this view" })
        .click()
        .then(() => page.evaluate(() => decodeURIComponent(location.hash)))
        .then((text) => /view=([^&]*)/g[Symbol.matchAll](text));
    const views = async () => {
      await hash(left);
      const all = [...(await hash(right))].map((m) => m[1]);
      return [all[0], all.at(-1)];
    };
    await left.locator(".ochre-stage").focus();
    for (const key of ["+", "+", "ArrowLeft"]) await page.keyboard.press(key);
    await painted(page);
    const one = await views();
    assert.equal(one[0], one[1]);
    assert.match(one[0], /,2\.25/);
    await right.getByRole("button", { name: "Zoom in" }).click();
    await painted(page);
    const two = await views();
    assert.equal(two[0], two[1]);
    assert.notEqual(two[0], one[0]);
    // Periods too.
    assert.equal(await right.locator(".ochre-period-name").textContent(), "2031");
    await left.getByRole("button", { name: "Previous" }).click();
    assert.equal(await right.locator(".ochre-period-name").textContent(), "2030");
    assert.deepEqual(faults, []);
    await context.close();
  });

test(
  "on a phone one map is seen at a time, and a swipe over it brings the other",
  { skip: isFirefox },
  async () => {
    const { context, page, faults } = await see("pair.html", {
      viewport: { width: 390, height: 780 },
      hasTouch: true,
      isMobile: true,
    });
    const names = page.locator(".ochre-linked-names button");
    const pressed = () =>
      names.evaluateAll((all) => all.map((b) => b.getAttribute("aria-pressed")));
    assert.deepEqual(await names.allTextContents(), ["Left", "Right <b>"]);
    assert.deepEqual(await pressed(), ["true", "false"]);
    assert.equal(await page.evaluate(() => document.documentElement.scrollWidth), 390);
    const stage = await page.locator("#ochre-left .ochre-stage").boundingBox();
    const client = await context.newCDPSession(page);
    const y = stage.y + stage.height / 2;
    for (let x = 300; x > 40; x -= 20) {
      const type = x === 300 ? "touchStart" : "touchMove";
      await client.send("Input.dispatchTouchEvent", { type, touchPoints: [{ x, y }] });
      await page.waitForTimeout(16);
    }
    await client.send("Input.dispatchTouchEvent", { type: "touchEnd", touchPoints: [] });
    await page.waitForFunction(
      () => document.querySelectorAll(".ochre-linked-names button")[1].ariaPressed === "true",
    );
    await page.waitForFunction(() => {
      const strip = document.querySelector(".ochre-strip-of-maps");
      return strip.scrollLeft === strip.clientWidth;
    });
    const right = await page.locator("#ochre-right .ochre-stage").boundingBox();
    assert.ok(Math.abs(right.x - stage.x) < 2);
    await names.first().click();
    await page.waitForFunction(
      () => document.querySelectorAll(".ochre-linked-names button")[0].ariaPressed === "true",
    );
    assert.deepEqual(faults, []);
    await context.close();
  },
);

test("what stands around linked maps is read on their ground", async () => {
  const { context, page, faults } = await see("dark.html");
  const [ink, paper] = await page.evaluate(() => {
    const rgb = (colour) => colour.match(/\d+/g).map(Number).slice(0, 3);
    const look = (selector) => getComputedStyle(document.querySelector(selector));
    return [rgb(look(".ochre-linked-title").color), rgb(look(".ochre-linked").backgroundColor)];
  });
  assert.ok(contrast(ink, paper) > 7, `${ink} on ${paper}`);
  assert.ok(Math.max(...paper) < 80, `${paper}`);
  assert.deepEqual(faults, []);
  await context.close();
});
