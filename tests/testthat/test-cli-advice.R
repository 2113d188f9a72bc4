# What R advises, as options of the shell.

test_that("settings become options, as they would be typed; the rest of the sentence stays", {
  said <- c(
    'fl_data(types = list(joined = "%d.%m.%Y"))' = "--types joined=%d.%m.%Y",
    'else outliers = "winsorise" or "drop"' = "else --outliers winsorise or drop",
    'truth = "channel", or name it in features' = "--truth channel, or name it in --features",
    'reduce = 0.95 joins them; or keep one' = "--reduce 0.95 joins them; or keep one",
    'choose columns with use; if so: fl_data(flip = TRUE)' = "choose columns with --use; if so: --flip",
    'fl_data(columns = FALSE), or the row is lost' = "--columns none, or the row is lost",
    'aside = c("a b", "c"), or weights = c(a = 0.71, `b c` = 0.71)' = "--aside 'a b,c', or --column-weights 'a=0.71,b c=0.71'",
    'fl_data(types = list(ice = c("low", "high"))).' = "--types 'ice=low<high'.",
    "give all names with `columns`." = "give all names with --columns.",
    "nothing to turn: mean_sd = 3" = "nothing to turn: mean_sd = 3"
  )
  for (advice in names(said)) expect_equal(in_shell(advice), said[[advice]])
})

test_that("no advice of the check speaks R in the shell, and a piece of it runs as it stands", {
  file <- withr::local_tempfile(fileext = ".csv")
  set.seed(2)
  day <- format(as.Date("2025-01-01") + seq_len(80), "%d.%m.%Y")
  odd <- data.frame(id = sprintf("s%02d", 1:80), day = day, a = rnorm(80), b = exp(rnorm(80, sd = 2)), kind = c("x", "y"))
  odd$copy <- odd$a + rnorm(80, sd = 0.01)
  odd$a[3:5] <- NA
  write.csv(odd, file, row.names = FALSE)
  run <- in_session("check", file)
  advice <- paste(run$out, collapse = " ")
  expect_match(advice, "--types day=%d.%m.%Y", fixed = TRUE)
  expect_no_match(advice, "fl_(data|prepare|sift)\\(| = c\\(| = \"")
  expect_equal(in_session("check", file, "--types", "day=%d.%m.%Y", "--missing", "nearest")$status, 0)
})

test_that("a table of measurements is widened on the way in, and errors name the option", {
  file <- withr::local_tempfile(fileext = ".csv")
  set.seed(3)
  long <- expand.grid(day = 1:6, station = sprintf("s%02d", 1:40))
  long$count <- rpois(240, ifelse(long$station %in% sprintf("s%02d", 1:20), 5, 60))
  write.csv(long, file, row.names = FALSE)
  out <- withr::local_tempfile(fileext = ".csv")
  run <- in_session("group", file, "--widen", "station,day,count", "--k", "2", "--out", out)
  expect_equal(run$status, 0)
  expect_equal(as.vector(table(read.csv(out)$group)), c(20L, 20L))
  wrong <- in_session("check", file, "--widen", "station,day")
  expect_equal(wrong$status, 2)
  expect_match(wrong$err, "--widen cast,depth,salinity", all = FALSE, fixed = TRUE)
})
