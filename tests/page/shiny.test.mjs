// Maps in a Shiny app: what the server changes and hears, and the apps that ship.
import assert from "node:assert/strict";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { before, test } from "node:test";
import { fileURLToPath } from "node:url";
import { browser, painted, seen } from "./reader.mjs";
import { serve } from "./served.mjs";

const code = `
library(shiny)
library(ochre)
options(ochre.quiet = c("counts", "empty"))
areas <- read_boundaries(ochre_demo("districts.geojson"))
areas <- areas[order(areas$code), ]
later <- transform(areas, year = 2031, population = rev(population))
long <- rbind(transform(areas, year = 2030), later)
long <- tibble::as_tibble(long)
sheet <- function(n = 5, ramp = "madder", value = "population", title = "T", live = NULL) {
  map_sheet(title, page = page_style(live = live, bars = 3)) |>
    shade_areas(areas, !!value, steps = steps_quantile(n), ramp = ramp, legend = "L",
      popup = c(Name = name))
}
said <- function(x) jsonlite::toJSON(x, auto_unbox = TRUE, digits = NA, null = "null")
part_ui <- function(id) {
  ns <- NS(id)
  tagList(ochre_output(ns("map"), height = "400px"), textOutput(ns("said")))
}
fault <- reactiveVal("")
part <- function(id, orders) moduleServer(id, function(input, output, session) {
  output$map <- render_ochre(sheet())
  output$said <- renderText(said(list(
    pointed = input$map_pointed, clicked = input$map_clicked[c("code", "row", "value")],
    chosen = input$map_chosen, view = input$map_seen, off = input$map_off
  )))
  observe({
    order <- orders()
    if (is.null(order)) return()
    isolate({
      map <- live_map("map")
      switch(order$do,
        change = change_map(map, do.call(sheet, order$with)),
        look = do.call(look_at, c(list(map), order$with)),
        mark = mark_areas(map, unlist(order$with)),
        choose = choose_area(map, order$with),
        wrong = for (act in list(choose_area, mark_areas, look_at)) {
          tryCatch(act(map, "none"), ochre_error_argument = function(e) fault(conditionMessage(e)))
        }
      )
    })
  })
})
ui <- fluidPage(
  # What is said below a map must not make the page longer, and so the map narrower.
  tags$style("body { overflow-y: scroll } .shiny-text-output { height: 90px; overflow: hidden }"),
  tabsetPanel(id = "tabs",
    tabPanel("one", part_ui("a")),
    tabPanel("two", part_ui("b")),
    tabPanel("three", ochre_output("live", height = "400px"),
      ochre_output("years", height = "400px"), textOutput("period"))
  ),
  textOutput("error")
)
server <- function(input, output, session) {
  session$allowReconnect("force")
  part("a", reactive(input$order_a))
  part("b", reactive(input$order_b))
  output$live <- render_ochre(sheet(live = live_values()))
  output$years <- render_ochre(map_sheet("Years") |> shade_areas(long, population, by = year))
  output$period <- renderText(input$years_period)
  output$error <- renderText(fault())
  observeEvent(input$values, change_values(live_map("live"), unlist(input$values)))
  observeEvent(input$year, tryCatch(show_period(live_map("years"), input$year),
    ochre_error_argument = function(e) fault(conditionMessage(e))))
}
shinyApp(ui, server)
`;
const folder = mkdtempSync(join(tmpdir(), "ochre-shiny-"));
writeFileSync(join(folder, "app.R"), code);

async function start(path) {
  const run = `shiny::runApp("${path}", host = "127.0.0.1", launch.browser = FALSE)`;
  const { match } = await serve(["-e", run], /Listening on (\S+)\n/);
  const page = await browser.newPage({ viewport: { width: 1100, height: 900 } });
  page.faults = [];
  page.on("pageerror", (e) => page.faults.push(e.message));
  // The line comes a moment before the server.
  while (!(await fetch(match[1]).catch(() => null))) await page.waitForTimeout(50);
  await page.goto(match[1]);
  await page.locator(".ochre-alive").first().waitFor();
  await painted(page);
  return page;
}

let page;
before(async () => {
  page = await start(folder);
});
const order = (of, what, given) =>
  page.evaluate(
    ([name, value]) => Shiny.setInputValue(name, value, { priority: "event" }),
    [`order_${of}`, { do: what, with: given }],
  );
