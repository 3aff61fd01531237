// New values in a page that is open. What it then says is compared with a page that R publishes
// from the same values.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { pathToFileURL } from "node:url";
import { browser, open, painted } from "./reader.mjs";

const folder = mkdtempSync(join(tmpdir(), "ochre-live-"));
const kinds = ["plain", "percent", "change", "places"];
const code = `
suppressMessages(suppressWarnings({
library(ochre)
areas <- read_boundaries(ochre_demo("districts.geojson"))
areas <- areas[!is.na(areas$code), ]
n <- nrow(areas)
set.seed(4)
# Old values, and new ones: some missing, on a break, halfway between two that can be written.
breaks <- c(-Inf, 2.5, 5, 10, Inf)
old <- c(0.5, runif(n - 2, 0, 12), 999.5)
new <- round(c(runif(n - 8, 0, 12), 2.5, 5, 10, NA, 2.45, 9.96, 1234.5, 0), 2)
new <- rev(new)
formats <- list(
  plain = number_format(unit = "t", digits = 1),
  percent = number_format(percent = TRUE),
  change = number_format(plus = TRUE, digits = 0),
  places = number_format(marks = FALSE)
)
live <- live_values("ADDRESS/values.json", every = 1)
for (kind in names(formats)) {
  unit <- if (kind == "percent") 100 else 1
  low <- if (kind == "change") -10 else 0
  make <- function(values, file, page) {
    areas$v <- values / unit + low / 10
    map_sheet("Live", locale = if (kind == "places") "de" else "en",
      page = page, legend = legend_style("below")) |>
    shade_areas(areas, v, steps = steps_at((breaks + low) / unit),
      format = formats[[kind]], hover = if (kind != "plain") "{name}: {v}, {region}",
      popup = c("District" = name, "Value" = v, "Both" = "{region}: {v} of {population}")) |>
    publish(file)
  }
  make(old, paste0(kind, "-old.html"), page_style(live = live, bars = 3))
  make(new, paste0(kind, "-new.html"), page_style(live = live, bars = 3))
  values <- as.list(stats::setNames(new / unit + low / 10, areas$code))
  writeLines(jsonlite::toJSON(list(values = values, time = "2031-08-01T06:30:00Z"),
    auto_unbox = TRUE, digits = NA, na = "null"), paste0(kind, ".json"))
}
}))`;

// Answers as it is told to.
let say = () => [200, "{}"];
let server, address;
before(async () => {
  server = createServer(async (_, out) => {
    const [status, text] = await say();
    out.writeHead(status, { "Access-Control-Allow-Origin": "*" }).end(text);
  });
  await new Promise((done) => server.listen(0, "127.0.0.1", done));
  address = `http://127.0.0.1:${server.address().port}`;
  execFileSync("Rscript", ["-e", code.replace("ADDRESS", address)], {
    cwd: folder,
    stdio: ["ignore", "ignore", "inherit"],
  });
});
after(() => {
  server.close();
  server.closeAllConnections();
});

const see = (name) =>
  open(join(folder, name), {}, async () => undefined, [address]).then((seen) => ({
    ...seen,
    line: seen.page.locator(".ochre-live"),
  }));

// All that a reader can read: the table with its popup fields, the legend, the bars.
async function words(page) {
  await page.locator(".ochre-open-table").click();
  const text = (selector) => page.locator(selector).allTextContents();
  const out = {
    table: await text(".ochre-table tbody tr"),
    legend: await text(".ochre-class"),
    bars: await text(".ochre-bar-row"),
  };
  await page.keyboard.press("Escape");
  return out;
}
const picture = async (page) => {
  await page.mouse.move(2, 2);
  await painted(page);
  return page
    .locator(".ochre-stage canvas")
    .first()
    .evaluate((c) => c.toDataURL());
};

// The label in the middle of the map; a page that is just awake shows it a moment later.
async function labelOf(page) {
  const { x, y, width, height } = await page.locator(".ochre-stage").boundingBox();
  const label = page.locator(".ochre-hover span:not(.ochre-swatch)");
  for (let i = 0; i < 50 && !(await label.count()); i++) {
    await page.mouse.move(x + width / 2 + (i % 2), y + height / 2);
    await page.waitForTimeout(100);
  }
  return label.allTextContents();
}
const reads = async (page) => [await words(page), await picture(page), await labelOf(page)];

