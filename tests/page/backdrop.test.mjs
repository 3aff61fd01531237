// What lies under the data and places from a service: against the stand-in server, and against
// servers that fail.
import assert from "node:assert/strict";
import { execFileSync, spawn } from "node:child_process";
import { cpSync, mkdtempSync, readFileSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { after, before, test } from "node:test";
import { fileURLToPath, pathToFileURL } from "node:url";
import {
  apart,
  browser,
  decodePng,
  find,
  hex,
  insideOf,
  maps,
  onPage,
  open,
  painted,
  seen,
  variant,
  isFirefox,
} from "./reader.mjs";

const command = fileURLToPath(new URL("../../inst/bin/ochre", import.meta.url));
const folder = mkdtempSync(join(tmpdir(), "ochre-backdrop-"));
const file = join(folder, "tiles.html");
let server, address;
before(async () => {
  server = spawn("Rscript", [command, "serve-demo", "--port", "0"], {
    stdio: ["ignore", "pipe", "inherit"],
  });
  address = (await new Promise((done) => server.stdout.once("data", (text) => done(String(text)))))
    .trim()
    .replace(/\/$/, "");
  cpSync(maps, folder, { recursive: true });
  const sheet = join(folder, "tiles.ochre.yml");
  writeFileSync(sheet, readFileSync(sheet, "utf8").replaceAll("http://127.0.0.1:8791", address));
  execFileSync("Rscript", [command, "build", sheet], { stdio: "ignore" });
});
after(() => server.kill());

const AXIS = 6378137;
// Every picture has come and is drawn: two looks half a second apart are the same.
const settled = async (page) => {
  await page.waitForLoadState("networkidle");
  for (let looks = 0, before = null, now; looks < 20; looks++, before = now) {
    now = (await page.screenshot()).toString("base64");
    if (now === before) return;
    await page.waitForTimeout(500);
  }
};
const bare = async (page) => {
  await page.locator(".ochre-layers summary").click();
  for (const box of await page.locator(".ochre-layer input[type=checkbox]").all())
    await box.uncheck();
  await page.evaluate(() => scrollTo(0, 0));
};
// Places of the map that lie under the middle of the stage and around it, with where they stand
// on the page.
async function spots(page, plan, n = 9) {
  const [x0, y0, x1, y1] = plan.frame;
  const out = [];
  for (let i = 1; i < n; i++)
    for (let j = 1; j < n; j++) {
      const at = [x0 + (i / n) * (x1 - x0), y0 + (j / n) * (y1 - y0)];
      out.push({ at, on: (await onPage(page, plan, at)).map(Math.round) });
    }
  // Not where buttons lie.
  const bar = await page.locator(".ochre-buttons").boundingBox();
  return out.filter(({ on: [x, y] }) => x < bar.x - 3 || y < bar.y - 3);
}

test(
  "tiles lie where they belong, are asked of the named server only",
  { skip: isFirefox },
  async () => {
    const { page, plan, context, faults, asked } = await open(file, {}, undefined, [
      `${address}/tiles/`,
    ]);
    await settled(page);
    assert.ok(
      asked.length > 4 &&
        asked.every((a) => new RegExp(`^${address}/tiles/\\d+/\\d+/\\d+\\.png$`).test(a)),
    );
    assert.equal(new Set(asked).size, asked.length, "each once");
    await bare(page);
    await page.mouse.move(2, 2);
    await settled(page);
    const levels = asked.map((a) => Number(a.split("/")[4]));
    const z = Math.max(...levels);
    // The same places in the server's own pictures.
    const side = (2 * Math.PI * AXIS) / 2 ** z;
    const shot = await seen(page);
    const tiles = new Map();
    let same = 0,
      all = 0;
    for (const {
      at: [x, y],
      on,
    } of await spots(page, plan)) {
      const [u, v] = [(x + Math.PI * AXIS) / side, (Math.PI * AXIS - y) / side];
      const key = `${address}/tiles/${z}/${Math.floor(u)}/${Math.floor(v)}.png`;
      assert.ok(asked.includes(key));
      if (!tiles.has(key))
        tiles.set(key, decodePng(Buffer.from(await (await fetch(key)).arrayBuffer())));
      all++;
      same +=
        apart(
          tiles.get(key).at(Math.floor(256 * (u % 1)), Math.floor(256 * (v % 1))),
          shot.at(...on),
        ) < 12;
    }
    assert.ok(all > 40 && same / all > 0.85, `${same} of ${all} places`);
    const credit = page.locator(".ochre-credit a");
    assert.deepEqual(
      [
        await credit.textContent(),
        await credit.getAttribute("href"),
        await credit.getAttribute("rel"),
      ],
      ["Tiles by the Orvane Survey", "https://survey.orvane.example/", "noopener noreferrer"],
    );
    const before = asked.length;
    for (let i = 0; i < 4; i++) {
      await page.keyboard.press("+");
      await page.locator(".ochre-stage").press("+");
    }
    await page.locator(".ochre-stage").press("+");
    await page.locator(".ochre-stage").press("+");
    await settled(page);
    assert.ok(Math.max(...asked.slice(before).map((a) => Number(a.split("/")[4]))) > z);
    // Nearer than the server has tiles: its last ones, larger.
    for (let i = 0; i < 9; i++) await page.locator(".ochre-stage").press("+");
    await settled(page);
    assert.ok(asked.every((a) => Number(a.split("/")[4]) <= 12));
    assert.deepEqual(faults, []);
    await context.close();
  },
);

test(
  "of several backdrops one is shown; the others ask for nothing",
  { skip: isFirefox },
  async () => {
    const late = variant(file, (plan) => plan.backdrops.reverse());
    const { page, plan, context, faults, asked } = await open(late, {}, undefined, [
      `${address}/tiles/`,
    ]);
    await settled(page);
    assert.deepEqual(asked, []);
    assert.equal(await page.locator(".ochre-credit").innerText(), "");
    await page.getByRole("radio", { name: "Chart of 1871" }).check();
    await bare(page);
    await page.mouse.move(2, 2);
    await settled(page);
    assert.equal(await page.locator(".ochre-credit").innerText(), "Chart of 1871, Orvane Archive");
    // Six numbers: a step to the right, a step down, the first pixel's place.
    const [a, d, b, e, c, f] = readFileSync(join(folder, "chart.pgw"), "utf8")
      .trim()
      .split(/\s+/)
      .map(Number);
    const chart = decodePng(readFileSync(join(folder, "chart.png")));
    const shot = await seen(page);
    let same = 0,
      all = 0;
    for (const {
      at: [x, y],
      on,
    } of await spots(page, plan)) {
      const [lon, lat] = [
        (x / AXIS) * (180 / Math.PI),
        (Math.atan(Math.sinh(y / AXIS)) * 180) / Math.PI,
      ];
      const column = (e * (lon - c) - b * (lat - f)) / (a * e - b * d),
        row = (a * (lat - f) - d * (lon - c)) / (a * e - b * d);
      if (column < 0 || row < 0 || column >= chart.width || row >= chart.height) continue;
      all++;
      same += apart(chart.at(Math.round(column), Math.round(row)), shot.at(...on)) < 24;
    }
    assert.ok(all > 40 && same / all > 0.85, `${same} of ${all} places`);
    assert.deepEqual(asked, []);
    await page.getByRole("radio", { name: "Survey" }).press("Space");
    await settled(page);
    assert.ok(asked.length > 3);
    const n = asked.length;
    await page.getByRole("radio", { name: "None" }).check();
    await page.locator(".ochre-stage").press("+");
    await settled(page);
    assert.equal(asked.length, n);
    // An address of the view brings the backdrop back.
    await page.goto(`${page.url().split("#")[0]}#view=0.5,0.5,2&backdrop=1`);
    await page.reload();
    await page.locator(".ochre-alive").waitFor();
    assert.equal(await page.getByRole("radio", { name: "Chart of 1871" }).isChecked(), true);
    assert.deepEqual(faults, []);
    await context.close();
  },
);

test("tiles are under the data on paper too, where they belong", { skip: isFirefox }, async () => {
  const { page, context, faults } = await open(file, {}, undefined, [`${address}/tiles/`]);
  await settled(page);
  const before = await seen(page);
  const stage = await page.locator(".ochre-stage").boundingBox();
  const path = join(folder, "paper.pdf");
  await page.pdf({ path, format: "A4", landscape: true, printBackground: true });
  execFileSync("pdftoppm", ["-r", "72", "-singlefile", "-png", path, join(folder, "paper")]);
  const paper = decodePng(readFileSync(join(folder, "paper.png")));
  // The tiles' colour in a corner of the map is not the paper's.
  const corner = before.at(Math.round(stage.x + 8), Math.round(stage.y + 8));
  assert.ok(apart(corner, [255, 255, 255]) > 6);
  let found = 0;
  for (let x = 0; x < paper.width; x += 4)
    for (let y = 0; y < paper.height; y += 4) found += apart(paper.at(x, y), corner) < 6;
  assert.ok(found > 500, `${found} places have the tiles' colour`);
  assert.deepEqual(faults, []);
  await context.close();
});

test("a map that is not seen yet asks for no tiles, and does when it is shown", async () => {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const asked = [];
  page.on("request", (r) => r.url().startsWith(address) && asked.push(r.url()));
  await page.addInitScript(() =>
    new MutationObserver(() => {
      const map = document.getElementById("ochre-map");
      if (map && map.dataset.seen === undefined) {
        map.dataset.seen = "";
        map.style.display = "none";
      }
    }).observe(document, { childList: true, subtree: true }),
  );
  await page.goto(pathToFileURL(file).href);
  await page.locator(".ochre-stage").waitFor({ state: "attached" });
  await settled(page);
  assert.deepEqual(asked, []);
  await page.evaluate(() => (document.getElementById("ochre-map").style.display = ""));
  await settled(page);
  assert.ok(asked.length > 4);
  await page.close();
});

test("without tiles, or with a server that fails, the map stays whole", async () => {
  const failing = async (status) => {
    const out = await open(
      file,
      {},
      async (page) =>
        page.route(`${address}/tiles/**`, (r, q) =>
          status(q.url()) ? r.continue() : r.fulfill({ status: 404 }),
        ),
      [`${address}/tiles/`],
    );
    await settled(out.page);
    return out;
  };
  const { page, plan, context, faults, asked } = await failing(() => false);
  const trouble = page.locator(".ochre-trouble");
  assert.equal(await trouble.textContent(), "The backdrop does not load.");
  assert.equal(await page.locator(".ochre-credit a").isVisible(), true);
  const item = find(plan.layers[0], "Hörrow");
  const on = await onPage(page, plan, insideOf(plan, plan.layers[0], item));
  await page.mouse.move(...on);
  assert.equal(await page.locator(".ochre-hover").textContent(), plan.layers[0].hover[item]);
  // A lost tile is not asked for at once again.
  const n = asked.length;
  await page.mouse.move(on[0] + 2, on[1]);
  await page.locator(".ochre-stage").press("ArrowLeft");
  await settled(page);
  assert.ok(asked.length - n <= 4, `${asked.length - n} more`);
  await page.getByRole("radio", { name: "None" }).check();
  assert.equal(await trouble.textContent(), "");
  assert.deepEqual(
    faults.filter((f) => !f.includes("404")),
    [],
  );
  await context.close();
  // One that is missing among others is left out without a word.
  let k = 0;
  const one = await failing(() => k++ > 0);
  assert.equal(await one.page.locator(".ochre-trouble").textContent(), "");
  await one.context.close();
});

test(
  "on the smallest phone switch, attribution and controls stay in view",
  { skip: isFirefox },
  async () => {
    const { page, context } = await open(
      file,
      { viewport: { width: 320, height: 640 }, hasTouch: true, isMobile: true },
      undefined,
      [`${address}/`],
    );
    await settled(page);
    await page.getByRole("radio", { name: "Chart of 1871" }).tap();
    assert.equal(await page.locator(".ochre-credit").innerText(), "Chart of 1871, Orvane Archive");
    for (const control of await page
      .locator(".ochre-map :is(button, input, a, summary):visible, .ochre-credit")
      .all()) {
      const box = await control.boundingBox();
      assert.ok(
        box.x >= 0 && box.x + box.width <= 320,
        await control.evaluate((n) => n.outerHTML.slice(0, 120)),
      );
    }
    await context.close();
    // Words that try to break it stay words, and leave the map its room.
    const words = "<img src=x onerror=window.broken=1>\u202e" + "long".repeat(2500);
    const hostile = await open(
      variant(file, (plan) =>
        Object.assign(plan.backdrops[1], {
          name: words,
          attribution: words,
          link: "javascript:window.broken=1",
        }),
      ),
      { viewport: { width: 320, height: 640 } },
      undefined,
      [`${address}/`],
    );
    await hostile.page.getByRole("radio").nth(1).check();
    assert.equal(await hostile.page.locator(".ochre-credit").textContent(), words);
    assert.equal(await hostile.page.locator(".ochre-map img, .ochre-credit a").count(), 0);
    assert.ok((await hostile.page.locator(".ochre-stage").boundingBox()).height > 120);
    assert.ok(
      await hostile.page.evaluate(
        () => document.documentElement.scrollWidth <= 320 && window.broken === undefined,
      ),
    );
    await hostile.context.close();
  },
);

test(
  "places are looked for only when the reader asks, found by keys",
  { skip: isFirefox },
  async () => {
    let reply = null;
    const { page, plan, context, faults, asked } = await open(
      file,
      {},
      async (page) => {
        await page.route(`${address}/tiles/**`, (r) => r.abort());
        await page.route(`${address}/places**`, (r) => (reply ? reply(r) : r.continue()));
      },
      [`${address}/`],
    );
    const questions = () => asked.filter((a) => a.includes("/places"));
    const field = page.getByRole("combobox");
    await field.pressSequentially("pelolothwen & co");
    assert.equal(
      await page.locator(".ochre-seek").innerText(),
      "Look for “pelolothwen & co” among places",
    );
    assert.deepEqual(questions(), []);
    await field.fill("Pelolothw");
    await field.press("ArrowUp");
    await field.press("Enter");
    await page.locator(".ochre-place").first().waitFor();
    assert.deepEqual(questions(), [`${address}/places?q=Pelolothw&lang=en&limit=8`]);
    assert.match(
      await page.locator(".ochre-place").first().innerText(),
      /Pelolothwen\s+District, The Cwmry/,
    );
    await field.press("Enter");
    await page.locator(".ochre-hover").waitFor();
    assert.equal(await page.locator(".ochre-hover").innerText(), "Pelolothwen");
    // The dot stands in the middle, where the area is.
    const stage = await page.locator(".ochre-stage").boundingBox();
    const middle = [stage.x + stage.width / 2, stage.y + stage.height / 2].map(Math.round);
    const shot = await seen(page);
    const dots = [];
    for (let x = middle[0] - 60; x < middle[0] + 60; x++)
      for (let y = middle[1] - 60; y < middle[1] + 60; y++)
        if (apart(shot.at(x, y), hex(plan.inks.text)) < 8) dots.push([x, y]);
    assert.ok(dots.length > 25, `${dots.length} dark pixels`);
    const ask = async (text, answer) => {
      reply = answer;
      await field.fill(text);
      await page.locator(".ochre-seek").click();
      await page.waitForFunction(
        () => !/^\s*(Looking …)?\s*$/.test(document.querySelector(".ochre-suggestions").innerText),
      );
      return (await page.locator(".ochre-suggestions").innerText()).trim();
    };
    const json = (body) => (r) =>
      r.fulfill({
        status: 200,
        contentType: "application/json",
        headers: { "Access-Control-Allow-Origin": "*" },
        body,
      });
    const failed = "The place search does not answer.";
    assert.equal(await ask("xx", (r) => r.abort()), failed);
    assert.equal(
      await ask("xx", (r) =>
        r.fulfill({ status: 500, headers: { "Access-Control-Allow-Origin": "*" } }),
      ),
      failed,
    );
    for (const body of ["<html>", "[]", "null", '{"places": {}}', ""])
      assert.equal(await ask("xx", json(body)), failed, body);
    assert.equal(await ask("xx", json('{"places": []}')), "Nothing found");
    const odd = [
      null,
      5,
      {},
      { name: "No place" },
      { name: "Far", lon: 400, lat: 0 },
      { name: "<img src=x onerror=window.broken=1>", context: "‮<b>", lon: 10, lat: 10 },
      { name: "constructor", lon: "1", lat: 2 },
      { name: "L".repeat(10000), lon: -38.5, lat: 46.8, box: [1, 2, 3] },
    ];
    await ask("xx", json(JSON.stringify({ places: odd })));
    assert.equal(await page.locator(".ochre-place").count(), 2);
    const list = await page.locator(".ochre-suggestions").boundingBox();
    assert.ok(list.x >= 0 && list.x + list.width <= 1280 && list.y + list.height <= 800);
    await page.locator(".ochre-place").first().click();
    assert.match(
      await page.locator(".ochre-note").innerText(),
      /<img src=x.* is outside this map\./,
    );
    assert.equal(await page.evaluate(() => window.broken), undefined);
    // An answer that comes after the reader has gone on is not shown.
    let late;
    reply = (r) => (late = r);
    await field.fill("xx");
    await page.locator(".ochre-seek").click();
    await painted(page);
    assert.equal(await page.locator(".ochre-none").innerText(), "Looking …");
    await field.fill("Hör");
    await json('{"places": [{"name": "Late", "lon": -38, "lat": 46.8}]}')(late);
    await page.waitForTimeout(200);
    assert.equal(await page.locator(".ochre-place").count(), 0);
    assert.deepEqual(
      faults.filter((f) => !/ERR_FAILED|500/.test(f)),
      [],
    );
    await context.close();
  },
);
