# What each group is like, column by column, and which columns tell the groups apart.

standout_limits <- c(higher = 0.5, `much higher` = 1)  # in overall standard deviations
profile_levels <- 30L  # a column with more different values is not described level by level

#' What the groups are like
#'
#' Describes every group on every column that can be described, features and columns kept aside (a feature of the
#' table that the preparation does not use counts as kept aside): means, medians
#' and spreads in the table's own units, shares of categories, and what is distinctly above or below the whole table.
#' Then it ranks the columns by how well they tell the groups apart, and audits the features: which of them decide.
#'
#' @section What stands out: A number stands out when its group mean lies 0.5 overall standard deviations or more from
#'   the overall mean, "much" from 1 on; transformed features are compared as transformed. A level of a category is a
#'   number that is 0 or 1.
#' @section Tests: The groups were made from the features, so features differ between them in any case, and the plain
#'   test (`p_plain`: analysis of variance, or chi-squared) proves nothing. `p_beyond` allows for that: `sets` tables
#'   of one cluster with the table's own covariance, and as many with the columns' own shapes, are cut into as many
#'   groups by the same method, and the p-value is how often the feature's share of spread between groups is as large
#'   there (the larger of the two; in the manner of Liu et al. 2008, by feature). The columns' own shapes are
#'   distributions with a single peak near theirs (Hartigan and Hartigan 1985), tied together by a Gaussian copula, so
#'   that flat, skewed and discrete columns are compared with their like. A small p-value says that the feature differs
#'   between groups by more than cutting one such cluster in pieces explains. It is not adjusted for the number of
#'   features, and missing for methods that find the count themselves, for mixtures (which fit this table closer than
#'   any reference table), for components, categories, ranks and columns of seven values or fewer.
#'   Columns kept aside did not make the groups; their plain test is honest, as far as they are not copies of features.
#'   Up to 5,000 rows its p-value comes from dealing the values out to the groups anew (Pitman 1937), up to 1,999 times;
#'   of categories where chi-squared is rough (Cochran 1954). Infinite values of columns kept aside count as missing.
#' @section Deciding columns: `explained` is a feature's between-group share of its own spread, `between` its share of
#'   all spread between groups, `without` the adjusted Rand index with the partition fitted without it. A feature
#'   decides that holds more than 0.6 of `between`, or without which the index falls below 0.5, if its loss moves the
#'   groups more than any of 19 bootstrap samples of the rows does (fitted with the model as chosen) and `p_beyond`,
#'   where there is one, is at most 0.05. Missing where the partition was not fitted again.
#' @param partition From [fl_partition()], [fl_take()] or [fl_adopt()]; or new rows placed by [fl_place()].
#' @param sets How many tables of one cluster of each kind to draw for the tests of features; 0 leaves them out. Above
#'   1,000 rows they have that many rows.
#' @param audit `TRUE` fits the partition once more without each feature (up to 50 features, with at most ten restarts;
#'   above 2,000 rows on an even sample of that many, with and without); `FALSE` does not.
#' @param seed Whole number for the reference tables.
#' @return An object of class `fl_profile`: `groups` (`group`, `rows`, `share`, `tightness`: mean distance to the own
#'   centre in scaled units (under cosine and correlation between directions), `nearest`: the group whose centre is
#'   nearest, `isolation`: the distance to it, `standouts` in words), `columns` (one row per group and column or level:
#'   `group`, `column`, `level`, `role`, `rows` with a value, `mean` (of a level: its share), `median`, `low`, `high`
#'   (quartiles), `sd`, `overall` mean, `difference` in overall standard deviations, `standout`), `separation` (a row a
#'   column: `column`, `role`, `test`, `statistic`, `effect`: eta squared or Cramer's V, `p_plain`, `p_beyond`,
#'   `explained`, `between`, `without`, `decides`). `as.data.frame()` gives `columns`.
#' @section Errors: `fjordline_error_model` for a partition loaded from a file.
#' @references
#' Liu, Y., Hayes, D. N., Nobel, A. and Marron, J. S. (2008). Statistical significance of clustering for high-dimension,
#' low-sample size data. \doi{10.1198/016214508000000454}
#'
#' Hartigan, J. A. and Hartigan, P. M. (1985). The dip test of unimodality. \doi{10.1214/aos/1176346577}
#'
#' Cramer, H. (1946). Mathematical Methods of Statistics. Princeton University Press.
#'
#' Pitman, E. J. G. (1937). Significance tests which may be applied to samples from any populations.
#' \doi{10.2307/2984124}
#'
#' Cochran, W. G. (1954). Some methods for strengthening the common chi-squared tests. \doi{10.2307/3001616}
#' @seealso [fl_rows()] for the rows themselves, [fl_agree()] for known classes.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' profile <- fl_profile(groups)
#' profile
#' profile$separation
#' @export
fl_profile <- function(partition, sets = 99, audit = TRUE, seed = 1) {
  if (inherits(partition, "fl_place")) partition <- fl_adopt(partition)
  check_made_by(partition, "fl_partition", "partition")
  need_rows(partition)
  need_groups(partition)
  check_whole(sets, "sets", least = 0)
  check_flag(audit, "audit")
  check_seed(seed)
  described <- described_columns(partition$ready, except = partition$labelled_by)
  group <- partition$group[partition$ready$rows]
  columns <- vctrs::vec_rbind(!!!lapply(described, describe_column, group = group, k = partition$k))
  structure(
    list(groups = profile_groups(partition, columns), columns = columns,
         separation = column_separation(partition, described, sets, audit, seed), partition = partition,
         sets = sets, audited = audit,
         call = code_call("fl_profile", verbatim("groups"), sets = if (sets != 99) sets, audit = if (!audit) audit,
                          seed = seed)),
    class = "fl_profile"
  )
}