for (const kind of kinds)
  test(`a page with new values (${kind}) reads as one that was published with them`, async () => {
    // Nothing answers, so that the published page says what R wrote.
    say = () => [503, ""];
    const published = await see(`${kind}-new.html`);
    const right = await reads(published.page);
    assert.equal(right[2].length, 1);
    await published.context.close();
    const told = await see(`${kind}-old.html`);
    assert.notDeepEqual(await words(told.page), right[0]);
    const values = readFileSync(join(folder, `${kind}.json`), "utf8");
    say = () => [200, values];
    await told.line.filter({ hasText: "2031" }).waitFor();
    assert.deepEqual(await reads(told.page), right);
    await told.context.close();
  });

test("an answer that fails or is none leaves the map as it was, and is said", async () => {
  const good = readFileSync(join(folder, "plain.json"), "utf8");
  say = () => [200, good];
  const { page, context, line } = await see("plain-old.html");
  await line.filter({ hasText: /^Values as of Aug 1, 2031, .*\.$/ }).waitFor();
  const right = await words(page);
  const fails = async (text, answer) => {
    say = () => answer;
    await line.filter({ hasText: text }).waitFor();
    assert.match(await line.textContent(), /^Values as of Aug 1, 2031/);
    assert.deepEqual(await words(page), right, answer[1]);
  };
  await fails("does not answer", [500, good]);
  await fails("cannot be read", [200, "<html>"]);
  // What comes by message is read in the same way.
  say = () => [200, good];
  await line.filter({ hasNotText: "cannot be read" }).waitFor();
  const post = (text) =>
    page.evaluate((t) => postMessage({ ochre: "values", ...JSON.parse(t) }), text);
  for (const text of [
    "{}",
    '{"values": [1, 2]}',
    '{"values": null}',
    '{"values": {"0101": "12"}}',
    '{"values": {"0101": {}}}',
    '{"values": {"nobody": 1}}',
    '{"values": {"0101": 1e999}}',
    '{"values": {"0101": 3}, "time": "soon"}',
  ]) {
    say = () => new Promise(() => undefined);
    await post(text);
    await line.filter({ hasText: "cannot be read" }).waitFor();
    assert.deepEqual(await words(page), right, text);
    await post(good);
    await line.filter({ hasNotText: "cannot be read" }).waitFor();
  }
  // Unknown codes do no harm; areas that are not named keep their values.
  say = () => [
    200,
    '{"values": {"0102": null, "__proto__": 4, "<img src=x onerror=alert(1)>": 9}}',
  ];
  await line.filter({ hasNotText: "2031" }).waitFor();
  const one = await words(page);
  const changed = one.table.filter((row, i) => row !== right.table[i]);
  assert.equal(changed.length, 1);
  assert.match(changed[0], /0102.*No data/);
  await context.close();
});

test("the page around a map hands over values, and no other window does", async () => {
  say = () => [503, ""];
  const outer = join(folder, "outer.html");
  writeFileSync(outer, `<iframe src="plain-old.html" style="width:900px;height:600px"></iframe>`);
  const context = await browser.newContext({ viewport: { width: 1000, height: 700 } });
  const page = await context.newPage();
  await page.goto(pathToFileURL(outer).href);
  const map = page.frameLocator("iframe >> nth=0");
  await map.locator(".ochre-alive").waitFor();
  const good = readFileSync(join(folder, "plain.json"), "utf8");
  const post = (from) =>
    page.evaluate(
      ([text, from]) => {
        const data = { ochre: "values", ...JSON.parse(text) };
        const frame = document.querySelector("iframe").contentWindow;
        if (from === "outer") return frame.postMessage(data, "*");
        const other = document.createElement("iframe");
        other.srcdoc = `<script>parent.frames[0].postMessage(${JSON.stringify(data)}, "*")</script>`;
        document.body.append(other);
      },
      [good, from],
    );
  await post("another");
  await page.waitForTimeout(300);
  assert.doesNotMatch(await map.locator(".ochre-live").textContent(), /2031/);
  await post("outer");
  await map.locator(".ochre-live").filter({ hasText: "2031" }).waitFor();
  await context.close();
});
