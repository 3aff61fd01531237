# Engines that hold tables: SQLite, PostgreSQL, two PostgreSQL servers with a table divided between
# them, and two ClickHouse servers as the shards of one table. `test` is called with each: `con`,
# `name`, and `put(name, data)`, which stores a table and gives it back as a lazy one.

with_engines <- function(test) {
  skip_if_not_installed("dbplyr")
  for (open in list(open_sqlite, open_postgres, open_postgres_pair, open_clickhouse_pair)) {
    engine <- open()
    if (is.null(engine)) next
    test(engine)
    DBI::dbDisconnect(engine$con)
  }
}

# A table written by the connection itself.
putting <- function(con) {
  function(name, data) {
    DBI::dbWriteTable(con, name, data)
    dplyr::tbl(con, name)
  }
}

open_sqlite <- function(env = NULL) {
  if (!requireNamespace("RSQLite", quietly = TRUE)) return(NULL)
  con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  list(con = con, name = "SQLite", put = putting(con))
}

connect_postgres <- function(port) {
  DBI::dbConnect(
    RPostgres::Postgres(), host = "127.0.0.1", port = port, user = "postgres", dbname = "postgres"
  )
}

open_postgres <- function(env = parent.frame(2)) {
  if (!requireNamespace("RPostgres", quietly = TRUE) || is.null(postgres_programs())) return(NULL)
  con <- connect_postgres(start_postgres(env))
  list(con = con, name = "PostgreSQL", put = putting(con))
}

# The rows of a table are here and on a second server, by the hash of its first column.
open_postgres_pair <- function(env = parent.frame(2)) {
  if (!requireNamespace("RPostgres", quietly = TRUE) || is.null(postgres_programs())) return(NULL)
  ports <- c(start_postgres(env), start_postgres(env))
  con <- connect_postgres(ports[1])
  run <- function(sql, ...) DBI::dbExecute(con, sprintf(sql, ...))
  run("CREATE EXTENSION postgres_fdw")
  run(paste(
    "CREATE SERVER other FOREIGN DATA WRAPPER postgres_fdw OPTIONS (host '127.0.0.1',",
    "port '%d', dbname 'postgres', use_remote_estimate 'true')"
  ), ports[2])
  run("CREATE USER MAPPING FOR postgres SERVER other OPTIONS (user 'postgres')")
  run("SET enable_partitionwise_aggregate = on")
  put <- function(name, data) {
    columns <- paste(
      DBI::dbQuoteIdentifier(con, names(data)), DBI::dbDataType(con, data), collapse = ", "
    )
    there <- connect_postgres(ports[2])
    on.exit(DBI::dbDisconnect(there))
    DBI::dbExecute(there, sprintf("CREATE TABLE %s_there (%s)", name, columns))
    first <- DBI::dbQuoteIdentifier(con, names(data)[1])
    run("CREATE TABLE %s (%s) PARTITION BY HASH (%s)", name, columns, first)
    part <- "PARTITION OF %s FOR VALUES WITH (MODULUS 2, REMAINDER %d)"
    run(paste("CREATE TABLE %s_here", part), name, name, 0)
    run(paste("CREATE FOREIGN TABLE %s_there", part, "SERVER other"), name, name, 1)
    DBI::dbAppendTable(con, name, data)
    DBI::dbExecute(there, sprintf("ANALYZE %s_there", name))
    run("ANALYZE %s", name)
    dplyr::tbl(con, name)
  }
  list(con = con, name = "two PostgreSQL servers", put = put)
}

# `make test-cluster` installs what this needs.
open_clickhouse_pair <- function(env = parent.frame(2)) {
  there <- requireNamespace("RClickhouse", quietly = TRUE) &&
    nzchar(Sys.which("clickhouse-server"))
  if (!there && Sys.getenv("OCHRE_CLUSTER") == "yes") stop("ClickHouse is not installed")
  if (!there) return(NULL)
  ports <- start_clickhouse_pair(env)
  connect <- function(port) {
    DBI::dbConnect(RClickhouse::clickhouse(), host = "127.0.0.1", port = port)
  }
  con <- connect(ports[1])
  put <- function(name, data) {
    type <- vapply(data, function(x) {
      if (is.character(x)) "String" else if (is.integer(x)) "Int32" else "Float64"
    }, "")
    columns <- paste(sprintf("`%s` Nullable(%s)", names(data), type), collapse = ", ")
    for (port in ports) {
      there <- connect(port)
      DBI::dbExecute(there, sprintf("CREATE TABLE %s_part (%s) ENGINE = Memory", name, columns))
      DBI::dbDisconnect(there)
    }
    DBI::dbExecute(con, sprintf(
      "CREATE TABLE %s (%s) ENGINE = Distributed(pair, default, %s_part, rand())",
      name, columns, name
    ))
    DBI::dbWriteTable(con, name, as.data.frame(data), append = TRUE, row.names = FALSE)
    dplyr::tbl(con, name)
  }
  list(con = con, name = "ClickHouse", put = put, ports = ports)
}