# The columns that can be described: values of the clustered rows as the table has them, and `compared`, as they are
# compared between groups: a transformed feature as transformed.
described_columns <- function(ready, except = NULL) {
  roles <- ready$data$roles[!ready$data$roles$column %in% except, ]
  used <- ready$features
  # a feature that this preparation does not use did not make the groups either
  roles <- roles[roles$role %in% c("feature", "aside"), ]
  prepared <- before_components(ready)
  out <- lapply(seq_len(nrow(roles)), function(i) {
    column <- roles$column[i]
    values <- ready$data$table[[column]][ready$rows]
    if (is.numeric(values)) values[!is.finite(values)] <- NA
    if (all(is.na(values))) {
      return(NULL)
    }
    role <- if (column %in% used) "feature" else "aside"
    if (is.numeric(values)) {
      as_compared <- if (column %in% colnames(prepared)) prepared[, column] else as.double(values)
      return(list(column = column, role = role, number = TRUE, values = as.double(values), compared = as_compared))
    }
    text <- as.character(values)
    if (inherits(values, c("Date", "POSIXt")) || length(unique(text)) > profile_levels) {
      return(NULL)
    }
    list(column = column, role = role, number = FALSE, values = text, levels = levels(in_level_order(values)))
  })
  Filter(Negate(is.null), out)
}

describe_column <- function(one, group, k) {
  if (one$number) {
    return(describe_number(one, one$values, one$compared, NA_character_, group, k))
  }
  vctrs::vec_rbind(!!!lapply(told_levels(one$levels), function(level) {
    found <- as.double(one$values == level)
    describe_number(one, found, found, level, group, k)
  }))
}

# The values that occur: of a factor in its order, else by name.
in_level_order <- function(values) if (is.factor(values)) droplevels(values) else factor(values)

# Of yes and no, yes tells all.
told_levels <- function(levels) if (identical(levels, c("FALSE", "TRUE"))) "TRUE" else levels

