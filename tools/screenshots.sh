#!/usr/bin/env bash
# Makes docs/screenshots/ anew from the demo: `make screenshots`. Needs what the tests need, and for
# the terminal view Xvfb, xterm and scrot.
set -euo pipefail
cd "$(dirname "$0")/.."
out=$PWD/docs/screenshots
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
mkdir -p "$out"
export PATH="$PWD/inst/bin:$PATH"
inst/bin/ochre demo "$work/maps" 2>/dev/null >/dev/null
(cd "$work/maps" && Rscript -e 'library(ochre); options(ochre.quiet = c("unmatched", "missing", "reading", "off_map"))' \
  -e 'publish(read_sheet("map.ochre.yml"), "figure.png", width = 12.8, dpi = 100)')
cp "$work/maps/figure.png" "$out/figure.png"
cp "$work/maps/months.png" "$out/figure-months.png"
(cd "$work/maps" && Rscript -e 'library(ochre); options(ochre.quiet = c("unmatched", "missing", "reading", "off_map"))' \
  -e 'x <- suppressMessages(read_sheet("map.ochre.yml"))$layers[[1]]$data' \
  -e 'ragg::agg_png("compare.png", 12.8, 8, units = "in", res = 100); print(as_figure(compare_steps(x, visits_per_1000)))')
cp "$work/maps/compare.png" "$out/compare.png"
(cd "$work/maps" && Rscript -e 'library(ochre); options(ochre.quiet = c("unmatched", "missing", "reading", "off_map")); set.seed(3)' \
  -e 'areas <- read_boundaries("districts.geojson"); at <- label_points(areas); k <- sample(nrow(areas), 6000, TRUE, prob = areas$population)' \
  -e 'calls <- data.frame(longitude = wk::wk_coords(at$geometry)$x[k] + rnorm(6000, 0, 0.07), latitude = wk::wk_coords(at$geometry)$y[k] + rnorm(6000, 0, 0.045))' \
  -e 'map_sheet("Where calls to the pollen line come from", "6,000 calls, March to August 2031", source = "Orvane Health Office, provisional figures") |> lay_picture("chart.png", attribution = "Chart of 1871, Orvane Archive", name = "Chart of 1871") |> lay_plain() |> draw_lines(outline(areas), width = by_zoom(c(1, 8), c(0.6, 2)), legend = "Coast") |> shade_heat(calls, ramp = "orchil", legend = "Calls") |> publish("heat.html")')
(cd "$work/maps" && Rscript -e 'library(ochre); options(ochre.quiet = c("unmatched", "missing", "reading"))' \
  -e 'areas <- read_boundaries("districts.geojson"); for (age in c("0_14", "65_plus")) areas <- rate_per(areas, !!paste0("population_", age), population, 100, name = paste0("share_", age))' \
  -e 'one <- function(title, value, ramp) map_sheet(title, "Percent of residents", source = "Orvane Health Office") |> shade_areas(areas, !!value, ramp = ramp, legend = "Percent", hover = paste0("{name}: {", value, "} %"))' \
  -e 'link_maps(one("Under 15", "share_0_14", "madder"), one("Over 64", "share_65_plus", "verdigris"), title = "The young live in the west, the old at the edges") |> publish("linked.html")')
inst/bin/ochre demo "$work/jobs" --examples > /dev/null
for f in wells tides; do
  (cd "$work/jobs/examples" && ochre build $f.ochre.yml) > /dev/null 2>&1
done
cp "$work/jobs/examples/tides.png" "$out/figure-atlas.png"
cp "$work/jobs/examples/wells.html" "$work/maps/counties.html"
# The tiles come from the stand-in server, at the address that the demo's sheet names.
inst/bin/ochre serve-demo > /dev/null & servers=$!
trap 'kill $servers 2>/dev/null; rm -rf "$work"' EXIT
(cd "$work/maps" && ochre build map.ochre.yml && ochre report map.ochre.yml --to report.html) > /dev/null 2>&1
# A preview of a sheet that was right and has a fault now, and an app.
cp -r "$work/maps" "$work/preview"
(cd "$work/preview" && exec ochre preview map.ochre.yml --port 8792) > /dev/null 2>&1 & servers="$servers $!"
Rscript -e 'shiny::runApp(system.file("examples", "shiny-dashboard", package = "ochre"), port = 8793, host = "127.0.0.1", launch.browser = FALSE)' > /dev/null 2>&1 & servers="$servers $!"
(cd "$work/maps" && exec ochre serve map.ochre.yml months.ochre.yml --port 8794) > /dev/null 2>&1 & servers="$servers $!"
sleep 10
sed -i 's/value: visits_per_1000/value: visits_per_100/' "$work/preview/map.ochre.yml"
node tools/screenshots.mjs "$work/maps/map.html" "$out" http://127.0.0.1:8792/ http://127.0.0.1:8793/ http://127.0.0.1:8794/

cat > "$work/show.sh" <<'END'
cd maps
clear
show() { printf '\n$ %s\n' "$*"; "$@" 2>/dev/null; }
show ochre inspect residents.csv
show ochre audit ages.ochre.yml
printf '\n> fit_steps(rates$visits_per_1000, steps_natural(5, digits = 0))\n'
Rscript -e 'library(ochre); options(ochre.quiet = c("unmatched", "missing", "reading", "off_map")); x <- suppressMessages(read_sheet("map.ochre.yml"))$layers[[1]]$data' -e 'fit_steps(x$visits_per_1000, steps_natural(5, digits = 0))'
touch ../ready
sleep 20
END
(cd "$work" && LC_ALL=C.UTF-8 xvfb-run -a -s "-screen 0 1280x800x24" bash -c \
  'xterm -geometry 158x47+0+0 -fa "DejaVu Sans Mono" -fs 10 -bg "#fbf9f5" -fg "#33302c" -e bash show.sh &
   for i in $(seq 60); do [ -e ready ] && break; sleep 0.5; done; sleep 1; scrot -o terminal.png; kill %1')
cp "$work/terminal.png" "$out/terminal.png"
