# Each trap is planted in a table of its own, found, and gone (or harmless) once the advice is followed.

clean_table <- function(n = 120) {
  withr::with_seed(5, data.frame(a = rnorm(n, 10, 2), b = rnorm(n, 5, 1), type = rep(c("x", "y", "z"), length.out = n)))
}

check_of <- function(table, ...) as.data.frame(fl_check(fl_data(table, ...)))

# The one finding of a kind in a table with columns added.
planted <- function(kind, ..., roles = list(truth = "type"), table = clean_table()) {
  added <- list(...)
  for (name in names(added)) table[[name]] <- added[[name]]
  found <- do.call(check_of, c(list(table), roles))
  found <- found[found$kind == kind, ]
  expect_equal(nrow(found), 1, info = kind)
  found
}

test_that("clean tables stay quiet", {
  expect_equal(nrow(check_of(clean_table(), truth = "type")), 0)
  expect_equal(nrow(fl_check(fl_demo("still_water"))), 0)
  expect_equal(unique(as.data.frame(fl_check(heap_data()))$kind), "humps")
  for (seed in 1:10) expect_equal(nrow(check_of(as.data.frame(random_table(500, 8, seed)))), 0, info = as.character(seed))
  plain <- withr::with_seed(6, data.frame(count = rpois(500, 3), rounded = round(rnorm(500), 1), flat = round(runif(500), 2)))
  expect_equal(nrow(check_of(plain)), 0)
})

test_that("numbers stored as text are found, each with advice that works", {
  n <- 120
  plain <- planted("number as text", t = format(rnorm(n), digits = 4))
  expect_equal(plain$column, "t")
  expect_match(plain$advice, "types = list(t = \"number\")", fixed = TRUE)
  table <- transform(clean_table(), t = format(rnorm(n), digits = 4))
  expect_equal(columns_of(fl_data(table, types = list(t = "number")), "feature"), c("a", "b", "t"))
  words <- planted("number as text", t = c("high", "low", round(rnorm(n - 2), 2)))
  expect_match(words$finding, "2 rows \\(row 1: \"high\"\\)")
  table$t <- c("high", "low", round(rnorm(n - 2), 2))
  freed <- fl_data(table, blanks = c("high", "low"))
  expect_equal(sum(is.na(freed$table$t)), 2)
  expect_equal(type_of(freed, "t"), "number")
  commas <- sub(".", ",", format(1:n / 8, nsmall = 1), fixed = TRUE)
  expect_match(planted("number as text", t = commas)$finding, "decimal commas")
  expect_equal(fl_data(transform(clean_table(), t = commas), types = list(t = "number"))$table$t, 1:n / 8)
  expect_match(planted("number as text", t = paste(1:n, "m"))$finding, "unit in the cell")
  expect_match(planted("number as text", t = paste0(seq_len(n), ".", 123 + seq_len(n), ".", 200:319))$finding, "thousands")
  # codes with leading zeros and plain text are no numbers
  expect_false("number as text" %in% check_of(transform(clean_table(), t = sprintf("%05d", 1:n)), truth = "type")$kind)
})

test_that("dates stored as text are found with the form that reads them", {
  days <- as.Date("2031-01-01") + 0:119
  for (form in c("%d.%m.%Y", "%d/%m/%Y", "%m/%d/%Y", "%Y/%m/%d")) {
    found <- planted("date as text", day = format(days, form))
    expect_match(found$advice, form, fixed = TRUE)
  }
})

test_that("codes for missing are found, and gone once given as blanks", {
  values <- replace(withr::with_seed(8, rnorm(120)), c(4, 50), -999)
  found <- planted("missing code", t = values)
  expect_match(found$finding, "-999 in 2 cells")
  after <- fl_check(fl_data(transform(clean_table(), t = values), truth = "type", blanks = "-999"))
  expect_equal(after$kind, "missing")
  expect_false("missing code" %in% check_of(transform(clean_table(), t = c(99, runif(119, 50, 150))), truth = "type")$kind)
})

