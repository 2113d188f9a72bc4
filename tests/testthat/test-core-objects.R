# What objects hold, and what is left of table-like results that are cut.

made_objects <- function() {
  ready <- fl_prepare(fl_demo("icequakes"), transform = "log")
  sweep <- fl_sweep(ready, c("kmeans", "mixture"), k = 1:4, indices = "fast")
  list(ready = ready, sweep = sweep, vote = fl_vote(sweep), groups = fl_take(sweep, "kmeans", 3))
}

test_that("every maker of a partition makes what a partition holds", {
  ready <- fl_prepare(heap_data())
  groups <- fl_partition(ready, k = 3)
  file <- withr::local_tempfile(fileext = ".json")
  fl_save(groups, file)
  rows <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(heaps(), rows, row.names = FALSE)
  sample <- fl_sample(rows, rows = 40, features = c("east", "north"))
  made <- list(groups, fl_take(fl_sweep(ready, "kmeans", k = 2:4, indices = "fast"), k = 3), fl_load(file),
               fl_adopt(ready, rep(c("x", "y", NA), 20)), fl_name(groups, c("one", "two", "three")),
               fl_adopt(fl_place(groups, heaps()[1:20, ])), fl_stream(fl_prepare(sample), k = 3, batch_rows = 20))
  for (one in made) expect_identical(check_partition(one), one)
})

test_that("sweeps, votes and preparations hold what is written of them", {
  made <- made_objects()
  expect_s3_class(check_object(made$sweep, sweep_holds, sweep_rules), "fl_sweep")
  expect_s3_class(new_vote(unclass(made$vote)), "fl_vote")
  expect_s3_class(new_vote(unclass(fl_settle(made$vote, 3, "three are known"))), "fl_vote")
  expect_s3_class(check_preparation_object(made$ready), "fl_prepare")
  expect_s3_class(check_data(fl_keep(fl_demo("water_samples"), depth < 50)), "fl_data")
  result <- quick_result()
  opened <- fl_open(result, "one")
  expect_s3_class(check_object(opened, sweep_holds, sweep_rules), "fl_sweep")
  expect_true(opened$stored)
})

test_that("an object that does not hold together is refused, with what is wrong", {
  groups <- fl_partition(fl_prepare(heap_data()), k = 3)
  broken <- function(change) check_partition(change(groups))
  expect_error(broken(function(x) replace(x, "k", -1)), "`k` is", class = "fjordline_error_object")
  expect_error(broken(function(x) replace(x, "group", list(x$group[-1]))), "a label for every row",
               class = "fjordline_error_object")
  expect_error(broken(function(x) replace(x, "group", list(x$group + 1L))), "groups from 1 to k",
               class = "fjordline_error_object")
  expect_error(broken(function(x) c(x, structure(list(extra = 1), class = NULL))), class = "fjordline_error_object")
  sweep <- fl_sweep(fl_prepare(heap_data()), "kmeans", k = 2:3, indices = "fast")
  expect_error(check_object(replace(sweep, "fits", list(sweep$fits[-1])), sweep_holds, sweep_rules),
               "a fit or an error for every cell", class = "fjordline_error_object")
  vote <- unclass(fl_vote(sweep))
  vote$verdict <- "clear"
  vote["rate"] <- list(NULL)
  expect_error(new_vote(vote), "nothing unmeasured is clear", class = "fjordline_error_object")
  expect_error(new_piece("fit", list(dataset = "a", preparation = "b"), "key", "label", list(k = 2)), "lacks method",
               class = "fjordline_error_object")
})

test_that("cells are found by preparation, method and repeat", {
  ready <- fl_prepare(heap_data())
  sweep <- fl_sweep(list(a = ready, b = ready), list("kmeans", "linkage"), k = 2:3, indices = "fast", repeats = 2)
  cells <- sweep$cells
  expect_identical(cells_of(sweep, "b", "linkage", turn = 2),
                   which(cells$preparation == "b" & cells$method == "linkage" & cells$`repeat` == 2))
  expect_true(all(cells$asked[cells_of(sweep, "a", "kmeans", asked = TRUE)]))
  sweep$fits[[cells_of(sweep, "a", "kmeans")[1]]] <- simpleError("no luck")
  expect_length(cells_of(sweep, "a", "kmeans", fitted = TRUE), length(cells_of(sweep, "a", "kmeans")) - 1)
})

test_that("a part of a table-like result is a table, unless it still says the whole", {
  check <- fl_check(fl_data(data.frame(a = c(1, 1, 1), b = c(1, NA, 3), c = c("x", "y", "z"))))
  expect_gt(nrow(check), 1)
  expect_s3_class(check[order(check$column), ], "fl_check")
  for (part in list(check[1, ], check[c("column", "finding")], check[0, ])) {
    expect_false(inherits(part, "fl_check"))
    expect_output(print(part), "tibble")
  }
  shorn <- check
  shorn$advice <- NULL
  expect_output(print(shorn), "tibble")
  score <- fl_score(fl_partition(fl_prepare(heap_data()), k = 3))
  expect_false(inherits(score[2:3, ], "fl_score"))
  expect_null(attr(score[2:3, ], "rows"))
  methods <- fl_methods()
  expect_s3_class(methods[methods$key == "kmeans", ], "fl_methods")
  expect_false(inherits(methods[c("key", "cost")], "fl_methods"))
  expect_equal(check$column[[1]], check[["column"]][1])
})

test_that("a sweep over different tables has no table to add its groups to, and says so", {
  sweep <- fl_sweep(list(a = fl_prepare(heap_data()), b = fl_prepare(fl_demo("icequakes"))), "kmeans", k = 2:3, indices = "fast")
  expect_error(augment(sweep), "60 rows and 408 rows", class = "fjordline_error_argument")
  expect_match(format(fl_methods()[0, ])[1], "^Methods")
})

test_that("errors name the function that was called, not one it used", {
  said <- function(expr) as.character(rlang::catch_cnd(expr)$call)[1]
  ready <- fl_prepare(heap_data())
  sweep <- fl_sweep(ready, "kmeans", k = 2:3, indices = "fast")
  expect_equal(said(fl_partition(ready, "kmean", 3)), "fl_partition")
  expect_equal(said(fl_sweep(ready, "kmean")), "fl_sweep")
  expect_equal(said(fl_method("kmean")), "fl_method")
  expect_equal(said(fl_take(fl_settle(fl_vote(sweep), k = 9, reason = "why not"))), "fl_settle")
  expect_equal(said(autoplot(fl_partition(ready, k = 3), view = "plan")), "autoplot")
  wrapped <- function(...) fl_partition(...)
  expect_equal(said(wrapped(ready, "kmean", 3)), "fl_partition")
})

test_that("arguments that nothing takes are errors", {
  ready <- fl_prepare(heap_data())
  groups <- fl_partition(ready, k = 3)
  expect_error(autoplot(groups, veiw = "pairs"), "Did you mean \"view\"", class = "fjordline_error_argument")
  expect_error(predict(groups, heaps()[1:3, ], typ = "distance", kind = 1), "kind", class = "fjordline_error_argument")
  expect_error(summary(groups, digits = 3), "digits", class = "fjordline_error_argument")
  expect_error(autoplot(fl_agree(c(1, 1, 2), c(1, 2, 2)), "map"), "one argument too many",
               class = "fjordline_error_argument")
})
