# The desk of the explorer: acts are lines, lines make objects, and the script makes them again. No page is needed.

desk_of <- function(x = NULL, env = parent.frame()) desk_for(x, withr::local_tempdir(.local_envir = env), "heap")

worked_desk <- function(env = parent.frame()) {
  desk <- desk_run(desk_of(env = env), open_line(demo = "water_samples"))
  for (line in c(prepare_line(list(scale = "mean_sd", missing = "drop", transform = c(turbidity = "log"))),
                 sweep_line("kmeans", 1:6, "fast"), vote_line(), take_line("kmeans", 5L),
                 name_line(5L, c("2" = "it's \"odd\"\\n")))) {
    desk <- desk_run(desk, line)
  }
  desk
}

run_script <- function(lines, folder) {
  file <- withr::local_tempfile(fileext = ".R")
  out <- withr::local_tempfile()
  writeLines(c(lines, sprintf("saveRDS(list(fl_labels(groups), groups$names), %s)", encodeString(out, quote = "\""))), file)
  withr::local_dir(folder)
  status <- system2(file.path(R.home("bin"), "Rscript"), shQuote(file), stdout = FALSE, stderr = FALSE,
                    env = paste0("R_LIBS=", paste(.libPaths(), collapse = .Platform$path.sep)))
  if (status == 0) readRDS(out)
}

test_that("the script of a desk makes the same groups and names in a fresh session", {
  desk <- worked_desk()
  again <- run_script(desk_script(desk), desk$folder)
  expect_equal(again[[1]], fl_labels(desk$made$groups))
  expect_equal(again[[2]], desk$made$groups$names)
})

test_that("what was replaced before anything used it is not in the script; what others rest on is", {
  desk <- worked_desk()
  desk <- desk_run(desk, keep_line(desk$made))
  desk <- desk_run(desk, prepare_line(list(scale = "median_iqr")))
  desk <- desk_run(desk, prepare_line(list(scale = "none")))
  script <- desk_script(desk)
  expect_false(any(grepl("median_iqr", script)))
  expect_true(any(grepl("kept_1 <- groups", script)))
  expect_true(any(grepl("transform = c(turbidity", script, fixed = TRUE)))  # kept_1 rests on it
  expect_equal(names(desk$made), c("data", "ready", "kept_1"))
  expect_equal(desk$made$kept_1$k, 5L)
})

test_that("undo steps back act by act, to an empty desk and no further", {
  desk <- worked_desk()
  steps <- length(desk$lines)
  for (i in seq_len(steps)) {
    before <- desk$lines
    desk <- desk_undo(desk)
    expect_equal(desk$lines, utils::head(before, -1))
  }
  expect_length(desk$made, 0)
  expect_equal(desk_undo(desk), desk)
})

test_that("a line that fails changes nothing", {
  desk <- worked_desk()
  expect_error(desk_run(desk, take_line("kmeans", 50L)), class = "fjordline_error")
  expect_error(desk_run(desk, settle_line(5L, "")), class = "fjordline_error")
  expect_equal(desk$made$groups$k, 5L)
})

test_that("a desk begins with what it is given: table, preparation, sweep, vote, groups, two groups", {
  ready <- fl_prepare(heap_data())
  sweep <- quick_sweep(ready, k = 1:4)
  vote <- fl_vote(sweep)
  groups <- fl_take(sweep, k = 3)
  expect_equal(names(desk_of(heaps())$made), c("heap", "data"))
  expect_equal(names(desk_of(heap_data())$made), "data")
  expect_equal(names(desk_of(ready)$made), c("data", "ready"))
  expect_equal(names(desk_of(vote)$made), c("data", "ready", "sweep", "vote"))
  expect_equal(names(desk_of(groups)$made), c("data", "ready", "groups"))
  both <- desk_of(list(groups, fl_take(sweep, k = 2)))
  expect_equal(both$made$kept_1$k, 2L)
  expect_equal(both$made$groups$k, 3L)
  expect_error(desk_of(1:3), class = "fjordline_error_argument")
})

test_that("a file named from where the session stands is found from the desk", {
  folder <- withr::local_tempdir()
  withr::local_dir(folder)
  dir.create("tables")
  write.csv(heaps(), "tables/heaps.csv", row.names = FALSE)
  data <- fl_data("tables/heaps.csv", truth = "kind", id = "row")
  desk <- desk_of(data)
  desk <- desk_run_all(desk, roles_lines(desk, replace(data$roles, "role", list(ifelse(data$roles$column == "row", "aside", data$roles$role)))))
  expect_equal(columns_of(desk$made$data, "id"), character())
  expect_equal(columns_of(desk$made$data, "truth"), "kind")
})