test_that("an identifier or a running number among the features is found", {
  expect_equal(planted("identifier", nr = 1000 + 1:120)$column, "nr")
  expect_equal(planted("identifier", key = rev(cumsum(1:120)))$column, "key")
  expect_equal(nrow(check_of(transform(clean_table(), nr = 1:120), truth = "type", id = "nr")), 0)
})

test_that("a column that repeats or nearly determines the truth is found, whatever its type; a good measurement is not", {
  code <- match(clean_table()$type, c("x", "y", "z"))
  expect_match(planted("gives truth away", code = code)$finding, "each of its values belongs to one class")
  nearly <- planted("gives truth away", code = replace(code, 1:4, c(2, 3, 1, 2)))
  expect_match(nearly$finding, "97% of the rows")
  letters_too <- planted("gives truth away", l = c("p", "q", "r")[code], roles = list(truth = "type", features = c("a", "b", "l")))
  expect_equal(letters_too$column, "l")
  expect_false("gives truth away" %in% check_of(transform(clean_table(), good = code * 10 + b), truth = "type")$kind)
  # chance is no give-away: one class with nearly all rows
  expect_false("gives truth away" %in% check_of(transform(clean_table(), type = c("rare", rep("x", 119)), two = rep(1:3, 40)), truth = "type")$kind)
})

test_that("codes and labels of classes are pointed out where no truth is named", {
  found <- check_of(transform(heaps(), code = rep(1:3, 20)), id = "row")
  expect_equal(found$column[found$kind == "code"], "code")
  expect_match(found$finding[found$kind == "code"], "holds only 1, 2 and 3")
  expect_equal(found$column[found$kind == "label"], "kind")
  expect_equal(planted("one class", one = "x", roles = list(truth = "one"))$column, "one")
})

test_that("constant and nearly constant columns are found", {
  found <- check_of(transform(clean_table(), flat = 7, near = c(1, rep(0, 119))), truth = "type")
  expect_equal(found$column[found$kind == "constant"], c("flat", "near"))
  expect_match(found$finding[found$column == "near"], "nearly constant: one value in 99%")
})

test_that("missing cells are counted by column, with the complete rows left and what would save most", {
  table <- clean_table()
  table$a[1:30] <- NA
  table$b[c(30, 31)] <- NA
  found <- planted("missing", table = table)
  expect_match(found$finding, "32 missing cells \\(30 in a and 2 in b\\): 89 of 120 rows are complete")
  expect_equal(found$severity, "warn")
  expect_match(found$advice, "without a 118 rows")
  # row 30 has neither: nothing to go by
  expect_equal(fl_prepare(fl_data(table, truth = "type"), missing = "nearest")$rows, setdiff(1:120, 30))
  expect_match(planted("missing", c = NA_real_)$finding, "no value at all")
})

test_that("far values are found, and pulled in as advised; heavy skew is told with the transform that helps", {
  found <- planted("outlying", far = c(60, clean_table()$a[-1]))
  expect_match(found$finding, "1 value far beyond the rest \\(60 in row 1")
  ready <- fl_prepare(fl_data(transform(clean_table(), far = c(60, a[-1])), truth = "type"), outliers = "winsorise", scale = "none")
  expect_lt(ready$x[1, "far"], 25)
  tails <- withr::with_seed(9, list(log = exp(rnorm(120, sd = 1.5)), log1p = floor(exp(rnorm(120, sd = 1.3))), power = -exp(rnorm(120, sd = 1.2))))
  for (how in names(tails)) {
    found <- planted("long tail", tail = tails[[how]])
    expect_match(found$advice, paste0("tail = \"", how, "\""), fixed = TRUE, info = how)
    after <- fl_prepare(fl_data(data.frame(tail = tails[[how]], b = 1:120)), transform = c(tail = how))$x[, "tail"]
    expect_lt(abs(skewness(after)), 1)
  }
  expect_false("outlying" %in% check_of(data.frame(tail = tails$log, b = rnorm(120)))$kind)
})

