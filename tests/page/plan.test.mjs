// The contract of a plan, judged by a validator that is not ours; and what a page says of a plan
// that lacks a field.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { test } from "node:test";
import { pathToFileURL } from "node:url";
import { browser, maps, open, variant } from "./reader.mjs";
import { unpack } from "./unpack.mjs";

const Ajv = createRequire(new URL("../../viewer/", import.meta.url))("ajv/dist/2020").default;
const schema = JSON.parse(
  readFileSync(new URL("../../inst/schema/plan.schema.json", import.meta.url), "utf8"),
);

// Plans of the demo's sheets and of random ones, each as it is and as a page has it.
function writePlans() {
  const folder = mkdtempSync(join(tmpdir(), "ochre-plans-"));
  const helpers = new URL("../testthat/", import.meta.url).pathname;
  const code = `
    suppressMessages(library(ochre))
    ns <- new.env(parent = asNamespace("ochre"))
    for (f in c("helper.R", "helper-files.R", "helper-plans.R")) {
      sys.source(file.path("${helpers}", f), ns)
    }
    write <- function(plan, name) for (whole in c(TRUE, FALSE)) {
      text <- ochre:::plan_json(plan, whole)
      writeLines(text, paste0(name, if (whole) "-whole", ".json"), useBytes = TRUE)
      if (!whole) writeLines(ochre:::page_json(plan), paste0(name, "-page.json"), useBytes = TRUE)
    }
    quietly <- function(code) suppressMessages(suppressWarnings(code))
    for (f in list.files(dirname(ochre_demo("map.ochre.yml")), "ochre.yml", full.names = TRUE)) {
      if (grepl("tiles", f)) next
      write(quietly(resolve_sheet(read_sheet(f))), paste0("demo-", basename(f)))
    }
    set.seed(5)
    world <- ns$plan_world()
    for (i in 1:60) {
      plan <- tryCatch(quietly(resolve_sheet(ns$any_sheet(world))), ochre_error = function(e) NULL)
      if (!is.null(plan)) write(plan, i)
    }`;
  execFileSync("Rscript", ["-e", code], { cwd: folder, encoding: "utf8" });
  return readdirSync(folder).map((file) => [file, readFileSync(join(folder, file), "utf8")]);
}

// A page has the contract without what only a figure needs.
function withoutFigure(part) {
  if (Array.isArray(part)) return part.map(withoutFigure);
  if (part === null || typeof part !== "object") return part;
  const out = { ...part };
  if (part.properties) {
    const keep = Object.entries(part.properties).filter(([, v]) => v["x-page"] !== false);
    out.properties = Object.fromEntries(keep);
    out.required = part.required?.filter((key) => key in out.properties);
  }
  return Object.fromEntries(Object.entries(out).map(([k, v]) => [k, withoutFigure(v)]));
}

test("plans of the demo and of random sheets over every verb hold the contract", () => {
  const validators = {
    whole: new Ajv({ strict: false }).compile(schema),
    page: new Ajv({ strict: false }).compile(withoutFigure(schema)),
  };
  const plans = writePlans();
  assert.ok(plans.length > 80);
  const texts = new Map(plans);
  for (const [file, text] of plans) {
    if (file.endsWith("-page.json")) {
      // What a page carries is the very same plan.
      const plan = JSON.parse(texts.get(file.replace("-page", "")));
      assert.deepEqual(unpack(JSON.parse(text)), plan, file);
      continue;
    }
    const validate = validators[file.includes("-whole") ? "whole" : "page"];
    const faults = validate(JSON.parse(text)) ? [] : validate.errors.slice(0, 2);
    assert.deepEqual(faults, [], file);
  }
});

test("without any one of its fields a plan ends in words", async () => {
  const { page, plan, context } = await open(join(maps, "map.html"));
  const result = await page.evaluate((whole) => {
    const root = document.createElement("div");
    document.body.append(root);
    const said = [];
    let tried = 0;
    const check = (copy, name) => {
      tried++;
      root.replaceChildren();
      window.ochreMap.mount(root, copy);
      const text = root.querySelector(".ochre-failure")?.textContent ?? "";
      if (!text.includes(name) || root.querySelector("canvas")) said.push([name, text]);
    };
    const visit = (node, path) => {
      for (const key of Object.keys(node)) {
        const value = node[key];
        if (!Array.isArray(node)) {
          for (const rename of [false, true]) {
            const copy = structuredClone(whole);
            const holder = path.reduce((at, k) => at[k], copy);
            delete holder[key];
            if (rename) holder[`${key}x`] = value;
            check(copy, key);
          }
        }
        const inside = value !== null && typeof value === "object" && typeof value[0] !== "number";
        if (inside && !["words", "topology"].includes(key)) visit(value, [...path, key]);
      }
    };
    visit(whole, []);
    return { said, tried };
  }, plan);
  assert.deepEqual(result.said, []);
  assert.ok(result.tried > 200);
  await context.close();
});

test("borders that were cut short end in words, not in a map that never comes", async () => {
  const broken = variant(join(maps, "map.html"), (plan) => {
    plan.topology.arcs = plan.topology.arcs.slice(0, -3);
  });
  const page = await browser.newPage();
  await page.goto(pathToFileURL(broken).href);
  await page.locator(".ochre-failure").waitFor();
  assert.match(await page.locator(".ochre-failure").textContent(), /ends too early/);
  assert.equal(await page.locator("canvas").count(), 0);
  await page.close();
});
