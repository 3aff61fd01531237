// For every reader: by keys alone, in light and dark, with enough contrast, on any screen.
import assert from "node:assert/strict";
import { join } from "node:path";
import { test } from "node:test";
import { file, start } from "./everything.mjs";
import { colourAt, contrast, insideOf, maps, onPage, open, painted, isFirefox } from "./reader.mjs";

test("by keys alone: from area to area in the order of names, each read out", async () => {
  const { page, plan, context, others } = await start();
  const layer = plan.layers[0];
  await page.locator(".ochre-stage").focus();
  const order = layer.names
    .map((_, i) => i)
    .sort((a, b) => layer.names[a].localeCompare(layer.names[b], "en"));
  const label = page.locator(".ochre-hover");
  for (const at of [0, 1, 2]) {
    await page.keyboard.press("PageDown");
    await label.waitFor();
    assert.equal(await label.textContent(), layer.hover[order[at]]);
    assert.equal(await page.locator("[aria-live]").textContent(), layer.hover[order[at]]);
  }
  await page.keyboard.press("PageUp");
  await page.keyboard.press("Enter");
  await page.locator(".ochre-popup").waitFor();
  assert.equal(
    await page.locator(".ochre-popup dd").first().textContent(),
    layer.popup.fields[0][order[1]],
  );
  await page.keyboard.press("Escape");
  assert.equal(await page.evaluate(() => document.activeElement.className), "ochre-stage");
  // Also from a control beside the map.
  await page.keyboard.press("PageDown");
  await page.keyboard.press("Enter");
  await page.locator(".ochre-popup").waitFor();
  await page.locator(".ochre-legend button").first().focus();
  await page.keyboard.press("Escape");
  await page.locator(".ochre-popup").waitFor({ state: "hidden" });
  assert.deepEqual(others(), []);
  await context.close();
});

test(
  "the page is light or dark as the reader has set it, and changes with it",
  { skip: isFirefox },
  async () => {
    const { page, plan, context, others } = await start({ colorScheme: "dark" });
    const layer = plan.layers[0];
    const item = layer.names.indexOf("Hörrow");
    const [x, y] = await onPage(page, plan, insideOf(plan, layer, item));
    const k = layer.class[item] - 1;
    assert.equal(await colourAt(page, x, y), plan.dark.layers[0].colours[k]);
    await page.emulateMedia({ colorScheme: "light" });
    await painted(page);
    assert.equal(await colourAt(page, x, y), layer.colours[k]);
    assert.deepEqual(others(), []);
    await context.close();
  },
);

// Every word that is seen against what lies behind it, and every focus ring; [what, contrast]
// where it is too little.
const faint = (page) =>
  page.evaluate(() => {
    const parse = (c) => {
      const v = c.match(/[\d.]+/g)?.map(Number) ?? [0, 0, 0, 0];
      return c.startsWith("color(srgb")
        ? [...v.slice(0, 3).map((x) => 255 * x), v[3] ?? 1]
        : [v[0], v[1], v[2], v[3] ?? 1];
    };
    const over = (top, below) => [0, 1, 2].map((i) => top[3] * top[i] + (1 - top[3]) * below[i]);
    const chain = (node) => {
      const out = [];
      for (let n = node; n instanceof Element; n = n.parentElement) out.unshift(n);
      return out;
    };
    const behind = (node) =>
      chain(node).reduce(
        (paper, n) => {
          const style = getComputedStyle(n);
          const c = parse(style.backgroundColor);
          return over([...c.slice(0, 3), c[3] * Number(style.opacity)], paper);
        },
        [255, 255, 255],
      );
    const solid = (node) =>
      chain(node).reduce((a, n) => a * Number(getComputedStyle(n).opacity), 1);
    const out = [];
    const add = (what, ink, paper) => out.push([what, ink, paper]);
    for (const node of document.querySelectorAll(".ochre-map *")) {
      if (
        !node.checkVisibility({ checkOpacity: false }) ||
        node.closest(":disabled, .ochre-unseen, .ochre-hint, noscript")
      )
        continue;
      const style = getComputedStyle(node);
      const words = [...node.childNodes]
        .filter((n) => n.nodeType === 3 && n.textContent.trim())
        .map((n) => n.textContent.trim())
        .join(" ");
      const paper = behind(node);
      const ink = parse(node instanceof SVGElement ? style.fill : style.color);
      if (words)
        add(words.slice(0, 30), over([...ink.slice(0, 3), ink[3] * solid(node)], paper), paper);
      if (node.placeholder) {
        const c = parse(getComputedStyle(node, "::placeholder").color);
        add(`placeholder ${node.placeholder}`, over(c, paper), paper);
      }
      if (node.matches("input[type=search]"))
        add("edge of the search", parse(style.borderTopColor), paper, 3);
      if (node.matches("button, input, summary, a, [tabindex]"))
        add(
          "focus",
          parse(
            getComputedStyle(node)
              .getPropertyValue("--focus")
              .replace(
                /^#(..)(..)(..)$/,
                (_, r, g, b) => `rgb(${[r, g, b].map((v) => parseInt(v, 16)).join()})`,
              ),
          ),
          behind(node.parentElement),
        );
    }
    return out;
  });