# Two servers on loopback with a cluster called `pair`; gives their ports.
start_clickhouse_pair <- function(env = parent.frame()) {
  ports <- free_ports(6)
  shard <- sprintf(
    "<shard><replica><host>127.0.0.1</host><port>%d</port></replica></shard>", ports[1:2]
  )
  for (i in 1:2) {
    folder <- tempfile("ochre-ch-", tmpdir = "/tmp")
    dir.create(folder)
    writeLines(c(
      "<?xml version=\"1.0\"?>", "<yandex>",
      sprintf("<logger><level>warning</level><log>%s/log</log></logger>", folder),
      sprintf("<tcp_port>%d</tcp_port><http_port>%d</http_port>", ports[i], ports[2 + i]),
      sprintf("<interserver_http_port>%d</interserver_http_port>", ports[4 + i]),
      "<listen_host>127.0.0.1</listen_host>",
      "<interserver_http_host>127.0.0.1</interserver_http_host>",
      sprintf("<path>%s/data/</path><tmp_path>%s/tmp/</tmp_path>", folder, folder),
      "<mark_cache_size>268435456</mark_cache_size><users_config>users.xml</users_config>",
      "<default_profile>default</default_profile><default_database>default</default_database>",
      sprintf("<remote_servers><pair>%s</pair></remote_servers>", paste(shard, collapse = "")),
      "</yandex>"
    ), file.path(folder, "config.xml"))
    writeLines(c(
      "<?xml version=\"1.0\"?>", "<yandex><profiles><default>",
      "<insert_distributed_sync>1</insert_distributed_sync>",
      "</default></profiles><users><default><password></password>",
      "<networks><ip>127.0.0.1</ip></networks>",
      "<profile>default</profile><quota>default</quota></default></users>",
      "<quotas><default></default></quotas></yandex>"
    ), file.path(folder, "users.xml"))
    server <- processx::process$new(
      "clickhouse-server", paste0("--config-file=", folder, "/config.xml"), wd = folder,
      stdout = file.path(folder, "out"), stderr = "2>&1", cleanup_tree = TRUE
    )
    stop_server <- function(server, folder) {
      server$kill_tree()
      unlink(folder, recursive = TRUE)
    }
    do.call(on.exit, list(as.call(list(stop_server, server, folder)), add = TRUE), envir = env)
  }
  for (port in ports[1:2]) await_port(port)
  ports[1:2]
}

free_ports <- function(count) {
  ports <- integer()
  while (length(ports) < count) {
    port <- sample(setdiff(20000:32000, ports), 1)
    socket <- tryCatch(serverSocket(port), error = function(e) NULL)
    if (is.null(socket)) next
    close(socket)
    ports <- c(ports, port)
  }
  ports
}

await_port <- function(port) {
  for (i in 1:200) {
    socket <- tryCatch(
      suppressWarnings(socketConnection("127.0.0.1", port, timeout = 1)),
      error = function(e) NULL
    )
    if (!is.null(socket)) return(close(socket))
    Sys.sleep(0.1)
  }
  stop("No server on port ", port)
}

# Rows that the database hands over while code runs.
rows_fetched <- function(code) {
  seen <- new.env()
  seen$rows <- 0
  ns <- asNamespace("DBI")
  suppressMessages(trace(
    "dbFetch",
    exit = substitute(
      quote(assign("rows", get("rows", e) + NROW(returnValue()), e)),
      list(e = seen)
    )[[2]],
    where = ns,
    print = FALSE
  ))
  on.exit(suppressMessages(untrace("dbFetch", where = ns)))
  force(code)
  seen$rows
}

# Runs code, and `meanwhile` before each query that it sends.
before_each_query <- function(code, meanwhile) {
  state <- new.env()
  state$busy <- FALSE
  state$meanwhile <- function() {
    if (state$busy) return(invisible())
    state$busy <- TRUE
    on.exit(state$busy <- FALSE)
    meanwhile()
  }
  ns <- asNamespace("DBI")
  tracer <- as.call(list(state$meanwhile))
  suppressMessages(trace("dbSendQuery", tracer = tracer, where = ns, print = FALSE))
  on.exit(suppressMessages(untrace("dbSendQuery", where = ns)))
  force(code)
}
