# Addresses that a page may fetch from, checked when they are given.

# The address put together anew; the host is written out, so that the page's policy can name it.
check_tile_address <- function(url, arg, fields = c("{z}", "{x}", "{y}"),
                               call = rlang::caller_env()) {
  check_text(url, arg, call = call)
  clean <- clean_template(url, fields)
  if (is.na(clean)) {
    ochre_abort(
      "argument",
      paste0("`{arg}` must be an address that begins with http or https and a host, not ",
             "\"{substr(url, 1, 60)}\"."),
      if (length(fields)) {
        "As in \"https://tiles.example/{{z}}/{{x}}/{{y}}.png\"; the host holds no braces."
      } else {
        "As in \"https://office.example/about\"."
      }
    )
  }
  clean
}
