# Files as other programs write them, byte by byte, and odd ones. None of this calls Ochre.

be <- function(x) writeBin(as.integer(x), raw(), 4, endian = "big")
le <- function(x) writeBin(as.integer(x), raw(), 4, endian = "little")
real <- function(x) writeBin(as.numeric(x), raw(), 8, endian = "little")

# Rings as matrices of x, y; NULL is a shape without geometry.
polygon_record <- function(rings) {
  if (is.null(rings)) return(le(0))
  points <- do.call(rbind, rings)
  starts <- cumsum(c(0, vapply(rings, nrow, 0L)))[seq_along(rings)]
  c(
    le(5),
    real(c(min(points[, 1]), min(points[, 2]), max(points[, 1]), max(points[, 2]))),
    le(length(rings)),
    le(nrow(points)),
    le(starts),
    real(t(points))
  )
}
shp_bytes <- function(records, type = 5) {
  body <- unlist(Map(function(r, i) c(be(i), be(length(r) / 2), r), records, seq_along(records)))
  c(
    be(9994),
    be(rep(0, 5)),
    be((100 + length(body)) / 2),
    le(1000),
    le(type),
    real(rep(0, 8)),
    body
  )
}
box_ring <- function(x0, y0, x1, y1, clockwise = TRUE) {
  ring <- cbind(c(x0, x0, x1, x1, x0), c(y0, y1, y1, y0, y0))
  if (clockwise) ring else ring[5:1, ]
}

# Fields: a list of list(name, type, width, values as text of raw bytes).
dbf_bytes <- function(fields, n, language = 0) {
  pad <- function(x, width, left = FALSE) {
    bytes <- if (is.raw(x)) x else charToRaw(x)
    blank <- rep(as.raw(0x20), max(0, width - length(bytes)))
    utils::head(if (left) c(blank, bytes) else c(bytes, blank), width)
  }
  heads <- unlist(lapply(fields, function(f) {
    c(
      utils::head(c(charToRaw(f$name), raw(11)), 11),
      charToRaw(f$type),
      raw(4),
      as.raw(f$width),
      as.raw(f$digits %||% 0),
      raw(14)
    )
  }))
  width <- 1 + sum(vapply(fields, function(f) f$width, 0))
  u16 <- function(x) writeBin(as.integer(x), raw(), 2, endian = "little")
  rows <- unlist(lapply(seq_len(n), function(i) {
    c(
      as.raw(0x20),
      unlist(lapply(fields, function(f) pad(f$values[[i]], f$width, f$type %in% c("N", "F"))))
    )
  }))
  c(
    as.raw(c(3, 131, 5, 1)),
    le(n),
    u16(33 + length(heads)),
    u16(width),
    raw(17),
    as.raw(language),
    raw(2),
    heads,
    as.raw(0x0d),
    rows,
    as.raw(0x1a)
  )
}

# A shapefile of a square with a hole that another square fills, and a row without shape.
write_shapefile <- function(stem, prj = NULL, cpg = NULL, language = 0, name = "Kör", unit = 1) {
  dir.create(dirname(stem), showWarnings = FALSE, recursive = TRUE)
  box <- function(...) unit * box_ring(...)
  records <- lapply(
    list(
      list(box(0, 0, 4, 4), box(1, 1, 2, 2, FALSE), box(6, 0, 7, 1)),
      list(box(1, 1, 2, 2)),
      NULL
    ),
    polygon_record
  )
  writeBin(shp_bytes(records), paste0(stem, ".shp"))
  fields <- list(
    list(name = "CODE", type = "C", width = 6, values = list("01", "02", "03")),
    list(name = "NAME", type = "C", width = 10, values = list(name, "B", "")),
    list(name = "N", type = "N", width = 9, values = list("12", "****", "-3")),
    list(name = "SHARE", type = "F", width = 12, digits = 3, values = list("0.125", "", "1e3")),
    list(name = "SINCE", type = "D", width = 8, values = list("20310501", "00000000", "        ")),
    list(name = "COAST", type = "L", width = 1, values = list("T", "?", "n"))
  )
  writeBin(dbf_bytes(fields, 3, language), paste0(stem, ".dbf"))
  if (!is.null(prj)) writeLines(prj, paste0(stem, ".prj"))
  if (!is.null(cpg)) writeLines(cpg, paste0(stem, ".cpg"))
  stem
}

