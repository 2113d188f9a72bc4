# The suites: by name, a function that draws one table, and how it is scaled. `made(suite, number)` draws a table by its
# number: the same one every time. See bench/suites/README.md.
for (file in list.files("bench/suites", "[.]R$", full.names = TRUE)) source(file)
source("bench/recovery-tables.R")

random_turn <- function(d) if (d == 1) matrix(1) else qr.Q(qr(matrix(rnorm(d * d), d)))

# Means, spread ever wider until each two lie `apart` from each other.
places_apart <- function(k, d, apart, start = apart) {
  side <- start
  repeat {
    m <- matrix(rnorm(k * d), k) * side / sqrt(d)
    if (k == 1 || min(dist(m)) > apart) return(m)
    side <- side * 1.03
  }
}

uneven_shares <- function(k) {
  share <- if (runif(1) < 0.5) rep(1, k) else exp(rnorm(k, sd = 0.5))
  pmax(share / sum(share), 0.06)
}

shapes <- list(balls = shape_ball, boxes = shape_box, `unequal boxes` = shape_unequal_box, discs = shape_disc,
               shells = shape_shell, gamma = shape_gamma, Laplace = shape_laplace, lognormal = shape_lognormal,
               exponential = shape_exponential, bent = shape_bent, `skew by column` = shape_mixed_skew)
separated_at <- function(apart) {
  out <- lapply(shapes, function(shape) function() shaped_table(shape, runif(1, apart, apart + 1.5)))
  out <- c(out, list(rounded = function() rounded_table(apart)))
  stats::setNames(out, paste0(names(out), ", ", apart))
}
at <- function(draw, apart) {
  force(draw)
  force(apart)
  function() draw(apart)
}
old_suites <- suites
new_suites <- c(
  separated_at(7), separated_at(5),
  list(`far rows` = at(far_rows_table, 7), `noise rows` = at(noise_rows_table, 7), uneven = at(uneven_table, 7),
       `many groups` = at(many_groups_table, 7), `few rows` = at(few_rows_table, 7),
       `many rows` = at(many_rows_table, 7),
       `noise columns` = at(noise_columns_table, 7), counts = counts_table, ordinal = ordinal_table,
       `many a little` = many_a_little_table, blocks = at(blocks_table, 7), profiles = profiles_table,
       mixed = mixed_table, `weak categories` = weak_categories_table, categories = categories_table,
       entangled = entangled_table, customers = customers_table, nested = nested_table)
)
heap_suites <- c(
  stats::setNames(lapply(names(heap_kinds), function(kind) function() heap_table(kind)),
                  paste0("one: ", names(heap_kinds))),
  stats::setNames(lapply(names(heap_kinds), function(kind) function() heap_table(kind, wide = TRUE)),
                  paste0("one, wide: ", names(heap_kinds)))
)
# For the test for groups alone: what it misses.
near_suites <- c(
  `two, 3` = function() near_table(3), `two, 4` = function() near_table(4), `two, 5` = function() near_table(5),
  `a fifth, 5` = function() near_table(5, 0.2), `a fifth, 7` = function() near_table(7, 0.2),
  `a tenth, 7` = function() near_table(7, 0.1)
)
all_suites <- c(old_suites, new_suites, heap_suites, near_suites)
scale_of <- function(suite) if (suite %in% c("recipe", "far rows")) "none" else "mean_sd"

made <- function(suite, number) {
  set.seed(strtoi(substr(rlang::hash(list(sub(" scaled", "", suite), number)), 1, 7), 16L))
  all_suites[[suite]]()
}

prepared <- function(suite, table) {
  columns <- as.data.frame(table$x)
  categories <- !all(vapply(columns, is.numeric, NA))
  data <- fl_data(columns, name = suite, features = if (categories) names(columns))
  fl_prepare(data, scale = scale_of(suite))
}
