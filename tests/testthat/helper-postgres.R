# A real PostgreSQL 15 with PostGIS in a temporary folder, on a free port, stopped at the end.
start_postgres <- function(env = parent.frame()) {
  bin <- postgres_programs()
  skip_if(is.null(bin), "PostgreSQL is not installed")
  folder <- tempfile("ochre-pg-", tmpdir = "/tmp")
  dir.create(folder)
  root <- identical(unname(Sys.info()[["effective_user"]]), "root")
  if (root) system2("chown", c("postgres", folder))
  as_user <- function(command, ...) {
    args <- c(file.path(bin, command), ...)
    processx::run(
      if (root) "runuser" else args[1],
      if (root) c("-u", "postgres", "--", args) else args[-1],
      wd = folder,
      error_on_status = TRUE
    )
  }
  port <- free_ports(1)
  as_user("initdb", "-D", file.path(folder, "data"), "-A", "trust", "-U", "postgres", "--no-sync")
  as_user(
    "pg_ctl",
    "-D",
    file.path(folder, "data"),
    "-w",
    "-l",
    file.path(folder, "log"),
    "-o",
    sprintf("-p %d -c listen_addresses=127.0.0.1 -k %s -c fsync=off", port, folder),
    "start"
  )
  do.call(
    on.exit,
    list(
      substitute(
        {
          try(stop_it("pg_ctl", "-D", data, "-m", "immediate", "stop"), silent = TRUE)
          unlink(folder, recursive = TRUE)
        },
        list(stop_it = as_user, data = file.path(folder, "data"), folder = folder)
      ),
      add = TRUE
    ),
    envir = env
  )
  port
}

postgres_programs <- function() {
  bin <- Sys.glob("/usr/lib/postgresql/*/bin")
  if (length(bin)) bin[length(bin)]
}