const legend = (id) => page.locator(`#${id} .ochre-legend`).innerText();
const said = async (id) => JSON.parse(await page.locator(`#${id}-said`).textContent());
const until = (test, given) => page.waitForFunction(test, given, { timeout: 8000 });

test("the server hears what the reader does, as data", async () => {
  const stage = await page.locator("#a-map .ochre-stage").boundingBox();
  const [x, y] = [stage.x + 0.3 * stage.width, stage.y + 0.45 * stage.height];
  await page.mouse.move(x, y, { steps: 3 });
  await page.mouse.click(x, y);
  await until(() => JSON.parse(document.querySelector("#a-said").textContent || "{}").chosen?.code);
  const { clicked, chosen, pointed, view } = await said("a");
  assert.equal(chosen.code, clicked.code);
  assert.equal(pointed.code, chosen.code);
  const details = await page.locator("#a-map .ochre-popup").innerText();
  assert.ok(details.includes(chosen.name), `${details} ${chosen.name}`);
  assert.equal(Number(chosen.text.replace(/,/g, "")), chosen.value);
  assert.equal(chosen.row, clicked.row);
  // The islands lie between 40.4 and 36.0 degrees west.
  assert.ok(view.west < -40 && view.west > -42 && view.east > -36.5 && view.east < -34);
  assert.ok(view.south > 45 && view.south < 46 && view.north > 47.8 && view.north < 49);
  const label = await page.locator("#a-map .ochre-class-label").first().innerText();
  await page.locator("#a-map .ochre-class").first().click();
  await until(() => JSON.parse(document.querySelector("#a-said").textContent).off?.length === 1);
  assert.equal((await said("a")).off[0].label, label);
  await page.locator("#a-map .ochre-class").first().click();
});

test("a change travels alone, keeps the view, and what is drawn has its classes", async () => {
  const zoom = () =>
    page.evaluate(() =>
      Number(/"zoom":([0-9.]+)/.exec(document.querySelector("#a-said").textContent)[1]),
    );
  await order("a", "look", { zoom: 3 });
  await until(() => /"zoom":3[,}]/.test(document.querySelector("#a-said").textContent));
  const canvas = await page.locator("#a-map canvas").first().elementHandle();
  for (const given of [{ n: 3 }, { n: 7, ramp: "woad" }, { n: 4, value: "area_km2" }]) {
    const old = await legend("a-map");
    await order("a", "change", given);
    await until((old) => document.querySelector("#a-map .ochre-legend").innerText !== old, old);
    const rows = await page.locator("#a-map .ochre-class").count();
    assert.equal(rows, given.n);
    assert.equal(await zoom(), 3);
    // The same elements: nothing was made anew.
    assert.ok(await canvas.evaluate((c) => c.isConnected));
  }
  // Another title makes the map anew, in the same view.
  await order("a", "change", { title: "Other" });
  await until(() => document.querySelector("#a-map .ochre-title").innerText === "Other");
  await painted(page);
  assert.ok(Math.abs((await zoom()) - 3) < 1e-3);
  await order("a", "look", {});
  await order("a", "change", {});
  await until(() => document.querySelector("#a-map .ochre-title").innerText === "T");
});

