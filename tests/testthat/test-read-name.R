# Names of groups: everything speaks of groups by name once they have one, and nothing else changes.

named_water <- function() {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  fl_name(groups, c("top", "middle", "basin", "shelf", "melt"))
}

test_that("a name changes words and nothing else", {
  named <- named_water()
  plain <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  same <- setdiff(names(plain), c("names", "seconds"))
  expect_identical(unclass(named)[same], unclass(plain)[same])
  expect_identical(fl_labels(named), fl_labels(plain))
  expect_null(fl_name(named, rep(NA, 5))$names)
  expect_null(fl_name(named, rep("", 5))$names)
})

test_that("every sentence, table and export calls the groups by name", {
  named <- named_water()
  agreement <- fl_agree(named)
  said <- list(fl_facts(named), fl_facts(agreement), fl_facts(fl_mismatches(agreement)),
               fl_facts(fl_profile(named, sets = 0, audit = FALSE)), fl_facts(fl_outcome(named, "depth")),
               format(named), format(agreement), format(fl_profile(named, sets = 0, audit = FALSE)),
               format(fl_outcome(named, "station")))
  for (lines in said) {
    expect_match(paste(lines, collapse = " "), "basin|melt|middle|top|shelf")
    expect_no_match(paste(lines, collapse = " "), "[Gg]roup [1-5](?! \")", perl = TRUE)
  }
  expect_setequal(na.omit(as.data.frame(named)$name), c("top", "middle", "basin", "shelf", "melt"))
  out <- generics::augment(named)
  expect_identical(out$group_name, c("top", "middle", "basin", "shelf", "melt")[fl_labels(named)])
  expect_null(generics::augment(fl_partition(fl_prepare(heap_data()), k = 3))$group_name)
  fuzzy <- fl_name(fl_partition(fl_prepare(heap_data()), "fuzzy", k = 3), c("a", "b", "c"))
  expect_equal(colnames(predict(fuzzy, heaps(), type = "membership")), c("a", "b", "c"))
})

test_that("figures carry the names in their legends and axes", {
  named <- named_water()
  legend <- ggplot2::ggplot_build(autoplot(named))$plot$scales$get_scales("colour")
  expect_equal(unname(legend$labels(as.character(1:5))), paste(1:5, c("top", "middle", "basin", "shelf", "melt")))
  plain <- ggplot2::ggplot_build(autoplot(fl_name(named, rep(NA, 5))))$plot$scales$get_scales("colour")
  expect_equal(unname(plain$labels(as.character(1:5))), as.character(1:5))
})

test_that("some groups can be named, renamed and lose their name", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  one <- fl_name(groups, c("2" = "  ridge\n north "))
  expect_equal(one$names, c(NA, "ridge north", NA))
  expect_equal(unique(na.omit(as.data.frame(one)$name[one$group == 2])), "ridge north")
  expect_equal(unique(na.omit(as.data.frame(one)$name[one$group == 1])), "group 1")
  two <- fl_name(one, c("3" = "sill", "2" = NA))
  expect_equal(two$names, c(NA, NA, "sill"))
  expect_equal(fl_name(two, c("3" = "ridge"))$names[3], "ridge")
})

test_that("wrong names are refused and say why", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  expect_error(fl_name(groups, c("a", "b")), class = "fjordline_error_argument", regexp = "each of the 3 groups")
  expect_error(fl_name(groups, c("a", "b", "a")), class = "fjordline_error_argument", regexp = "Groups 1 and 3")
  expect_error(fl_name(groups, c("4" = "a")), class = "fjordline_error_argument", regexp = "1 to 3")
  expect_error(fl_name(groups, 1:3), class = "fjordline_error_argument", regexp = "must be text")
  expect_error(fl_name(groups, fl_agree(fl_partition(fl_prepare(heap_data()), k = 2))),
               class = "fjordline_error_argument", regexp = "another partition")
  expect_error(fl_name(groups, fl_partition(fl_prepare(heap_data()), k = 2)), class = "fjordline_error_argument",
               regexp = "has none")
})