zip_files <- function(file, files, folder) {
  old <- setwd(folder)
  on.exit(setwd(old))
  utils::zip(file, files, flags = "-q")
  file
}

wkt_of <- function(x) as.character(wk::as_wkt(x$geometry))

# Rings start where they like and run as they like; areas are the same all the same.
same_areas <- function(a, b, tolerance = 1e-9) {
  expect_identical(nrow(a), nrow(b))
  expect_equal(areas_km2(a), areas_km2(b), tolerance = tolerance)
  corners <- function(x) {
    lapply(unclass(x$geometry), function(g) {
      if (is.null(g)) {
        NULL
      } else {
        p <- positions_core(list(g))
        unique(round(p[order(p[, 1], p[, 2]), , drop = FALSE], 7))
      }
    })
  }
  expect_equal(corners(a), corners(b), tolerance = tolerance)
}

# A workbook from matrices of cells (numbers where they look like numbers), one a sheet, with merged
# ranges: .xlsx as ECMA-376 has it, or .ods as OASIS OpenDocument 1.2 has it.
cell_name <- function(row, column) paste0(LETTERS[column], row)
escape_xml <- function(x) gsub("<", "&lt;", gsub("&", "&amp;", x, fixed = TRUE), fixed = TRUE)
is_plain_number <- function(x) grepl("^-?[0-9]+([.][0-9]+)?$", x)

write_xlsx <- function(sheets, merged = character()) {
  page <- function(cells) {
    one <- function(i, j) {
      x <- cells[i, j]
      if (is.na(x)) {
        ""
      } else if (is_plain_number(x)) {
        sprintf("<c r=\"%s\"><v>%s</v></c>", cell_name(i, j), x)
      } else {
        sprintf(
          "<c r=\"%s\" t=\"inlineStr\"><is><t>%s</t></is></c>",
          cell_name(i, j),
          escape_xml(x)
        )
      }
    }
    rows <- vapply(
      seq_len(nrow(cells)),
      function(i) {
        sprintf(
          "<row r=\"%d\">%s</row>",
          i,
          paste(vapply(seq_len(ncol(cells)), function(j) one(i, j), ""), collapse = "")
        )
      },
      ""
    )
    sprintf(
      paste0(
        "<worksheet xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\">",
        "<sheetData>%s</sheetData>%s</worksheet>"
      ),
      paste(rows, collapse = ""),
      if (length(merged)) {
        sprintf(
          "<mergeCells>%s</mergeCells>",
          paste(sprintf("<mergeCell ref=\"%s\"/>", merged), collapse = "")
        )
      } else {
        ""
      }
    )
  }
  n <- seq_along(sheets)
  parts <- c(
    "[Content_Types].xml" = sprintf(
      paste0(
        "<Types xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\">",
        "<Default Extension=\"rels\" ",
        "ContentType=\"application/vnd.openxmlformats-package.relationships+xml\"/><Default ",
        "Extension=\"xml\" ContentType=\"application/xml\"/><Override ",
        "PartName=\"/xl/workbook.xml\" ",
        "ContentType=\"application/vnd.openxmlformats-officedocument.",
        "spreadsheetml.sheet.main+xml\"/>",
        "%s</Types>"
      ),
      paste(
        sprintf(
          paste0(
            "<Override PartName=\"/xl/worksheets/sheet%d.xml\" ",
            "ContentType=\"application/vnd.openxmlformats-officedocument.",
            "spreadsheetml.worksheet+xml\"/>"
          ),
          n
        ),
        collapse = ""
      )
    ),
    "_rels/.rels" = paste0(
      "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\">",
      "<Relationship Id=\"rId1\" ",
      "Type=\"http://schemas.openxmlformats.org/officeDocument/2006/",
      "relationships/officeDocument\" ",
      "Target=\"xl/workbook.xml\"/></Relationships>"
    ),
    "xl/workbook.xml" = sprintf(
      paste0(
        "<workbook xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\" ",
        "xmlns:r=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships\">",
        "<sheets>%s</sheets></workbook>"
      ),
      paste(
        sprintf("<sheet name=\"%s\" sheetId=\"%d\" r:id=\"rId%d\"/>", names(sheets), n, n),
        collapse = ""
      )
    ),
    "xl/_rels/workbook.xml.rels" = sprintf(
      paste0(
        "<Relationships ",
        "xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\">",
        "%s</Relationships>"
      ),
      paste(
        sprintf(
          paste0(
            "<Relationship Id=\"rId%d\" ",
            "Type=\"http://schemas.openxmlformats.org/officeDocument/2006/",
            "relationships/worksheet\" ",
            "Target=\"worksheets/sheet%d.xml\"/>"
          ),
          n,
          n
        ),
        collapse = ""
      )
    ),
    stats::setNames(vapply(sheets, page, ""), sprintf("xl/worksheets/sheet%d.xml", n))
  )
  zip_parts(parts, ".xlsx")
}