test_that("roles and remedies become arguments, of the table or of its preparation", {
  desk <- desk_run(desk_of(), open_line(demo = "water_samples"))
  roles <- desk$made$data$roles
  roles$role[roles$column == "station"] <- "feature"
  roles$role[roles$column == "density"] <- "aside"
  desk <- desk_run_all(desk, roles_lines(desk, roles))
  expect_true("station" %in% columns_of(desk$made$data, "feature"))
  expect_true("density" %in% columns_of(desk$made$data, "aside"))
  expect_equal(desk$made$data$name, "water_samples")
  desk <- desk_run_all(desk, remedy_lines(desk, "transform = c(turbidity = \"log\")"))
  desk <- desk_run_all(desk, remedy_lines(desk, "transform = c(oxygen = \"rank\"), or leave it"))
  expect_equal(prepared_with(desk$made$ready)$transform, c(turbidity = "log", oxygen = "rank"))
  desk <- desk_run_all(desk, remedy_lines(desk, "fl_data(blanks = c(\"glacier front\", \"narrows\"))"))
  expect_false("narrows" %in% desk$made$data$table$station)
  expect_null(remedy_lines(desk, "correct it if it is wrong"))
  expect_equal(prepared_with(desk$made$ready)$transform, c(turbidity = "log", oxygen = "rank"))  # made again
})

test_that("rows that were set apart and the preparation stay when roles change, unless the preparation cannot", {
  desk <- desk_run(desk_of(), open_line(demo = "water_samples"))
  desk <- desk_run(desk, prepare_line(list(transform = c(turbidity = "log"))))
  desk <- desk_run_all(desk, c(set_apart_line(c(3L, 9L), "a broken probe"), line_again(desk, "ready")))
  expect_equal(prepared_with(desk$made$ready)$transform, c(turbidity = "log"))
  expect_false(any(c(3L, 9L) %in% desk$made$ready$rows))
  roles <- desk$made$data$roles
  without <- desk_run_all(desk, roles_lines(desk, within(roles, role[column == "density"] <- "aside")))
  expect_true("density" %in% columns_of(without$made$data, "aside"))
  expect_false(any(c(3L, 9L) %in% without$made$ready$rows))
  cannot <- desk_run_all(desk, roles_lines(desk, within(roles, role[column == "turbidity"] <- "aside")))
  expect_null(cannot$made$ready)  # its transform was of that column
  expect_error(desk_run_all(desk, c(prepare_line(list()), take_line("kmeans", 3L))), class = "error")
})

test_that("what was fitted to something that no longer lies there is known as such", {
  desk <- desk_run(desk_run(desk_of(), open_line(demo = "icequakes")), prepare_line(list()))
  begun <- desk$made["ready"]
  expect_true(still_there(desk, begun))
  expect_true(still_there(desk_run(desk, sweep_line("kmeans", 1:3, "fast")), begun))
  expect_false(still_there(desk_run(desk, prepare_line(list(scale = "none"))), begun))
  expect_false(still_there(desk_undo(desk), begun))
})

test_that("every remedy the check offers on the demo tables can be done", {
  for (name in fl_demos()$name) {
    desk <- desk_run(desk_of(), open_line(demo = name))
    for (advice in fl_check(desk$made$data)$advice) {
      lines <- remedy_lines(desk, advice)
      if (!is.null(lines)) expect_no_error(desk_run_all(desk, lines), message = paste(name, advice))
    }
  }
})

test_that("hostile text stays text in every line", {
  table <- heaps()
  names(table)[3] <- "a\"); stop(\"x"
  desk <- desk_of(table)
  odd <- "x\"); system(\"touch gone\"); c(\""
  desk <- desk_run(desk, prepare_line(list(transform = stats::setNames("rank", names(table)[3]))))
  desk <- desk_run(desk, sweep_line("kmeans", 1:3, "fast"))
  desk <- desk_run(desk, vote_line())
  desk <- desk_run(desk, settle_line(3L, odd))
  desk <- desk_run(desk, take_settled_line(desk$made$vote, "kmeans"))
  desk <- desk_run(desk, name_line(3L, c("1" = odd)))
  expect_equal(desk$made$groups$names[1], odd)
  expect_false(file.exists(file.path(desk$folder, "gone")))
  expect_equal(safe_name("../../etc/pass wd.csv"), "pass wd.csv")
  expect_equal(safe_name(".."), "table.csv")
})

