// A sheet that is changed while its preview is open: the page must be what a page that is opened
// anew is, in the reader's view.
import assert from "node:assert/strict";
import { cpSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { request } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { before, test } from "node:test";
import { fileURLToPath } from "node:url";
import { browser, painted, seen } from "./reader.mjs";
import { serve } from "./served.mjs";

const at = (path) => fileURLToPath(new URL(`../../inst/${path}`, import.meta.url));
const folder = mkdtempSync(join(tmpdir(), "ochre-preview-"));
cpSync(at("orvane"), folder, { recursive: true });
const sheet = join(folder, "map.ochre.yml");
const first = readFileSync(sheet, "utf8");
let address, page;

before(async () => {
  process.env.R_USER_CACHE_DIR = join(folder, "cache");
  const found = await serve([at("bin/ochre"), "preview", sheet], /http:\S+\//);
  address = found.match[0];
  page = await browser.newPage({ viewport: { width: 1100, height: 800 } });
  await page.goto(address);
  await page.locator(".ochre-alive").waitFor();
});

const built = () => page.evaluate(() => Number(document.documentElement.dataset.build));
async function write(text, file = sheet) {
  const before = await built();
  writeFileSync(file, text);
  await page.waitForFunction((n) => Number(document.documentElement.dataset.build) > n, before);
  await page.locator(".ochre-alive").waitFor();
  await painted(page);
}

// All words, and the picture, where the pointer is nowhere.
async function looks(of) {
  await of.mouse.move(1, 1);
  await of.evaluate(() => held.map.pointing.close());
  await painted(of);
  const words = await of.locator(".ochre-page").innerText();
  const alt = await of.locator("[id^='ochre-alt']").textContent();
  return { words, alt, picture: await seen(of) };
}
async function sameAsNew() {
  const view = await page.evaluate(() => {
    const { camera, pointing } = held.map;
    return { x: camera.x, y: camera.y, zoom: camera.zoom, chosen: pointing.chosen };
  });
  const other = await browser.newPage({ viewport: { width: 1100, height: 800 } });
  await other.goto(address);
  await other.locator(".ochre-alive").waitFor();
  await other.evaluate(({ x, y, zoom, chosen }) => {
    held.map.camera.lookAt(x, y, zoom);
    held.map.moved();
    if (chosen) held.map.pointing.select(chosen);
  }, view);
  await painted(other);
  const [a, b] = [await looks(page), await looks(other)];
  assert.equal(a.words, b.words);
  assert.equal(a.alt, b.alt);
  let other_pixels = 0;
  for (let y = 0; y < a.picture.height; y += 3)
    for (let x = 0; x < a.picture.width; x += 3)
      if (String(a.picture.at(x, y)) !== String(b.picture.at(x, y))) other_pixels++;
  assert.ok(other_pixels < 20, `${other_pixels} pixels differ`);
  await other.close();
  return a;
}

test("what changes in a sheet is taken over, in the reader's view", async () => {
  await page.mouse.move(400, 400);
  await page.mouse.wheel(0, -500);
  await page.waitForFunction(() => held.map.camera.zoom > 1.2);
  const zoom = () => page.evaluate(() => held.map.camera.zoom);
  const before = await zoom();
  await page.evaluate(() => held.choose("0105"));
  const changes = [
    (s) => s.replace("ramp: madder", "ramp: woad"),
    (s) => s.replace("n: 5, digits: 0", "n: 3"),
    (s) => s.replace("size: patients", "size: patients\n      shape: square"),
    (s) => s.replace("title: Hay fever", "title: Pollen"),
    (s) => s.replace("{name}: {patients} patients", "{name} <b>{patients}</b>"),
    (s) =>
      s.replace("- draw_lines: {data: ferries, legend: Ferry,", "- draw_lines: {data: ferries,"),
    (s) =>
      s
        .replace("value: visits_per_1000", "value: area_km2")
        .replace(/\{visits_per_1000\|0\}/g, "x"),
    (s) => s,
  ];
  const seenWords = new Set();
  for (const change of changes) {
    await write(change(first));
    seenWords.add((await sameAsNew()).words);
    assert.ok(Math.abs((await zoom()) / before - 1) < 1e-3, String(change));
    assert.equal(await page.evaluate(() => held.map.pointing.chosen?.item), 4, String(change));
  }
  assert.ok(seenWords.size >= 4);
});

test("a file that the sheet reads is watched, and what is wrong stands on the page", async () => {
  const file = join(folder, "visits.csv");
  const rows = readFileSync(file, "utf8");
  await write(rows.replace(/^(0101,.*,)\d+$/m, "$1999999"), file);
  assert.match(await page.locator(".ochre-legend").innerText(), /\d,\d{3}/);
  await write(rows, file);

  const shown = await page.locator(".ochre-legend").innerText();
  await write(first.replace("value: visits_per_1000", "value: visits_per_100"));
  const said = page.locator("#said .wrong");
  assert.match(await said.innerText(), /line \d+[\s\S]*visits_per_100[\s\S]*Did you mean/);
  assert.match(await said.locator(".here").innerText(), /value: visits_per_100/);
  await write(first.replace("title: Hay", "title: [Hay"));
  assert.match(await said.innerText(), /not valid YAML/);
  await write(first.replace("title: Hay fever", "title: <img src=x onerror=alert(1)>"));
  assert.equal(await page.locator("#said img, .ochre-head img").count(), 0);
  await write(first);
  assert.equal(await said.count(), 0);
  assert.equal(await page.locator(".ochre-legend").innerText(), shown);
  assert.equal(readFileSync(sheet, "utf8"), first);
});

test("nobody else's page is answered", async () => {
  const { port } = new URL(address);
  const ask = (headers) =>
    new Promise((done) => {
      const asked = request({ host: "127.0.0.1", port, path: "/", headers }, (got) =>
        done(got.statusCode),
      );
      asked.on("upgrade", (got, socket) => {
        const told = { data: false };
        socket.on("data", (data) => (told.data ||= String(data).includes("build")));
        socket.on("error", () => undefined);
        setTimeout(() => done(told.data ? "told" : "silent"), 400);
      });
      asked.on("error", () => done("closed"));
      asked.end();
    });
  const socket = (origin) => ({
    Connection: "Upgrade",
    Upgrade: "websocket",
    "Sec-WebSocket-Version": "13",
    "Sec-WebSocket-Key": "dGhlIHNhbXBsZSBub25jZQ==",
    Origin: origin,
  });
  assert.equal(await ask({ Host: `127.0.0.1:${port}` }), 200);
  assert.equal(await ask({ Host: "map.example" }), 403);
  const own = `http://127.0.0.1:${port}`;
  assert.equal(await ask({ Host: `127.0.0.1:${port}`, ...socket(own) }), "told");
  assert.notEqual(
    await ask({ Host: `127.0.0.1:${port}`, ...socket("http://map.example") }),
    "told",
  );
});
