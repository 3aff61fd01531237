// Pictures of the demo's pages, of a report, a preview, an app and a service:
// `node screenshots.mjs MAP.html FOLDER PREVIEW APP SERVICE`, the last three as addresses.
import { createRequire } from "node:module";
import { pathToFileURL } from "node:url";

const { chromium } = createRequire(new URL("../viewer/", import.meta.url))("playwright-core");
const [, , given, out, preview, app, service] = process.argv;
let file = given;
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: ["--no-sandbox"],
});
const shoot = async (name, viewport, act, { ready = ".ochre-alive", ...extra } = {}) => {
  const context = await browser.newContext({ viewport, ...extra });
  const page = await context.newPage();
  await page.goto(file.startsWith("http") ? file : pathToFileURL(file).href);
  await page.locator(ready).first().waitFor();
  await page.waitForTimeout(500);
  await act(page);
  await page.waitForTimeout(500);
  await page.screenshot({ path: `${out}/${name}.png` });
  await context.close();
};
await shoot("page", { width: 1280, height: 800 }, (p) => p.mouse.move(440, 610));
await shoot("page-popup", { width: 1280, height: 800 }, async (p) => {
  await p.mouse.move(330, 460);
  await p.mouse.wheel(0, -450);
  await p.waitForTimeout(700);
  await p.mouse.click(520, 560);
});
await shoot("page-phone", { width: 390, height: 780 }, (p) => p.touchscreen.tap(96, 340), {
  hasTouch: true,
  isMobile: true,
  deviceScaleFactor: 1,
});
file = file.replace("map.html", "pairs.html");
await shoot("page-pairs", { width: 1280, height: 800 }, (p) => p.mouse.move(330, 640));
file = file.replace("pairs.html", "months.html");
await shoot("page-months", { width: 1280, height: 800 }, async (p) => {
  await p.getByRole("button", { name: "Previous" }).click();
  await p.getByRole("button", { name: "Previous" }).click();
  await p.mouse.move(440, 560);
});
file = file.replace("months.html", "places.html");
await shoot("page-places", { width: 1280, height: 800 }, (p) => p.mouse.move(640, 400));
file = file.replace("places.html", "linked.html");
await shoot("page-linked", { width: 1280, height: 700 }, (p) => p.mouse.move(320, 300));
file = file.replace("linked.html", "tiles.html");
await shoot("page-tiles", { width: 1280, height: 800 }, async (p) => {
  for (let i = 0; i < 40; i++)
    if (await fetch("http://127.0.0.1:8791/favicon.ico").catch(() => null)) break;
    else await p.waitForTimeout(250);
  await p.reload({ waitUntil: "networkidle" });
  await p.mouse.move(430, 620);
});
file = file.replace("tiles.html", "heat.html");
await shoot("page-heat", { width: 1280, height: 800 }, (p) => p.waitForTimeout(300));
file = file.replace("heat.html", "counties.html");
await shoot("page-counties", { width: 1280, height: 800 }, (p) => p.mouse.move(640, 300));
file = file.replace("counties.html", "report.html");
await shoot("report", { width: 1280, height: 1500 }, (p) => p.waitForTimeout(300));
file = preview;
await shoot("preview", { width: 1280, height: 800 }, (p) => p.locator("#said .wrong").waitFor());
file = app;
await shoot("shiny", { width: 1280, height: 1000 }, async (p) => {
  await p.locator("#table tbody tr").nth(2).click();
  await p.locator("#table tbody tr").nth(3).click();
  await p.waitForTimeout(700);
});
file = service;
await shoot("service", { width: 1280, height: 1000 }, (p) => p.mouse.move(1, 1), { ready: "h1" });
await browser.close();
