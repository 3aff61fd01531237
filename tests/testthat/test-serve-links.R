# The service read by programs that know nothing of Ochre: curl and jq, which follow links by their
# relations from the first page on.

script <- c(
  "set -euo pipefail",
  "get() { curl --silent --show-error --fail --header 'Accept: application/json' \"$1\"; }",
  "link() { jq -r --arg rel \"$1\" 'first(.links[] | select(.rel == $rel) | .href) // empty'; }",
  "collections=$(get \"$1\" | link data)",
  "get \"$collections\" | jq -r '.collections[].id' | while read -r id; do",
  "  one=$(get \"$collections\" | jq -c --arg id \"$id\" '.collections[] | select(.id == $id)')",
  "  next=$(jq -r 'first(.links[] | select(.rel == \"items\" and .type ==",
  "    \"application/geo+json\") | .href)' <<< \"$one\")",
  "  next=\"$next$(grep -q '?' <<< \"$next\" && echo '&' || echo '?')limit=9\"",
  "  while [ -n \"$next\" ]; do",
  "    page=$(curl --silent --fail --header 'Accept: application/geo+json' \"$next\")",
  "    jq -r --arg id \"$id\" '.features[] | [$id, .id, (.geometry.type // \"none\"),",
  "      (.properties | length)] | @tsv' <<< \"$page\"",
  "    next=$(link next <<< \"$page\")",
  "  done",
  "done"
)

test_that("curl and jq follow the links to every feature of every collection, once", {
  skip_if(!nzchar(Sys.which("jq")) || !nzchar(Sys.which("curl")) || !nzchar(Sys.which("bash")))
  s <- service_of(ochre_demo("map.ochre.yml"))
  on.exit(s$server$kill())
  file <- temporary(".sh")
  writeLines(script, file)
  run <- processx::run("bash", c(file, paste0(s$address, "/")), error_on_status = FALSE)
  expect_identical(run$status, 0L, info = run$stderr)
  lines <- strsplit(strsplit(run$stdout, "\n")[[1]], "\t")
  got <- as.data.frame(do.call(rbind, lines))
  names(got) <- c("collection", "id", "shape", "fields")
  expect_false(anyDuplicated(got[c("collection", "id")]) > 0)
  sheet <- quietly(read_sheet(ochre_demo("map.ochre.yml")))
  rows <- vapply(sheet$layers, function(l) nrow(l$data), 0L)
  counts <- table(factor(got$collection, unique(got$collection)))
  expect_identical(as.vector(counts), rows)
  shapes <- lapply(sheet$layers, function(l) {
    if (is.null(l$data$geometry)) return(NULL)
    c("Point", "LineString", "Polygon", "MultiPoint", "MultiLineString", "MultiPolygon")[
      wk::wk_meta(l$data$geometry)$geometry_type
    ]
  })
  for (k in which(lengths(shapes) > 0)) {
    of <- got$shape[got$collection == unique(got$collection)[k]]
    expect_setequal(of, ifelse(is.na(shapes[[k]]), "none", shapes[[k]]))
  }
})