write_ods <- function(sheets) {
  row <- function(cells) {
    sprintf(
      "<table:table-row>%s</table:table-row>",
      paste(
        ifelse(
          is.na(cells),
          "<table:table-cell/>",
          ifelse(
            is_plain_number(cells),
            sprintf(
              paste0(
                "<table:table-cell office:value-type=\"float\" office:value=\"%s\"><text:p>",
                "%s</text:p></table:table-cell>"
              ),
              cells,
              cells
            ),
            sprintf(
              paste0(
                "<table:table-cell office:value-type=\"string\"><text:p>%s</text:p>",
                "</table:table-cell>"
              ),
              escape_xml(cells)
            )
          )
        ),
        collapse = ""
      )
    )
  }
  tables <- vapply(
    names(sheets),
    function(name) {
      sprintf(
        "<table:table table:name=\"%s\">%s</table:table>",
        name,
        paste(apply(sheets[[name]], 1, row), collapse = "")
      )
    },
    ""
  )
  content <- sprintf(
    paste0(
      "<office:document-content ",
      "xmlns:office=\"urn:oasis:names:tc:opendocument:xmlns:office:1.0\" ",
      "xmlns:table=\"urn:oasis:names:tc:opendocument:xmlns:table:1.0\" ",
      "xmlns:text=\"urn:oasis:names:tc:opendocument:xmlns:text:1.0\" office:version=\"1.2\">",
      "<office:body><office:spreadsheet>%s</office:spreadsheet></office:body>",
      "</office:document-content>"
    ),
    paste(tables, collapse = "")
  )
  zip_parts(
    c(
      mimetype = "application/vnd.oasis.opendocument.spreadsheet",
      "content.xml" = content,
      "META-INF/manifest.xml" = paste0(
        "<manifest:manifest ",
        "xmlns:manifest=\"urn:oasis:names:tc:opendocument:xmlns:manifest:1.0\">",
        "<manifest:file-entry manifest:full-path=\"/\" ",
        "manifest:media-type=\"application/vnd.oasis.opendocument.spreadsheet\"/>",
        "<manifest:file-entry manifest:full-path=\"content.xml\" ",
        "manifest:media-type=\"text/xml\"/></manifest:manifest>"
      )
    ),
    ".ods"
  )
}

zip_parts <- function(parts, ext) {
  folder <- tempfile("ochre-parts-")
  dir.create(folder)
  on.exit(unlink(folder, recursive = TRUE))
  for (name in names(parts)) {
    dir.create(file.path(folder, dirname(name)), recursive = TRUE, showWarnings = FALSE)
    writeBin(
      charToRaw(enc2utf8(paste0(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>"[name != "mimetype"],
        parts[[name]]
      ))),
      file.path(folder, name)
    )
  }
  zip_files(temporary(ext), names(parts), folder)
}
