// What follows the zoom: widths, dashes, sizes, heat, and very many points.
import assert from "node:assert/strict";
import { join } from "node:path";
import { test } from "node:test";
import { apart, blankLayer, hex, maps, onPage, open, painted, seen, variant } from "./reader.mjs";
import { pack, sign } from "./unpack.mjs";

// A plan with lines, symbols and a heat surface that follow the zoom, made from the demo's map.
const simple = () =>
  variant(join(maps, "map.html"), (plan) => {
    const [x0, y0, x1, y1] = plan.frame;
    const middle = (y0 + y1) / 2;
    const { x0: left, y0: low, step } = plan.topology;
    const grid = (x, y) => [Math.round((x - left) / step), Math.round((y - low) / step)];
    const [a, b] = [grid(x0, middle), grid(x1, middle)];
    plan.topology.arcs = pack([2, ...[...a, b[0] - a[0], b[1] - a[1]].map(sign)]);
    plan.topology.layers = { line: pack([2, 1, 1, 0]) };
    const more = (layer) => blankLayer({ name: layer.id, legend: layer.id, ...layer });
    const r = 0.02 * (x1 - x0);
    plan.layers = [
      more({
        kind: "heat",
        id: "heat",
        x: [x0 + 0.7 * (x1 - x0), x0 + 0.71 * (x1 - x0), x0 + 0.3 * (x1 - x0)],
        y: [middle, middle, middle + 0.3 * (y1 - y0)],
        weight: [3, 3, 2],
        radius: 40,
        opacity: 1,
        labels: ["low", "", "high"],
        colours: ["#FFEEAA", "#FF8800", "#880000"],
      }),
      more({
        kind: "lines",
        id: "line",
        colour: "#0000FF",
        width: [4],
        dash: null,
        arrow: false,
        zoomed: {
          width: { zooms: [1, 4], values: [4, 16], stepped: false },
          size: null,
          dash: {
            zooms: [1, 3.9],
            values: [
              [0, 0],
              [2, 2],
            ],
            stepped: true,
          },
        },
      }),
      more({
        kind: "symbols",
        plain: false,
        id: "dot",
        hover: ["Dot"],
        x: [x0 + 0.5 * (x1 - x0)],
        y: [middle],
        r: [r],
        colour: "#00AA00",
        opacity: 1,
        rim: "#00AA00",
        sizes: { labels: ["1"], r: [r] },
        group: false,
        zoomed: {
          size: { zooms: [1, 4], values: [1, 3], stepped: false },
          width: null,
          dash: null,
        },
      }),
    ];
    plan.insets = [];
    plan.page = { ...plan.page, bars: 0, table: false, search: false, cards: null };
  });

