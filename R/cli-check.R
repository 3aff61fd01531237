# `ochre check` and `ochre doctor`: what is wrong with a sheet, and with this machine.

command_check <- function(args) {
  given <- parse_command(
    "check",
    join_repeated(args, "--set"),
    "SHEET [--set NAME=VALUE]\u2026 [--strict]",
    paste(
      "Says all that is wrong with a sheet and its data, with lines, and what would mislead",
      "a\nreader. Nothing is written. Fails when there is an error, with --strict also when there",
      "is a\nwarning."
    ),
    list(
      optparse::make_option("--set", type = "character", metavar = "NAME=VALUE",
                            help = "a named value of the sheet; may be given several times"),
      optparse::make_option("--strict", action = "store_true", default = FALSE,
                            help = "fail when there is a warning"),
      optparse::make_option("--json", action = "store_true", default = FALSE,
                            help = "the findings as JSON")
    ),
    c(1, 1)
  )
  if (is.null(given)) return(0L)
  file <- given$args
  values <- split_values(given$options$set, "check")
  found <- findings_of_all(file, values)
  errors <- sum(found$severity == "error")
  if (given$options$json) {
    cat_json(list(sheet = file, findings = found))
  } else {
    cat(finding_lines(found), sep = "\n")
    cat(sprintf("%s: %s, %s.\n", file, count_words(errors, "error"),
                count_words(nrow(found) - errors, "warning")))
  }
  if (errors || (given$options$strict && nrow(found))) 1L else 0L
}

# Of all maps of a sheet. What only some of them have names those.
findings_of_all <- function(file, values) {
  # What is wrong with the sheet itself is found with any value.
  each <- tryCatch(sheet_each(file), ochre_error_sheet = function(e) NULL)
  if (is.null(each$each) || names(each$each) %in% names(values)) {
    return(sheet_findings(file, values))
  }
  maps <- split_each(each_values(each))
  found <- lapply(maps, function(one) sheet_findings(file, c(values, one)))
  all <- do.call(rbind, found)
  of <- rep(names(maps), vapply(found, nrow, 0L))
  key <- paste(all$severity, all$what)
  named <- vapply(split(of, factor(key, unique(key))), function(who) {
    who <- unique(who)
    if (length(who) == length(maps)) "" else paste0(paste(who, collapse = ", "), ": ")
  }, "")
  all <- all[!duplicated(key), ]
  all$what <- paste0(named, all$what)
  all
}

finding_lines <- function(found) {
  paint <- ifelse(found$severity == "error", cli::col_red("error: "), cli::col_yellow("warning: "))
  unlist(lapply(seq_len(nrow(found)), function(i) {
    c(
      paste0(paint[i], strip_period(found$what[i]), "."),
      if (!is.na(found$mend[i])) paste0("  ", found$mend[i])
    )
  }))
}

command_doctor <- function(args) {
  given <- parse_command(
    "doctor", args, "", "Says what is installed, what is missing, and how to get it.", list(),
    c(0, 0)
  )
  if (is.null(given)) return(0L)
  wanted <- doctor_packages
  there <- vapply(names(wanted), requireNamespace, NA, quietly = TRUE)
  version <- vapply(names(wanted), function(p) {
    if (there[[p]]) as.character(utils::packageVersion(p)) else "missing"
  }, "")
  cat(sprintf("Ochre %s, R %s, %s", utils::packageVersion("ochre"), getRversion(),
              R.version$platform), "", sep = "\n")
  cat(sprintf("  %s  %s  %s", format(names(wanted)), format(version), wanted), sep = "\n")
  fonts <- open_families[open_families %in% systemfonts::system_fonts()$family]
  cat(sprintf("\n  Font of figures: %s", c(fonts, "none of the open ones; the system's own")[1]),
      sep = "\n")
  if (all(there)) {
    cat("\nNothing is missing.\n")
  } else {
    lost <- paste0("\"", names(wanted)[!there], "\"", collapse = ", ")
    cat(sprintf("\nTo get what is missing, in R: install.packages(c(%s))\n", lost))
  }
  0L
}

# What each optional package is for.
doctor_packages <- c(
  optparse = "the command", svglite = "SVG", xml2 = "KML, GPX, SVG",
  readxl = "Excel", readODS = "OpenDocument", nanoparquet = "GeoParquet and Parquet",
  RSQLite = "GeoPackage", DBI = "databases", dplyr = "lazy tables", dbplyr = "lazy tables",
  httr2 = "web services", httpuv = "`ochre preview`, `serve`", lpSolve = "hiding small counts",
  png = "placed pictures in figures", jpeg = "placed pictures in figures",
  PROJ = "coordinates in other systems", mirai = "several maps at once",
  logger = "`ochre build --log`",
  zip = "a folder as one file", knitr = "maps in documents", rmarkdown = "`ochre report`",
  shiny = "maps in apps", bslib = "two of the apps that ship"
)
