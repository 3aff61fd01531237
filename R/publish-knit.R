# A sheet that is printed is its map: in a chunk of R Markdown or Quarto, and in the viewer of an
# editor.

#' Maps in R Markdown and Quarto
#'
#' A sheet, a plan or linked maps that stand in a chunk are printed as the map: in HTML as the page
#' of [as_page()], elsewhere (PDF, Word, Markdown) as the figure, as wide as the chunk's `fig.width`
#' and as high as the map's shape asks for, or as `fig.height` says where the chunk sets it.
#' Caption, reference and text alternative are the chunk's `fig.cap`, label and `fig.alt`; without
#' `fig.alt` the text alternative of a page is the map's own. Linked maps are a page only.
#'
#' @param x A sheet from [map_sheet()], a plan from [resolve_sheet()], or linked maps from
#'   [link_maps()].
#' @param options The chunk's options, from knitr.
#' @param ... Not used.
#' @return What knitr puts into the document.
#' @section Errors: Those of [resolve_sheet()]; `ochre_error_argument` for linked maps in a document
#'   that is not HTML.
#' @exportS3Method knitr::knit_print ochre_sheet
#' @name knit_print.ochre_sheet
knit_print.ochre_sheet <- function(x, options = list(), ...) {  # nolint: object_name_linter.
  if (knitr::is_html_output(excludes = c("markdown", "epub", "epub3"))) {
    return(knitr::knit_print(as_page(with_own_alt(x, options)), options = options, ...))
  }
  if (inherits(x, "ochre_linked")) {
    ochre_abort("argument", "Linked maps are a page, and the document is not HTML.",
                "Print each of the two maps.", arg = "x")
  }
  knit_figure(with_own_alt(x, options), options)
}

# The plan with the words of the chunk option `fig.alt` in place of its own.
with_own_alt <- function(x, options) {
  if (inherits(x, "ochre_linked")) return(x)
  plan <- resolve_sheet(x)
  if (!is.null(options$fig.alt)) plan$alt <- options$fig.alt[[1]]
  plan
}

#' @rdname knit_print.ochre_sheet
#' @exportS3Method knitr::knit_print ochre_plan
knit_print.ochre_plan <- knit_print.ochre_sheet  # nolint: object_name_linter.

#' @rdname knit_print.ochre_sheet
#' @exportS3Method knitr::knit_print ochre_linked
knit_print.ochre_linked <- knit_print.ochre_sheet  # nolint: object_name_linter.

# The figure as a file beside the others of the document.
knit_figure <- function(plan, options) {
  kind <- if (knitr::is_latex_output()) "pdf" else "png"
  path <- knitr::fig_path(paste0(".", kind), options)
  dir.create(dirname(path), recursive = TRUE, showWarnings = FALSE)
  width <- options$fig.width %||% 7
  chosen <- !identical(options$fig.height, knitr::opts_chunk$get("fig.height"))
  publish(
    plan, path,
    width = width,
    height = if (chosen) options$fig.height,
    dpi = if (kind == "png") 2 * (options$dpi %||% 96) else 200
  )
  # Word takes what stands in place of a picture from the text of Markdown, and the name of the file
  # where there is none.
  if (knitr::pandoc_to("docx") && is.null(options$fig.cap)) {
    picture <- sprintf("![%s](%s){width=%gin}\\\n\n", one_line(plan$alt), path, width)
    return(knitr::asis_output(picture))
  }
  options$fig.alt <- plan$alt
  knitr::knit_print(knitr::include_graphics(path), options = options)
}

# At the console a sheet is said in words, and its map is shown in interactive sessions.
#' @export
print.ochre_sheet <- function(x, ..., view = interactive()) {
  cat(format(x), sep = "\n")
  if (view && length(x$layers)) print(as_page(x))
  invisible(x)
}