test("widths, dashes and sizes follow the zoom, evenly or in steps, in the map", async () => {
  const { page, context, faults } = await open(simple());
  const measure = async () => {
    const shot = await seen(page);
    const stage = await page.locator(".ochre-stage").boundingBox();
    const [x, y] = [
      Math.round(stage.x + 0.25 * stage.width),
      Math.round(stage.y + stage.height / 2),
    ];
    const is = (colour, px, py) => apart(shot.at(px, py), hex(colour)) < 135;
    const span = (colour, px) => {
      let n = 0;
      for (let py = y - 150; py < y + 150; py++) n += is(colour, px, py);
      return n;
    };
    // Along the line: how often it begins and ends.
    let turns = 0;
    for (let px = Math.round(stage.x + 0.12 * stage.width); px < stage.x + 0.35 * stage.width; px++)
      turns += is("#0000FF", px, y) !== is("#0000FF", px + 1, y);
    const thick = Math.max(...Array.from({ length: 60 }, (_, k) => span("#0000FF", x + k)));
    return {
      thick,
      turns,
      dot: span("#00AA00", Math.round(stage.x + stage.width / 2)),
      legend: (await page.locator(".ochre-legend-sizes circle").boundingBox()).height,
      stroke: Number(await page.locator(".ochre-legend-line line").getAttribute("stroke-width")),
    };
  };
  const home = await measure();
  assert.ok(Math.abs(home.thick - 4) <= 1 && home.turns === 0, JSON.stringify(home));
  assert.ok(Math.abs(home.dot - home.legend) <= 2, JSON.stringify(home));
  const stage = page.locator(".ochre-stage");
  const zoomBy = (factor) =>
    page.evaluate((f) => {
      const s = document.querySelector(".ochre-stage"),
        b = s.getBoundingClientRect();
      s.dispatchEvent(
        new WheelEvent("wheel", {
          deltaY: -Math.log(f) / 0.002 / Math.ceil(Math.log(f) / 0.6),
          clientX: b.left + b.width / 2,
          clientY: b.top + b.height / 2,
          bubbles: true,
          cancelable: true,
        }),
      );
    }, factor);
  await zoomBy(1.8);
  await zoomBy(2 / 1.8);
  await painted(page);
  const half = await measure();
  // Halfway between zoom 1 and 4, on a scale that doubles.
  assert.ok(Math.abs(half.thick - 7.5 * 1.33) <= 1.5 && half.turns === 0, JSON.stringify(half));
  assert.ok(
    Math.abs(half.dot / home.dot - 2) < 0.15 && Math.abs(half.dot - half.legend) <= 3,
    JSON.stringify([home, half]),
  );
  assert.ok(Math.abs(half.stroke - 7.5 * 1.33) < 0.3);
  await zoomBy(1.8);
  await zoomBy(1.8);
  await painted(page);
  const near = await measure();
  assert.ok(Math.abs(near.thick - 12 * 1.33) <= 1.5 && near.turns > 6, JSON.stringify(near));
  assert.ok(Math.abs(near.dot / home.dot - 3) < 0.2, JSON.stringify([home, near]));
  // The pointer finds the symbol where it is drawn, and not beyond.
  const box = await stage.boundingBox();
  const [mx, my] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(mx, my - near.dot / 2 + 3);
  assert.equal(await page.locator(".ochre-hover").innerText(), "Dot");
  await page.mouse.move(mx, my - near.dot / 2 - 6);
  assert.equal(await page.locator(".ochre-hover").isVisible(), false);
  assert.deepEqual(faults, []);
  await context.close();
});

test("a heat surface is fullest where points crowd", async () => {
  const { page, plan, context, faults } = await open(simple());
  const layer = plan.layers[0];
  const places = [0, 1, 2].map((i) => [layer.x[i], layer.y[i]]);
  const home = await seen(page);
  const on = await Promise.all(places.map((p) => onPage(page, plan, p)));
  const at = (shot, [x, y], dy = 0) => shot.at(Math.round(x), Math.round(y + dy));
  // Two points nearly on one spot are dark; the lone one is lighter; beyond the radius there is
  // paper.
  assert.ok(apart(at(home, on[0], 9), hex("#880000")) < 90, String(at(home, on[0], 9)));
  assert.ok(at(home, on[2])[1] > at(home, on[0], 9)[1] + 60, "the lone one is lighter");
  assert.ok(apart(at(home, on[2]), [255, 255, 255]) > 40);
  assert.ok(
    apart(at(home, on[2], 46), [255, 255, 255]) < 6 &&
      apart(at(home, on[2], 25), [255, 255, 255]) > 4,
    "radius",
  );
  // Moved a little, it looks the same about its points.
  for (let i = 0; i < 3; i++) await page.locator(".ochre-stage").press("+");
  await painted(page);
  const before = await seen(page);
  await page.mouse.move(500, 300);
  await page.mouse.down();
  await page.mouse.move(537, 313, { steps: 5 });
  await page.mouse.up();
  await page.mouse.move(2, 2);
  await painted(page);
  const moved = await seen(page);
  const stage = await page.locator(".ochre-stage").boundingBox();
  let worst = 0;
  for (let x = stage.x + 60; x < stage.x + stage.width - 120; x += 23)
    for (let y = stage.y + 60; y < stage.y + stage.height - 120; y += 19)
      worst = Math.max(
        worst,
        apart(
          before.at(Math.round(x), Math.round(y)),
          moved.at(Math.round(x) + 37, Math.round(y) + 13),
        ),
      );
  assert.ok(worst < 16, `differs by ${worst}`);
  assert.equal(
    await page
      .locator(".ochre-flow-ends")
      .innerText()
      .then((t) => t.replace(/\s+/g, " ")),
    "low high",
  );
  await page.locator(".ochre-layers summary").click();
  await page.locator(".ochre-layer", { hasText: "heat" }).getByRole("checkbox").uncheck();
  await page.getByRole("button", { name: "Show the whole map" }).click();
  await page.mouse.move(2, 2);
  await painted(page);
  assert.deepEqual(at(await seen(page), on[2]), [255, 255, 255]);
  assert.deepEqual(faults, []);
  await context.close();
});

