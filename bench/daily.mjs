// The loops of a day: a build, the same again, and with another colour, against the first build; a
// preview from its start to a changed map, against a start of R with Ochre; a map in a Shiny app
// under many changes, against drawing it for the first time. `node daily.mjs FOLDER GRID`.
import { execFileSync, spawn } from "node:child_process";
import { copyFileSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join, resolve } from "node:path";
import { fileURLToPath } from "node:url";
import { median, report, small } from "./report.mjs";

const { chromium } = createRequire(new URL("../viewer/", import.meta.url))("playwright-core");
const [parent, grid] = process.argv.slice(2);
mkdirSync(parent, { recursive: true });
const folder = resolve(mkdtempSync(join(parent, "daily-")));
copyFileSync(grid, join(folder, "grid.geojson"));
const command = fileURLToPath(new URL("../inst/bin/ochre", import.meta.url));
const environment = { ...process.env, R_USER_CACHE_DIR: join(folder, "cache") };

const sheet = join(folder, "map.ochre.yml");
const write = ({ ramp = "madder", n = 5, popup = "Name: name" } = {}) =>
  writeFileSync(
    sheet,
    `ochre: 1
title: Grid
tables:
  areas:
    - read_boundaries: {file: grid.geojson}
layers:
  - shade_areas:
      {data: areas, value: rate, ramp: ${ramp}, steps: {steps_quantile: {n: ${n}}}, popup: {${popup}}}
publish: [map.html]
`,
  );
const seconds = (act) => {
  const begin = performance.now();
  act();
  return (performance.now() - begin) / 1000;
};
const build = () =>
  seconds(() =>
    execFileSync("Rscript", [command, "build", sheet], { env: environment, stdio: "ignore" }),
  );
// ---- building ----------------------------------------------------------------------------------

write();
const first = build();
console.log(`a first build ${first.toFixed(2)} s`);
report("the same build again", build() / first, "the first", 0.3);
write({ ramp: "woad" });
report("a build with another ramp", build() / first, "the first", 0.4);

// ---- preview -----------------------------------------------------------------------------------

const bare = seconds(() =>
  execFileSync("Rscript", ["-e", "suppressMessages(library(ochre))"], { env: environment }),
);
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: ["--no-sandbox"],
});
const listening = (args, pattern) =>
  new Promise((done) => {
    const run = spawn("Rscript", args, { env: environment });
    let said = "";
    const hear = (data) => {
      const match = pattern.exec((said += data));
      if (match) done({ run, match });
    };
    run.stdout.on("data", hear);
    run.stderr.on("data", hear);
  });