test_that("suggested names are what stands out, by the rule of the profile, and never the same twice", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 5)
  suggested <- fl_name(groups)
  columns <- fl_profile(groups, sets = 0, audit = FALSE)$columns
  words <- c("much higher" = "very high", higher = "high", lower = "low", "much lower" = "very low")
  for (g in 1:5) {
    mine <- columns[columns$group == g & columns$role == "feature" & columns$standout != "", ]
    mine <- head(mine[order(-abs(mine$difference)), ], 2)
    expected <- if (nrow(mine) == 0) "near the average" else paste(words[mine$standout], mine$column, collapse = ", ")
    expect_equal(suggested$names[g], expected)
  }
  expect_null(groups$names)
  many <- fl_name(fl_partition(water_ready(), fl_method("kmeans", restarts = 2), k = 14))
  expect_equal(anyDuplicated(many$names), 0)
})

test_that("groups can be called after the classes matched to them", {
  groups <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 6)
  agreement <- fl_agree(groups)
  named <- fl_name(groups, agreement)
  expect_equal(named$names, agreement$matched$class[match(1:6, agreement$matched$group)])
  coarse <- fl_name(groups, fl_agree(groups, match = "majority"))$names
  expect_equal(anyDuplicated(coarse), 0)
  expect_equal(sum(grepl("^surface brackish [12]$", coarse)), 2)
})

test_that("names go to another count, where parts are numbered, and to next month's table", {
  named <- named_water()
  seven <- fl_partition(water_ready(), fl_method("kmeans", restarts = 5), k = 7)
  out <- fl_name(seven, named)
  for (g in 1:7) {
    from <- table(named$group[seven$group %in% g])
    if (max(from) / sum(from) > 0.5) {
      expect_equal(sub(" [0-9]$", "", out$names[g]), named$names[as.integer(names(which.max(from)))])
    } else expect_true(is.na(out$names[g]))
  }
  parts <- grep(" [0-9]$", out$names)
  expect_gt(length(parts), 1)
  for (stem in unique(sub(" [0-9]$", "", out$names[parts]))) {
    mine <- parts[startsWith(out$names[parts], stem)]
    expect_equal(order(out$names[mine]), order(-seven$groups$rows[mine]))
  }
  # another table: its rows are placed first; the names must meet the same water again
  table <- as.data.frame(fl_demo("water_samples"))
  half <- seq_len(nrow(table)) %% 2 == 0
  prepared <- function(rows) fl_prepare(fl_data(table[rows, ], features = named$ready$features), transform = c(turbidity = "log"))
  before <- fl_partition(prepared(half), fl_method("kmeans", restarts = 5), k = 5)
  before <- fl_name(before, c("a", "b", "c", "d", "e"))
  after <- fl_name(fl_partition(prepared(!half), fl_method("kmeans", restarts = 5), k = 5), before)
  far <- vapply(1:5, function(g) {
    centre <- unlist(after$groups[g, c("temperature", "salinity", "oxygen")])
    which.min(colSums((t(as.matrix(before$groups[c("temperature", "salinity", "oxygen")])) - centre)^2))
  }, 0L)
  expect_equal(after$names, before$names[far])
})

test_that("names survive the model's file and the script", {
  named <- named_water()
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(named, file)
  expect_identical(fl_load(file)$names, named$names)
  some <- fl_name(fl_partition(fl_prepare(heap_data()), k = 3), c("2" = "a \"quoted\" name, <b>"))
  fl_save(some, file)
  expect_identical(fl_load(file)$names, some$names)
  expect_match(tail(fl_steps(named), 1), "fl_name\\(groups, names = c\\(\"top\"")
  room <- new.env()
  for (step in fl_steps(named)) eval(parse(text = step), room)
  expect_identical(room$groups$names, named$names)
})
