# A service in a process of its own, and a client that asks it.

# `program` and arguments of a process that says its address first.
service_process <- function(program, args) {
  skip_if_not_installed("httpuv")
  server <- processx::process$new(
    program, args, stdout = "|", stderr = (said <- temporary(".log")),
    env = c("current", R_LIBS = paste(.libPaths(), collapse = .Platform$path.sep))
  )
  for (i in 1:100) {
    server$poll_io(500)
    line <- server$read_output_lines()
    if (length(line)) return(list(server = server, address = sub("/$", "", line[1]), said = said))
    if (!server$is_alive()) stop(paste(readLines(said), collapse = "\n"))
  }
}

# `ochre serve` with these arguments.
service_of <- function(...) {
  service_process(
    file.path(R.home("bin"), "Rscript"),
    c(system.file("bin", "ochre", package = "ochre"), "serve", ..., "--port", "0")
  )
}

asked <- function(address, ..., method = "GET") {
  handle <- curl::new_handle(customrequest = method, nobody = method == "HEAD")
  if (...length()) curl::handle_setheaders(handle, ...)
  curl::handle_setopt(handle, accept_encoding = NULL)
  got <- curl::curl_fetch_memory(address, handle)
  headers <- curl::parse_headers_list(got$headers)
  list(
    status = got$status_code, type = headers[["content-type"]], headers = headers,
    body = got$content, text = if (!any(got$content == 0)) rawToChar(got$content)
  )
}
json_of <- function(got) jsonlite::fromJSON(got$text, simplifyVector = FALSE)
href <- function(facts, rel) {
  links <- Filter(function(l) l$rel == rel, facts$links)
  if (length(links)) links[[1]]$href
}