test("200,000 points answer the pointer and move without waiting", async () => {
  const many = variant(simple(), (plan) => {
    const [x0, y0, x1, y1] = plan.frame;
    const dots = plan.layers[2];
    let seed = 7;
    const random = () => (seed = (seed * 48271) % 2147483647) / 2147483647;
    const n = 200000;
    Object.assign(dots, {
      x: [],
      y: [],
      r: new Array(n).fill(dots.r[0] / 9),
      hover: [],
      zoomed: null,
    });
    for (let i = 0; i < n; i++) {
      dots.x.push(Math.round(x0 + random() * (x1 - x0)));
      dots.y.push(Math.round(y0 + random() * (y1 - y0)));
      dots.hover.push(`Point ${i}`);
    }
    plan.layers = [dots];
  });
  const { page, plan, context, faults } = await open(many);
  await page.locator(".ochre-buttons").waitFor();
  const dots = plan.layers[0];
  const [x, y] = await onPage(page, plan, [dots.x[199999], dots.y[199999]]);
  await page.mouse.move(x, y);
  assert.equal(await page.locator(".ochre-hover").innerText(), "Point 199999");
  const steps = await page.evaluate(async () => {
    const s = document.querySelector(".ochre-stage"),
      b = s.getBoundingClientRect(),
      out = [];
    for (let k = 0; k < 20; k++) {
      const begin = performance.now();
      s.dispatchEvent(
        new WheelEvent("wheel", {
          deltaY: -60,
          clientX: b.left + 300,
          clientY: b.top + 200,
          bubbles: true,
          cancelable: true,
        }),
      );
      await new Promise((r) => requestAnimationFrame(r));
      out.push(performance.now() - begin);
    }
    return out.sort((a, c) => a - c);
  });
  // The first two may be drawn in full.
  assert.ok(steps[15] < 150, steps.map(Math.round).join());
  await page.waitForTimeout(2500);
  await page.locator(".ochre-layers").evaluate((list) => {
    list.open = true;
    list.querySelector(".ochre-adjust").click();
  });
  // At rest the picture is drawn in full: asking for one that is changes nothing.
  const rest = await seen(page);
  await page
    .locator(".ochre-opacity")
    .first()
    .evaluate((n) => n.dispatchEvent(new Event("input")));
  await page.waitForTimeout(2500);
  const again = await seen(page);
  for (let px = 30; px < 1000; px += 3)
    for (let py = 90; py < 700; py += 5)
      assert.ok(apart(rest.at(px, py), again.at(px, py)) < 4, `${px}, ${py}`);
  const stage = await page.locator(".ochre-stage").boundingBox();
  let green = 0;
  for (let px = stage.x + 30; px < stage.x + 400; px += 7)
    for (let py = stage.y + 30; py < stage.y + 400; py += 7)
      green += apart(rest.at(Math.round(px), Math.round(py)), hex("#00AA00")) < 12;
  assert.ok(green > 20, `${green} sharp pixels`);
  assert.deepEqual(faults, []);
  await context.close();
});