test("every word and control stands out enough, in light and dark", async () => {
  for (const colorScheme of ["light", "dark"]) {
    const { page, plan, context } = await start({
      colorScheme,
      viewport: { width: 1280, height: 1400 },
    });
    const look = async (what) => {
      const found = await faint(page);
      assert.ok(found.length > 20);
      for (const [text, ink, paper] of found)
        assert.ok(
          contrast(ink.map(Number).slice(0, 3), paper) >=
            (text === "focus" || text.startsWith("edge") ? 3 : 4.5),
          `${colorScheme}, ${what}: "${text}" ${ink.map(Math.round)} on ${paper.map(Math.round)}`,
        );
    };
    await page.locator(".ochre-class").first().click();
    await page.mouse.move(5, 5);
    await look("a class off");
    await page.getByRole("combobox").fill("o");
    await look("suggestions");
    await page.getByRole("combobox").press("Escape");
    await page.mouse.click(...(await onPage(page, plan, insideOf(plan, plan.layers[0], 3))));
    await page.locator(".ochre-popup").waitFor();
    await look("popup");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Measure" }).click();
    await look("note");
    await page.getByRole("button", { name: "Table" }).click();
    await look("table");
    await context.close();
  }
});

test(
  "no control is off-screen, from the smallest phone to a wall",
  { skip: isFirefox },
  async () => {
    const pages = ["map", "months", "places"].map((name) => join(maps, `${name}.html`));
    const sizes = [
      [320, 568],
      [568, 320],
      [390, 844],
      [768, 1024],
      [1280, 800],
      [3840, 2160],
    ];
    for (const [k, path] of [file, ...pages].entries()) {
      for (const [width, height] of sizes) {
        const { page, context } = await open(path, { viewport: { width, height } }, async (p) =>
          p.route("https://example.org/**", (r) => r.abort()),
        );
        await page
          .locator(".ochre-layers summary")
          .evaluateAll((all) => all.forEach((s) => (s.parentElement.open = true)));
        const wrong = await page.evaluate(() => {
          const shown = [
            ...document.querySelectorAll(".ochre-map :is(button, input, a, summary)"),
          ].filter((n) => n.checkVisibility() && n.getBoundingClientRect().width > 0);
          const out = [];
          const boxes = shown.map((n) => {
            const b = n.getBoundingClientRect();
            let around = n.parentElement;
            while (around && !/auto|scroll/.test(getComputedStyle(around).overflowY))
              around = around.parentElement;
            const frame = around
              ? around.getBoundingClientRect()
              : { left: 0, top: 0, right: innerWidth, bottom: innerHeight };
            // A narrow page scrolls as a whole.
            const inside =
              b.left >= frame.left - 1 &&
              b.right <= frame.right + 1 &&
              frame.left >= -1 &&
              frame.right <= innerWidth + 1 &&
              frame.bottom <= document.documentElement.scrollHeight + 1;
            // What is scrolled out of view can be scrolled to; its box must have room to be seen at
            // all. WCAG 2.2, 2.5.8: 24 pixels; a box within a label has the label's room, links
            // within words are excepted.
            if (!n.matches("a, label input") && Math.min(b.width, b.height) < 23.5)
              out.push(`${n.className} has ${b.width}x${b.height}`);
            if (!inside || (!around && b.top < -1) || (around && around.clientHeight < 30))
              out.push(n.outerHTML.slice(0, 90));
            return { n, b, around };
          });
          for (const p of boxes)
            for (const q of boxes) {
              if (p.n === q.n || p.around !== q.around || p.n.contains(q.n) || q.n.contains(p.n))
                continue;
              if (
                Math.min(p.b.right, q.b.right) - Math.max(p.b.left, q.b.left) > 2 &&
                Math.min(p.b.bottom, q.b.bottom) - Math.max(p.b.top, q.b.top) > 2
              )
                out.push(`${p.n.className} on ${q.n.className}`);
            }
          return out;
        });
        assert.deepEqual(wrong, [], `${k} at ${width}x${height}`);
        const stage = await page.locator(".ochre-stage").boundingBox();
        assert.ok(
          stage.width >= 200 && stage.height >= 120,
          `${k} at ${width}x${height}: the map has ${stage.width}x${stage.height}`,
        );
        await context.close();
      }
    }
  },
);