# A level is described by its share alone.
describe_number <- function(one, values, compared, level, group, k) {
  spread <- spread_of(stats::na.omit(compared))
  by_group <- function(how, of = values) {
    vapply(seq_len(k), function(g) {
      v <- of[group == g & !is.na(of)]
      if (length(v) == 0L) NA_real_ else how(v)
    }, 0)
  }
  number <- is.na(level)
  quartile <- function(p) function(v) stats::quantile(v, p, names = FALSE, type = 7L)
  missing <- rep(NA_real_, k)
  with_value <- vapply(seq_len(k), function(g) sum(group == g & !is.na(values)), 0L)
  difference <- if (spread > 0) (by_group(mean, compared) - mean(compared, na.rm = TRUE)) / spread else rep(0, k)
  tibble::tibble(
    group = seq_len(k), column = one$column, level = level, role = one$role,
    rows = with_value, mean = by_group(mean),
    median = if (number) by_group(stats::median) else missing, low = if (number) by_group(quartile(0.25)) else missing,
    high = if (number) by_group(quartile(0.75)) else missing, sd = if (number) by_group(spread_or_none) else missing,
    overall = mean(values, na.rm = TRUE), difference = difference, standout = standout_way(difference, number)
  )
}

spread_or_none <- function(v) if (length(v) < 2L) NA_real_ else spread_of(v)

standout_way <- function(difference, number) {
  up <- difference > 0
  way <- if (number) ifelse(up, "higher", "lower") else ifelse(up, "more often", "less often")
  size <- abs(difference)
  way <- paste0(ifelse(size >= standout_limits[["much higher"]], "much ", ""), way)
  ifelse(is.na(size) | size < standout_limits[["higher"]], "", way)
}

profile_groups <- function(partition, columns) {
  k <- partition$k
  seen <- seen_points(partition)
  centres <- seen$centres
  group <- partition$group[partition$ready$rows]
  apart <- vapply(seq_len(k), function(g) sqrt(colSums((t(centres) - centres[g, ])^2)), double(k))
  apart <- matrix(apart, k)
  diag(apart) <- Inf
  tightness <- vapply(seq_len(k), function(g) {
    mean(sqrt(colSums((t(seen$x[group == g, , drop = FALSE]) - centres[g, ])^2)))
  }, 0)
  alone <- k < 2L
  nearest <- if (alone) NA_integer_ else max.col(-apart, ties.method = "first")
  tibble::tibble(
    group = seq_len(k), rows = partition$groups$rows, share = partition$groups$share,
    tightness = tightness,
    nearest = nearest, isolation = if (alone) NA_real_ else apart[cbind(seq_len(k), nearest)],
    standouts = vapply(seq_len(k), function(g) profile_words(columns[columns$group == g, ]), "")
  )
}

# The strongest features first; what was kept aside is told apart from them.
profile_words <- function(mine, most = 3L) {
  mine <- mine[mine$role == "feature" & nzchar(mine$standout), ]
  mine <- utils::head(mine[order(-abs(mine$difference)), ], most)
  listed(paste(mine$standout, level_said(mine$column, mine$level)))
}

level_said <- function(column, level) {
  ifelse(is.na(level) | level %in% "TRUE", column, paste(column, quoted(level)))
}

# One row per column, the one that tells the groups apart best first.
column_separation <- function(partition, described, sets, audit, seed) {
  group <- partition$group[partition$ready$rows]
  tests <- lapply(described, function(one) {
    test <- if (one$number) list(feature = variance_test, aside = dealt_variance_test)
    else list(feature = table_test, aside = dealt_table_test)
    values <- if (one$number) one$compared else one$values
    found <- if (one$role == "aside") test$aside(values, group, seed) else test$feature(values, group)
    tibble::tibble(column = one$column, role = one$role, test = if (one$number) "F" else "chi-squared",
                   statistic = found$statistic, effect = found$effect, p_plain = found$p)
  })
  out <- vctrs::vec_rbind(!!!tests)
  beyond <- if (sets > 0) with_bar(one_cluster_tests(partition, sets, seed))
  out$p_beyond <- if (is.null(beyond)) NA_real_ else unname(beyond[out$column])
  audited <- column_audit(partition, audit)
  out <- cbind(out, audited[match(out$column, audited$column), c("explained", "between", "without", "decides")])
  # a column along which one cluster is cut decides where it is cut, not that there are groups
  out$decides <- out$decides & !(out$p_beyond > 0.05) %in% TRUE
  tibble::as_tibble(out[order(-out$effect), ])
}

#' @export
as.data.frame.fl_profile <- function(x, ...) x$columns
