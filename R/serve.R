# A server on this machine only, until it is interrupted (package httpuv).

# `app` answers; `ready` is called with the address once it listens, `round` again and again.
serve_here <- function(app, port, what, ready = function(address) NULL, round = NULL,
                       call = rlang::caller_env()) {
  check_number(port, "port", min = 0, max = 65535, whole = TRUE, call = call)
  need_package("httpuv", what, call)
  if (port == 0) port <- free_port()
  server <- tryCatch(
    httpuv::startServer("127.0.0.1", as.integer(port), app, quiet = TRUE),
    error = function(e) {
      ochre_abort("port", "Port {as.integer(port)} is taken.",
                  "Is the server running already? Name another port, or 0 for a free one.",
                  port = port)
    }
  )
  on.exit(httpuv::stopServer(server))
  address <- sprintf("http://127.0.0.1:%d/", as.integer(port))
  # In one piece: who waits for it reads a whole line.
  cat(paste0(address, "\n"))
  flush(stdout())
  ready(address)
  repeat {
    httpuv::service(if (is.null(round)) 1000 else round_ms)
    if (!is.null(round)) round()
  }
}
round_ms <- 40

port_is_free <- function(port) {
  tryCatch(
    {
      close(serverSocket(as.integer(port)))
      TRUE
    },
    error = function(e) FALSE
  )
}

free_port <- function() {
  # Not drawn by R's generator, whose seed is the user's.
  start <- Sys.getpid() %% 20000
  for (i in 0:200) {
    if (port_is_free(port <- 20000 + (start + 37 * i) %% 20000)) return(port)
  }
  ochre_abort("port", "No free port was found.", "Name one with `port`.")
}

answer <- function(body, type = "text/plain; charset=utf-8", status = 200L, ...) {
  list(
    status = status,
    headers = list(`Content-Type` = type, `X-Content-Type-Options` = "nosniff", ...),
    body = body
  )
}
