// One page with everything that a publisher may ask for, for the tests of what a reader does.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { maps, open } from "./reader.mjs";

// One page with everything that a publisher may ask for, and values that try to break it.
export const folder = mkdtempSync(join(tmpdir(), "ochre-reading-"));
export const file = join(folder, "all.html");
writeFileSync(
  join(folder, "run.R"),
  `
  library(ochre)
  options(ochre.quiet = c(
    "unmatched", "missing", "reading", "off_map", "counts", "link", "rounding"
  ))
  maps <- commandArgs(TRUE)
  areas <- read_boundaries(file.path(maps, "districts.geojson"))
  areas <- rate_per(areas, population_65_plus, population, 100, name = "old")
  areas$old[5] <- NA
  areas$url <- paste0("https://example.org/", areas$code)
  areas$url[7] <- "javascript:window.broken=1"
  areas$name[8] <- "=cmd()|'<b>\\u202e"
  areas$name[9] <- "constructor"
  areas$name[10] <- strrep("long", 2500)
  page <- page_style(
    cards = c("mean", "highest"),
    bars = 5,
    tools = c("measure", "position", "share", "fullscreen", "print")
  )
  map_sheet("Everything", ground = "follow", page = page) |>
    shade_areas(
      areas,
      old,
      steps = steps_natural(5, digits = 1),
      legend = "Over 64, percent",
      hover = "{name}: {old|1}",
      popup = c(
        "District" = name,
        "Report" = popup_link("{url}", "On {name}"),
        "Found" = popup_link("https://example.org/q?x={name}"),
        "Photo" = popup_picture("{url}.png", "A photo"),
        "Share" = "{old|1}"
      )
    ) |>
    draw_lines(read_boundaries(file.path(maps, "ferries.geojson")), legend = "Ferry") |>
    publish("all.html")
  map_sheet("Zooms") |>
    shade_areas(areas, old) |>
    draw_lines(areas, colour = "red", legend = "Off") |>
    show_layer(off = TRUE) |>
    write_labels(areas[1, ], "{code}", colour = "blue") |>
    show_layer(zooms = c(2, 64)) |>
    publish("zooms.html")
  set.seed(3)
  crowd <- data.frame(
    longitude = -38.5 + rnorm(3000) / 3,
    latitude = 46.7 + rnorm(3000) / 6,
    n = 1,
    name = paste("Place", 1:3000)
  )
  map_sheet("Crowd") |>
    draw_lines(areas) |>
    place_symbols(crowd, n, hover = "{name}", group = TRUE) |>
    publish("crowd.html")
  map_sheet("Places", page = page_style(bars = 3, search = TRUE)) |>
    place_symbols(
      read_statistics(file.path(maps, "clinics.csv")),
      patients,
      popup = c("Kind" = kind)
    ) |>
    publish("places.html")
  map_sheet("Still", page = page_style(zooms = c(1, 1))) |>
    shade_areas(areas, old) |>
    publish("still.html")
  map_sheet("Near", page = page_style(view = areas$code[3], tools = "share")) |>
    shade_areas(areas, old) |>
    publish("near.html")
  map_sheet("ar", locale = map_locale("en", code = "ar")) |>
    shade_areas(areas, old) |>
    publish("rtl.html")
`,
);
execFileSync("Rscript", ["run.R", maps], { cwd: folder, stdio: "ignore" });
// Pictures are fetched from where the publisher said, and from nowhere else.
export const start = async (options, script = () => undefined) => {
  const out = await open(file, options, async (page) => {
    await page.route("https://example.org/**", (r) => r.abort());
    await page.addInitScript(script);
  });
  return {
    ...out,
    others: () => out.faults.filter((f) => !f.includes("example.org") && !f.includes("ERR_FAILED")),
  };
};
export const near = (a, b, slack) => assert.ok(Math.abs(a - b) <= slack, `${a} is not ${b}`);