test_that("spreads that differ by orders of magnitude are told; scaled, neither column decides", {
  found <- planted("spreads", wide = clean_table()$a * 5000)
  expect_match(found$finding, "unscaled, wide would decide")
  expect_match(fl_prepare(fl_data(transform(clean_table(), wide = a * b * 5000), truth = "type"), scale = "none")$notes, "wide has")
})

test_that("a two-valued column among others is told, and its weight tames it", {
  rare <- rep(c(1, rep(0, 9)), 12)
  found <- planted("two values", flag = rare)
  expect_match(found$finding, "0 in 90% of the rows\\): scaled, they lie 3.33 sd apart")
  scaled <- fl_prepare(fl_data(transform(clean_table(), flag = rare), truth = "type"))$x[, "flag"]
  expect_equal(diff(range(scaled)), 1 / sqrt(0.09) * sqrt(119 / 120), tolerance = 1e-12)
  expect_equal(planted("two values", flag = rare == 1, roles = list(truth = "type", features = c("a", "flag")))$column, "flag")
  only <- as.data.frame(matrix(rep(0:1, 60), 40, 3))
  expect_false("two values" %in% check_of(only)$kind)
})

test_that("near-copies are found in groups, and counted once as advised", {
  noise <- function(i) withr::with_seed(i, rnorm(120, sd = 0.1))
  found <- planted("copies", c1 = clean_table()$a + noise(1), c2 = -clean_table()$a + noise(2))
  expect_equal(found$column, "a, c1 and c2")
  expect_match(found$finding, "three times")
  expect_match(found$advice, "aside = c(\"c1\", \"c2\")", fixed = TRUE)
  pair <- planted("copies", c1 = clean_table()$a + noise(1))
  expect_match(pair$advice, "weights = c(a = 0.71, c1 = 0.71)", fixed = TRUE)
  weighed <- fl_prepare(fl_data(transform(clean_table(), c1 = a), truth = "type"), weights = c(a = sqrt(0.5), c1 = sqrt(0.5)))$x
  once <- fl_prepare(fl_data(clean_table(), truth = "type"))$x
  expect_equal(c(dist(weighed)), c(dist(once)))
})

test_that("repeated rows, more columns than rows, rare levels and spelling variants are found", {
  table <- clean_table()
  expect_match(planted("repeated rows", table = rbind(table, table[3, ]))$finding, "1 row repeats another in every feature \\(the first: row 121\\)")
  expect_match(check_of(as.data.frame(random_table(10, 15, 1)))$finding, "more columns \\(15\\) than rows \\(10\\)", all = FALSE)
  kinds <- c(rep(c("fish", "salt"), c(60, 55)), "ice", "ice", "tar", "Fish", "fish ")
  roles <- list(truth = "type", features = c("a", "b", "cargo"))
  expect_match(planted("rare levels", cargo = kinds, roles = roles)$finding, "ice \\(2 rows\\)")
  expect_match(planted("spelling", cargo = kinds, roles = roles)$finding, "\"fish\" / \"Fish\" / \"fish \"")
})

test_that("columns that gather in several places are named", {
  found <- planted("humps", two = c(rnorm(60), rnorm(60, 8)))
  expect_equal(found$column, "two")
  sift <- as.data.frame(fl_sift(fl_data(transform(clean_table(), two = c(rnorm(60), rnorm(60, 8)), kind = type), features = c("a", "b", "two", "kind"))))
  expect_equal(sift$column[1], "two")
  expect_equal(sift$beyond_chance[match(c("a", "two", "kind"), sift$column)], c(FALSE, TRUE, NA))
  expect_match(format(fl_sift(fl_demo("water_samples"))), "density .* salinity \\(1.00\\)", all = FALSE)
})

test_that("a file without a header line is pointed out, and read as advised", {
  file <- bytes_file("1,2\n3,4\n5,6\n8,1\n")
  found <- as.data.frame(fl_check(fl_data(file)))
  expect_match(found$finding, "is the header line missing", all = FALSE)
  expect_equal(nrow(fl_data(file, columns = FALSE)$table), 4)
})

