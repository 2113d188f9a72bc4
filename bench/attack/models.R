# Saved models, damaged as they are (refused, or the same labels), and with their print made anew (anything but harm).
model_rows <- function() once("model rows", function() {
  set.seed(11)
  rows <- data.frame(v1 = rnorm(90) + 8 * rep(1:3, 30), v2 = rnorm(90), v3 = rexp(90), kind = rep(c("u", "v", "w"), 30))
  rows$v2[4] <- NA
  rows
})

whole_models <- function() once("models", function() {
  rows <- model_rows()
  numbers <- fl_data(rows, features = paste0("v", 1:3))
  every <- fl_data(rows, features = names(rows))
  ready <- list(fl_prepare(numbers, missing = "middle"), fl_prepare(numbers, reduce = 2),
                fl_prepare(every, missing = "middle"),
                fl_prepare(numbers, scale = "median_iqr", transform = c(v3 = "log"), missing = "drop"))
  fitted_by <- function(key) tryCatch(fl_partition(ready[[1]], key, k = 3), error = function(e) NULL)
  made <- c(lapply(ready[c(1, 2, 4)], fl_partition, "kmeans", k = 3),
            lapply(ready[c(1, 3)], fl_partition, "mixture", k = 3),
            lapply(c("medoids", "fuzzy", "linkage", "hdbscan", "spectral", "dbscan", "mean_shift"), fitted_by),
            list(fl_partition(ready[[3]], "mixed", k = 3)))
  lapply(Filter(Negate(is.null), made), function(groups) {
    file <- tempfile(fileext = ".json")
    fl_save(groups, file)
    list(bytes = read_bytes(file), placed = predict(fl_load(file), rows))
  })
})

placed_by <- function(bytes) {
  file <- put_bytes(bytes, "json")
  on.exit(unlink(file))
  predict(fl_load(file), model_rows(), strict = FALSE)
}

attack("models", function(number) {
  all <- whole_models()
  whole <- all[[sample(length(all), 1)]]
  lines <- strsplit(rawToChar(whole$bytes), "\n")[[1]]
  bytes <- if (number %% 2 == 0) damaged_bytes(whole$bytes) else charToRaw(paste(damaged_text(lines), collapse = "\n"))
  outcome_of(identical(placed_by(bytes), whole$placed))
}, 900)

attack("models, print made anew", function(number) {
  all <- whole_models()
  whole <- all[[sample(length(all), 1)]]
  print_anew <- getFromNamespace("with_print", "fjordline")
  text <- rawToChar(whole$bytes)
  Encoding(text) <- "UTF-8"
  outcome_of({
    placed_by(charToRaw(paste(print_anew(damaged_json(text)), collapse = "\n")))
    TRUE
  })
}, 900)