test("marks, an opened area, and a look from the server", async () => {
  const picture = async () => {
    await painted(page);
    return (await seen(page)).at;
  };
  // A class that is pointed at while its legend is made anew is not left brought out.
  for (const n of [4, 5]) {
    await page.locator("#a-map .ochre-class").first().hover();
    await order("a", "change", { n });
    await until((n) => document.querySelectorAll("#a-map .ochre-class").length === n, n);
  }
  await page.mouse.move(1, 1);
  // The map was made anew: its picture must be there.
  await until(() => document.querySelector("#a-map").classList.contains("ochre-alive"));
  await painted(page);
  const [{ at }, row] = [
    await seen(page),
    page.locator("#a-map .ochre-class .ochre-swatch").last(),
  ];
  const swatch = await row.evaluate((e) => getComputedStyle(e).backgroundColor);
  const ink = swatch.match(/\d+/g).slice(0, 3).join();
  let there = 0;
  for (let x = 0; x < 700; x += 2)
    for (let y = 100; y < 430; y += 2) there += at(x, y).slice(0, 3).join() === ink ? 1 : 0;
  assert.ok(there > 1000, `${there} of ${ink}`);
  await order("a", "choose", null);
  await until(() => !JSON.parse(document.querySelector("#a-said").textContent).chosen);
  // Of the map; controls beside it are smoothed otherwise when they are made anew.
  const apartBy = (a, b) => {
    let n = 0;
    for (let x = 0; x < 700; x += 2)
      for (let y = 100; y < 430; y += 2) n += String(a(x, y)) !== String(b(x, y)) ? 1 : 0;
    return n;
  };
  const atRest = async () => {
    for (let last = await picture(), tries = 0; tries < 20; tries++) {
      await page.waitForTimeout(250);
      const now = await picture();
      if (apartBy(last, now) === 0) return now;
      last = now;
    }
    assert.fail("The picture does not come to rest.");
  };
  const comesTo = async (test) => {
    for (let tries = 0; tries < 40; tries++) {
      const now = apartBy(plain, await picture());
      if (test(now)) return;
      await page.waitForTimeout(150);
    }
    assert.fail("The picture did not come to it.");
  };
  const plain = await atRest();
  await order("a", "mark", ["0101", "0505"]);
  await comesTo((pixels) => pixels > 30);
  // Also after the map has been made anew.
  await order("a", "change", { title: "Marked" });
  await until(() => document.querySelector("#a-map .ochre-title").innerText === "Marked");
  await order("a", "change", {});
  await until(() => document.querySelector("#a-map .ochre-title").innerText === "T");
  await until(() => document.querySelector("#a-map").classList.contains("ochre-alive"));
  await page.waitForTimeout(300);
  await comesTo((pixels) => pixels > 30);
  await order("a", "mark", []);
  await comesTo((pixels) => pixels < 5);
  await order("a", "wrong", null);
  await until(() =>
    /nothing with the code|no area has/.test(document.querySelector("#error").textContent),
  );
  await order("a", "choose", "0505");
  await until(
    () => JSON.parse(document.querySelector("#a-said").textContent).chosen?.code === "0505",
  );
  await order("a", "look", { view: "0505" });
  await until(() => JSON.parse(document.querySelector("#a-said").textContent).view.zoom > 2);
});

test("a map in a tab that was not open is drawn as it was last changed", async () => {
  await order("b", "change", { n: 3, ramp: "weld", title: "Waiting" });
  await page.waitForTimeout(300);
  await page.getByRole("tab", { name: "two" }).click();
  await page.locator("#b-map .ochre-alive, #b-map.ochre-alive").waitFor();
  assert.equal(await page.locator("#b-map .ochre-title").innerText(), "Waiting");
  assert.equal(await page.locator("#b-map .ochre-class").count(), 3);
  await order("b", "change", { n: 6, title: "Waiting" });
  await until(() => document.querySelectorAll("#b-map .ochre-class").length === 6);
});

test("periods and many new values, in steady memory and one view", async () => {
  await page.getByRole("tab", { name: "three" }).click();
  await page.locator("#live.ochre-alive").waitFor();
  await page.locator("#years.ochre-alive").waitFor();
  const set = (name, value) =>
    page.evaluate(([n, v]) => Shiny.setInputValue(n, v, { priority: "event" }), [name, value]);
  await set("year", "2030");
  await until(() => document.querySelector("#period").textContent === "2030");
  await set("year", "1999");
  await until(() => /no period/.test(document.querySelector("#error").textContent));
  await page.locator("#live .ochre-buttons button").last().click();
  await painted(page);
  const zoom = () => page.evaluate(() => Shiny.shinyapp.$inputValues["live_seen:ochre.seen"]?.zoom);
  await until(() => Shiny.shinyapp.$inputValues["live_seen:ochre.seen"]?.zoom > 1.1);
  const before = await zoom();
  for (let i = 0; i < 60; i++) {
    await set("values", { "0101": i, "0102": 1e6 + i, "0103": null });
    await page.waitForTimeout(20);
  }
  await until(() => /1,000,059/.test(document.querySelector("#live .ochre-bars").innerText));
  assert.match(await page.locator("#live .ochre-live").innerText(), /\d/);
  assert.equal(await zoom(), before);
  assert.deepEqual(page.faults, []);
  await page.close();
});

