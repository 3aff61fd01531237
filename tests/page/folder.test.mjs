// A map published as a folder: from disk, and from a path of a site, it is the map of the one file.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync } from "node:fs";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { extname, join } from "node:path";
import { after, before, test } from "node:test";
import { pathToFileURL } from "node:url";
import { browser, painted } from "./reader.mjs";

const folder = mkdtempSync(join(tmpdir(), "ochre-folder-"));
const code = `
suppressMessages(suppressWarnings({
library(ochre)
areas <- read_boundaries(ochre_demo("districts.geojson"))
sheet <- function(title) map_sheet(title, ground = "follow") |>
  shade_areas(areas, population_65_plus, hover = strrep("{name} \\"'<b> ", 80))
publish(sheet("One"), "one.html")
publish_folder(list(one = sheet("One"), two = sheet("Two")), "site", limit = 140000)
}))`;

let server, address;
before(async () => {
  execFileSync("Rscript", ["-e", code], { cwd: folder, stdio: ["ignore", "ignore", "inherit"] });
  const kinds = { ".html": "text/html", ".js": "text/javascript", ".css": "text/css" };
  server = createServer((asked, out) => {
    try {
      const path = asked.url.replace("/deep/path/", "");
      const type = kinds[extname(path)] ?? "application/octet-stream";
      const bytes = readFileSync(join(folder, "site", path));
      out.writeHead(200, { "Content-Type": type }).end(bytes);
    } catch {
      out.writeHead(404).end();
    }
  });
  await new Promise((done) => server.listen(0, "127.0.0.1", done));
  address = `http://127.0.0.1:${server.address().port}/deep/path`;
});
after(() => {
  server.close();
  server.closeAllConnections();
});

async function see(url) {
  const context = await browser.newContext({ viewport: { width: 1000, height: 700 } });
  const page = await context.newPage();
  const [faults, asked] = [[], []];
  page.on("pageerror", (e) => faults.push(e.message));
  page.on("console", (m) => m.type() === "error" && faults.push(m.text()));
  page.on("request", (r) => asked.push(r.url()));
  await page.goto(url);
  await page.locator(".ochre-alive").waitFor();
  await painted(page);
  const picture = await page
    .locator(".ochre-stage canvas")
    .first()
    .evaluate((c) => c.toDataURL());
  await page.locator(".ochre-open-table").click();
  const table = await page.locator(".ochre-table tbody tr").allTextContents();
  const legend = await page.locator(".ochre-class").allTextContents();
  await context.close();
  return { seen: { picture, table, legend }, faults, asked };
}

test("a folder shows the same map as one file, from disk and below any path", async () => {
  const whole = await see(pathToFileURL(join(folder, "one.html")).href);
  assert.equal(whole.asked.length, 1);
  for (const base of [pathToFileURL(join(folder, "site")).href, address]) {
    const parted = await see(`${base}/one.html`);
    assert.deepEqual(parted.seen, whole.seen, base);
    // Nothing but files of the folder: page, style, script, and more than one piece of data.
    assert.ok(parted.asked.length >= 5, parted.asked.join());
    assert.ok(parted.asked.every((url) => url.startsWith(base) || url.endsWith("/favicon.ico")));
    const real = parted.faults.filter((f) => !f.includes("404"));
    assert.deepEqual([...real, ...whole.faults], []);
  }
});

test("several maps are listed, and share script and style", async () => {
  const context = await browser.newContext();
  const page = await context.newPage();
  await page.goto(`${address}/index.html`);
  assert.deepEqual(await page.locator("li a").allTextContents(), ["One", "Two"]);
  await page.getByRole("link", { name: "Two" }).click();
  await page.locator(".ochre-alive").waitFor();
  assert.equal(await page.locator("h1").textContent(), "Two");
  const script = (name) =>
    /src="(ochre-[0-9a-f]+[.]js)"/.exec(readFileSync(join(folder, "site", name), "utf8"))[1];
  assert.equal(script("one.html"), script("two.html"));
  await context.close();
});