const begin = performance.now();
const preview = await listening([command, "preview", sheet], /http:\S+\//);
report(
  "preview, an address to open",
  (performance.now() - begin) / 1000 / bare,
  "library(ochre)",
  2,
);
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await page.goto(preview.match[0]);
await page.locator(".ochre-alive").waitFor();
report(
  "preview, the map on the screen",
  (performance.now() - begin) / 1000 / bare,
  "library(ochre)",
  8,
);
const shown = (page) =>
  page.waitForFunction(() => !document.querySelector(".ochre-drawing"), null, { polling: "raf" });
async function changed(what, most, given) {
  const times = [];
  for (let i = 0; i < (small ? 1 : 5); i++) {
    const before = await page.evaluate(() => document.documentElement.dataset.build);
    const begin = performance.now();
    write(given(i));
    await page.waitForFunction((b) => document.documentElement.dataset.build !== b, before, {
      polling: "raf",
    });
    await shown(page);
    times.push((performance.now() - begin) / 1000);
    await page.waitForTimeout(150);
  }
  report(`preview, ${what}`, median(times), "a second", most);
}
await changed("another ramp", 0.5, (i) => ({ ramp: i % 2 ? "woad" : "weld" }));
await changed("another number of classes", 1, (i) => ({ n: 3 + i }));
await changed("another popup", 0.5, (i) => ({ popup: `Field ${i}: rate` }));
await page.close();
preview.run.kill();

// ---- Shiny -------------------------------------------------------------------------------------

const app = join(folder, "app");
mkdirSync(app);
writeFileSync(
  join(app, "app.R"),
  `library(shiny)
library(ochre)
areas <- suppressMessages(read_boundaries("${join(folder, "grid.geojson")}"))
sheet <- function(ramp = "madder", live = NULL) {
  map_sheet("Grid", page = page_style(live = live)) |> shade_areas(areas, rate, ramp = ramp)
}
plans <- lapply(c("madder", "woad"), function(r) resolve_sheet(sheet(r)))
ui <- fluidPage(ochre_output("map"), ochre_output("live"))
server <- function(input, output, session) {
  output$map <- render_ochre(plans[[1]])
  output$live <- render_ochre(sheet(live = live_values()))
  observeEvent(input$turn, change_map(live_map("map"), plans[[input$turn %% 2 + 1]]))
  observeEvent(input$go, {
    step <- 0
    observe({
      if (step >= ${small ? 20 : 1000}) return()
      invalidateLater(100)
      step <<- step + 1
      values <- stats::setNames(runif(200, 0, 100), areas$code[seq_len(200)])
      change_values(live_map("live"), values)
      session$sendCustomMessage("step", step)
    })
  })
}
shinyApp(ui, server)
`,
);
const run = `shiny::runApp("${app}", host = "127.0.0.1", launch.browser = FALSE)`;
const shiny = await listening(["-e", run], /Listening on (\S+)/);
const live = await browser.newPage({ viewport: { width: 1280, height: 1100 } });
const opened = performance.now();
await live.goto(shiny.match[1]);
await live.locator("#live.ochre-alive").waitFor();
await shown(live);
const drawn = performance.now() - opened;
await live.evaluate(() => {
  window.steps = 0;
  window.times = [];
  Shiny.addCustomMessageHandler("step", (n) => (window.steps = n));
  // From when a change is handed to the map until the frame that shows it.
  const renew = window.ochreHeld.prototype.renew;
  window.ochreHeld.prototype.renew = function (given) {
    const begin = performance.now();
    renew.call(this, given);
    const look = () =>
      document.querySelector("#map.ochre-drawing")
        ? requestAnimationFrame(look)
        : window.times.push(performance.now() - begin);
    requestAnimationFrame(look);
  };
});
for (let i = 1; i <= 11; i++) {
  await live.evaluate((n) => Shiny.setInputValue("turn", n), i);
  await live.waitForFunction((n) => window.times.length >= n, i);
}
const times = await live.evaluate(() => window.times);
const recoloured = `the app opened after ${drawn.toFixed(0)} ms`;
report("app, 3,000 areas recoloured", median(times) / 1000, "a second", 0.05, recoloured);

const session = await live.context().newCDPSession(live);
const heap = async () => {
  await session.send("HeapProfiler.collectGarbage");
  return (await session.send("Runtime.getHeapUsage")).usedSize / 1e6;
};
await live.locator("#live .ochre-buttons button").last().click();
await live.waitForTimeout(500);
const zoom = () => live.evaluate(() => Shiny.shinyapp.$inputValues["live_seen:ochre.seen"].zoom);
const before = await zoom();
await live.evaluate(() => Shiny.setInputValue("go", 1));
await live.waitForFunction((n) => window.steps >= n, small ? 10 : 100, { timeout: 60000 });
const early = await heap();
await live.waitForFunction((n) => window.steps >= n, small ? 20 : 1000, { timeout: 300000 });
await live.waitForTimeout(500);
const late = await heap();
const view = `the view is ${(await zoom()) === before ? "kept" : "LOST"}`;
report("app, heap after 1,000 changes", late / early, "that after 100", 1.1, view);
await browser.close();
shiny.run.kill();
rmSync(folder, { recursive: true, force: true });
