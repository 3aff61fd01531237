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
import { columnsOf, unpack } from "./unpack.mjs";

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
      text <- ochre:::write_json(ochre:::plan_content(plan, whole))
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

// Ways to break a page's plan: for each the path of what is replaced and by what; undefined takes
// it away.
function* breaksOf(page, validate) {
  const get = columnsOf(page.columns, page.plan.marks);
  const otherType = (v) => (typeof v === "string" ? 7 : v === null ? { odd: 1 } : "odd");
  // Where null may stand it breaks nothing.
  const mayBeNull = (path) => {
    const plan = unpack(structuredClone(page));
    path.slice(0, -1).reduce((at, k) => at[k], plan)[path.at(-1)] = null;
    return validate(plan);
  };
  function* list(path, values) {
    const at = Math.floor(values.length / 2);
    yield [path, values.with(at, otherType(values[at]))];
    if (values.length > 11) yield [path, values.slice(0, -1)];
    if (/class|rank|share|panel$/.test(path.at(-1)) && typeof values[0] === "number")
      yield* [
        [path, values.with(at, 1e9)],
        [path, values.with(at, -2)],
      ];
  }
  function* visit(node, path) {
    for (const [key, value] of Object.entries(node)) {
      const here = [...path, key];
      if (!Array.isArray(node)) {
        yield [here, undefined];
        yield [[...path, `${key}x`], value];
        if (value !== null && !mayBeNull(here)) yield [here, null];
      }
      yield [here, otherType(value)];
      if (value === null || typeof value !== "object" || ["words", "topology"].includes(key))
        continue;
      if ("column" in value) yield* list(here, get(value.column));
      else if (Array.isArray(value) && value.length && typeof value[0] !== "object")
        yield* list(here, value);
      else yield* visit(value, here);
    }
  }
  for (const broken of visit(page.plan, [])) yield [["plan", ...broken[0]], broken[1]];
  for (const [k, column] of page.columns.entries()) {
    yield [["columns", k], null];
    for (const [key, value] of Array.isArray(column) ? [] : Object.entries(column)) {
      if (key !== "but") yield [["columns", k, key], undefined];
      if (key !== "missing") yield [["columns", k, key], null];
      yield [["columns", k, key], otherType(value)];
      if (key === "packed") yield [["columns", k, key], value.slice(0, -1)];
      if (key === "of") yield [["columns", k, key], value.map(() => k)];
      if (key === "but") yield [["columns", k, key, "rows"], value.rows.map(() => 1e6)];
    }
  }
}

test("a plan that is broken in any one place ends in words", async () => {
  const { page, context } = await open(join(maps, "map.html"));
  const validate = new Ajv({ strict: false }).compile(withoutFigure(schema));
  for (const name of ["map", "places", "months", "pairs", "ages"]) {
    const text = /id="ochre-plan">(.*?)<\/script>/s.exec(
      readFileSync(join(maps, `${name}.html`), "utf8"),
    )[1];
    const breaks = [...breaksOf(JSON.parse(text), validate)];
    assert.ok(breaks.length > 300, name);
    const said = await page.evaluate(
      ([text, breaks]) => {
        const root = document.createElement("div");
        document.body.append(root);
        return breaks.flatMap(([path, value]) => {
          const copy = JSON.parse(text);
          const holder = path.slice(0, -1).reduce((at, k) => at[k], copy);
          if (value === undefined) delete holder[path.at(-1)];
          else holder[path.at(-1)] = value;
          root.replaceChildren();
          const map = window.ochreMap.mount(root, copy);
          const failure = root.querySelector(".ochre-failure")?.textContent ?? "";
          const fine = failure.endsWith("again.") && !root.querySelector("canvas");
          map.dispose();
          return fine
            ? []
            : [[path.join("."), JSON.stringify(value ?? null).slice(0, 80), failure]];
        });
      },
      [text, breaks],
    );
    assert.deepEqual(said, [], name);
  }
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