test_that("infinite and huge values stop; only rows that take part are looked at", {
  table <- transform(clean_table(), endless = c(Inf, a[-1]), huge = replace(a, 7, 1e200))
  found <- check_of(table, truth = "type")
  expect_equal(found$column[found$severity == "stop"], c("endless", "huge"))
  expect_match(found$finding[1:2], "row [17] holds")
  data <- fl_set_apart(fl_data(table, truth = "type"), c(1, 7), "broken")
  expect_equal(sum(fl_check(data)$severity == "stop"), 0)
})

test_that("many findings of a kind are told in few lines, and all are in the table", {
  table <- as.data.frame(lapply(1:9, function(i) exp(withr::with_seed(i, rnorm(100, sd = 2)))), col.names = paste0("t", 1:9))
  check <- fl_check(fl_data(table))
  expect_equal(sum(check$kind == "long tail"), 9)
  lines <- format(check)
  expect_equal(sum(grepl("long right tail", lines)), 1)
  expect_match(lines, "9 columns", all = FALSE)
})

test_that("ids that do not name every row, and categories with a level a row, are found", {
  table <- clean_table()
  table$id <- c("a", "a", NA, paste0("r", 4:120))
  expect_match(planted("id", table = table, roles = list(truth = "type", id = "id"))$finding, "1 row repeats an id and 1 row has none")
  own <- factor(paste0("s", 1:120))
  expect_equal(planted("identifier", own = own, roles = list(truth = "type", features = c("a", "b", "own")))$column, "own")
})

test_that("columns that know of groups come before noise, categories among it", {
  # before, an even category of noise led
  each <- vapply(1:12, function(seed) {
    table <- withr::with_seed(seed, {
      n <- 160
      group <- sample(2 + seed %% 2, n, TRUE)
      data.frame(noise1 = sample(letters[1:2], n, TRUE), noise2 = sample(letters[1:4], n, TRUE), noise3 = rnorm(n), noise4 = rexp(n),
                 peaks = 5 * group + rnorm(n), overlaps = 2 * group + rnorm(n),
                 kind = ifelse(runif(n) < 0.8, letters[group], sample(letters[1:3], n, TRUE)))
    })
    all(utils::head(fl_sift(fl_data(table, features = names(table)))$column, 3) %in% c("peaks", "overlaps", "kind"))
  }, NA)
  expect_gte(sum(each), 11)
})

test_that("a table with one row per measurement is told, and reads as advised; tables that only look like it are left", {
  long <- expand.grid(day = format(as.Date("2025-03-01") + 0:29), station = c("outer", "sill", "narrows", "basin", "head"),
                      stringsAsFactors = FALSE)
  set.seed(4)
  long$oxygen <- round(rnorm(150, 6), 2)
  told <- function(table, ...) {
    check <- as.data.frame(fl_check(fl_data(table, ...)))
    check[check$kind == "long", ]
  }
  found <- told(long)
  expect_equal(found$severity, "warn")
  expect_match(found$finding, "5 values of station, each with up to 30 of day")
  table <- long
  advised <- eval(parse(text = sub("fl_data(", "fl_data(table, ", sub(" makes.*$", "", found$advice), fixed = TRUE)))
  expect_equal(dim(as.data.frame(advised)), c(5L, 31L))
  expect_equal(columns_of(advised, "id"), "station")
  expect_equal(nrow(told(long[-(1:20), ])), 1L)  # gaps are no reason to keep silent
  expect_equal(told(transform(long, salinity = rnorm(150)))$severity, "note")
  expect_equal(nrow(told(long[-seq_len(60), ][sample(90, 60), ])), 0L)  # too few of the pairs
  expect_equal(nrow(told(rbind(long, long[1, ]))), 0L)  # a pair twice
  for (name in fl_demos()$name) expect_equal(nrow(told(as.data.frame(fl_demo(name)))), 0L, info = name)
})