test("after a lost connection the map is there, in its view, and can be changed", async () => {
  const app = await start(folder);
  await app.locator("#a-map .ochre-buttons button").last().click();
  await app.waitForFunction(() => Shiny.shinyapp.$inputValues["a-map_seen:ochre.seen"]?.zoom > 1.1);
  const before = await app.evaluate(
    () => Shiny.shinyapp.$inputValues["a-map_seen:ochre.seen"].zoom,
  );
  await app.evaluate(() => Shiny.shinyapp.$socket.close());
  await app.locator("#shiny-disconnected-overlay").waitFor();
  await app.locator("#shiny-disconnected-overlay").waitFor({ state: "detached", timeout: 20000 });
  await app.waitForTimeout(500);
  await app.waitForFunction((before) => {
    const seen = Shiny.shinyapp.$inputValues["a-map_seen:ochre.seen"];
    return Math.abs(seen?.zoom / before - 1) < 1e-3;
  }, before);
  const set = (with_) =>
    app.evaluate(
      (w) => Shiny.setInputValue("order_a", { do: "change", with: w }, { priority: "event" }),
      with_,
    );
  await set({ n: 3 });
  await app.waitForFunction(() => document.querySelectorAll("#a-map .ochre-class").length === 3);
  assert.deepEqual(app.faults, []);
  await app.close();
});

const example = (name) => fileURLToPath(new URL(`../../inst/examples/${name}`, import.meta.url));

test("the app of facts comes near what is clicked, and back", async () => {
  const app = await start(example("shiny-facts"));
  const stage = await app.locator(".ochre-stage").boundingBox();
  await app.mouse.click(stage.x + 0.3 * stage.width, stage.y + 0.45 * stage.height);
  await app.locator("#facts dl").waitFor();
  assert.match(await app.locator("#facts").innerText(), /Region[\s\S]*\d+\.\d %/);
  await app.locator("#home").click();
  await app.locator("#facts dl").waitFor({ state: "detached" });
  assert.deepEqual(app.faults, []);
  await app.close();
});

test("the app of live values plays and stops", async () => {
  const app = await start(example("shiny-live"));
  const before = await app.locator(".ochre-legend").innerText();
  await app.locator("#play").click();
  await app.waitForFunction(() => /Minute [3-9]/.test(document.querySelector("#now").innerText));
  assert.notEqual(await app.locator(".ochre-legend").innerText(), before);
  await app.locator("#play").click();
  await app.waitForTimeout(1200);
  const now = await app.locator("#now").innerText();
  await app.waitForTimeout(1500);
  assert.equal(await app.locator("#now").innerText(), now);
  assert.deepEqual(app.faults, []);
  await app.close();
});

test("the app of regions shows one with its totals", async () => {
  const app = await start(example("shiny-filter"));
  await app.locator("#region").selectOption({ index: 2 });
  const region = await app.locator("#region").inputValue();
  await app.waitForFunction(
    (r) => document.querySelector(".ochre-title").innerText.endsWith(r),
    region,
  );
  assert.match(
    await app.locator("#cards").innerText(),
    /Residents\s+\d+,\d+[\s\S]*Percent\s+\d+\.\d/,
  );
  await app.close();
});

test("in the dashboard maps, table and ranking mark the same, and move together", async () => {
  const app = await start(example("shiny-dashboard"));
  await app.locator("#old.ochre-alive").waitFor();
  const stage = await app.locator("#young .ochre-stage").boundingBox();
  const selected = app.locator("#table tr.selected, #table td.selected");
  for (const [x, y] of [
    [0.3, 0.4],
    [0.35, 0.5],
    [0.3, 0.6],
    [0.25, 0.5],
  ]) {
    if (await selected.count()) break;
    await app.mouse.click(stage.x + x * stage.width, stage.y + y * stage.height);
    await selected
      .first()
      .waitFor({ timeout: 3000 })
      .catch(() => undefined);
  }
  assert.ok(await selected.count());
  await app.locator("#young .ochre-buttons button").last().click();
  await app.waitForFunction(() => {
    const [a, b] = ["young", "old"].map(
      (id) => Shiny.shinyapp.$inputValues[`${id}_seen:ochre.seen`]?.zoom,
    );
    return a > 1.1 && a === b;
  });
  assert.deepEqual(app.faults, []);
  await app.close();
});