test_that("a worker tells how far it is, gives back what it made, can be stopped, and refuses a second line", {
  skip_if_not_installed("callr")
  desk <- desk_run(desk_run(desk_of(), open_line(demo = "icequakes")), prepare_line(list()))
  worker <- new_worker()
  withr::defer(worker_stop(worker))
  end <- function() {
    until <- Sys.time() + 120
    repeat {
      found <- worker_look(worker)
      if (found$state != "running" || Sys.time() > until) return(found)
      Sys.sleep(0.1)
    }
  }
  worker_begin(worker, sweep_line("kmeans", 1:4, "fast"), desk$made["ready"], desk$folder)
  expect_error(worker_begin(worker, vote_line(), list(), desk$folder), class = "fjordline_error_argument", regexp = "running")
  found <- end()
  expect_equal(found$state, "done")
  expect_equal(found$found$sweep$values, desk_run(desk, sweep_line("kmeans", 1:4, "fast"))$made$sweep$values)
  worker_begin(worker, take_line("kmeans", 9L), list(), desk$folder)
  found <- end()
  expect_match(found$error, "sweep")
  worker_begin(worker, "Sys.sleep(60)", list(), desk$folder)
  worker_stop(worker)
  expect_equal(worker_look(worker)$state, "idle")
})

test_that("groups that the vote decided on are taken from it, others from the sweep", {
  vote <- fl_settle(fl_vote(quick_sweep(fl_prepare(heap_data()), k = 1:4)), 2, "two boats")
  expect_true(says(vote, "kmeans", 2L))
  expect_false(says(vote, "kmeans", 3L))
  expect_false(says(vote, "mixture", 2L))
  vote$settled <- NULL
  vote$verdict <- "no clear count"
  expect_false(says(vote, "kmeans", as.integer(vote$k)))
})

test_that("sentences ticked for the note come and go, and what was written stays", {
  known <- c("One.", "Two.", "Three.")
  text <- noted("", "One.", known)
  text <- noted(paste0(text, "\nmine"), c("One.", "Two."), known)
  expect_equal(text, "One.\nmine\nTwo.")
  expect_equal(noted(text, "Two.", known), "mine\nTwo.")
})

test_that("a map of neighbours has a place for every row, the same again, and keeps near rows near", {
  skip_if_not_installed("uwot")
  set.seed(6)
  group <- rep(1:3, each = 40)
  table <- as.data.frame(matrix(rnorm(120 * 12), 120) + 4 * group)
  ready <- fl_prepare(fl_data(table))
  places <- callr::r(function(ready) list(getFromNamespace("neighbour_map", "fjordline")(ready), getFromNamespace("neighbour_map", "fjordline")(ready)),
                     list(ready), libpath = .libPaths())
  expect_equal(places[[1]], places[[2]])
  apart <- as.matrix(dist(places[[1]]))
  diag(apart) <- Inf
  expect_gt(mean(group[max.col(-apart)] == group), 0.95)
  axes <- neighbour_axes(places[[1]], 50)
  expect_match(axes[[1]]$name, "bends distances")
  expect_length(readBin(jsonlite::base64_dec(axes[[2]]$values), "double", 1e4, size = 4L), 50)
})

test_that("a demo table that is read again keeps its roles, whatever is changed; what was kept aside stays so", {
  ours <- function(desk, lines) desk_run_all(desk, lines)
  desk <- desk_run(new_desk(withr::local_tempdir()), "data <- fl_demo(\"vessel_visits\")")
  before <- desk$made$data$roles
  typed <- ours(desk, type_lines(desk, "crew", "category"))
  after <- typed$made$data$roles
  expect_equal(after$role, before$role)
  expect_equal(after$type[after$column == "crew"], "category")
  chosen <- after
  chosen$role[chosen$column == "night"] <- "aside"
  once <- ours(typed, roles_lines(typed, chosen))
  expect_equal(once$made$data$roles$role, chosen$role)
  twice <- ours(once, remedy_lines(once, "aside = \"draught\""))
  expect_equal(with(twice$made$data$roles, column[role != after$role]), c("draught", "night"))
  water <- desk_run(new_desk(withr::local_tempdir()), "data <- fl_demo(\"water_samples\")")
  water <- ours(water, remedy_lines(water, "aside = \"density\""))
  expect_equal(columns_of(water$made$data, "truth"), "water_mass")
  expect_equal(columns_of(water$made$data, "id"), "sample")
  prepared <- ours(water, remedy_lines(water, "scale = \"none\""))
  expect_match(remedy_lines(prepared, "scale = \"mean_sd\""), "scale = \"mean_sd\"", fixed = TRUE)
})
