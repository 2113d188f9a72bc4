# A server of its own in a folder of its own; NULL where PostgreSQL is not installed. A server refuses to run as root.
local_postgres <- function(env = parent.frame()) {
  bin <- c(dirname(Sys.which("pg_ctl")), Sys.glob("/usr/lib/postgresql/*/bin"))
  bin <- bin[file.exists(file.path(bin, "initdb"))][1]
  root <- identical(Sys.info()[["effective_user"]], "root")
  if (is.na(bin) || !rlang::is_installed("RPostgres") || root && system("id postgres > /dev/null 2>&1") != 0) return(NULL)
  home <- tempfile("pg", tmpdir = "/tmp")
  dir.create(home)
  if (root) system(paste("chown postgres", home))
  port <- 54000 + Sys.getpid() %% 1000
  run <- function(what) {
    command <- paste0("cd ", home, " && ", what, " > ", home, "/out 2>&1")
    system(if (root) paste("su postgres -c", shQuote(command)) else command)
  }
  start <- paste0(bin, "/pg_ctl -D data -w -o \"-p ", port, " -k ", home, " -c listen_addresses=''\" start")
  started <- run(paste0(bin, "/initdb -D data -A trust -U postgres")) == 0 && run(start) == 0
  withr::defer({
    run(paste0(bin, "/pg_ctl -D data -m immediate stop"))
    unlink(home, recursive = TRUE)
  }, envir = env)
  if (!started) return(NULL)
  function() {
    con <- suppressWarnings(DBI::dbConnect(RPostgres::Postgres(), host = home, port = port, dbname = "postgres", user = "postgres"))
    withr::defer(DBI::dbDisconnect(con), envir = env)
    con
  }
}
