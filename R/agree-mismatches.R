# The rows on which two labelings disagree: where they lie, and what they have in common.

border_share <- 0.1  # of the agreeing rows: nearer to a border than these is near

#' The rows that disagree, and what may explain them
#'
#' Exceptions are often the finding. This lists the rows that an agreement does not match and asks two questions of
#' them:
#' * **Do they lie between groups?** For each row the distance to the nearest border of its group (the plane halfway to
#'   another centre, in scaled units), and what share of the agreeing rows lies nearer to a border than it.
#' * **Do they have a cause in common?** For each column kept aside (dates by year, month, weekday and hour too), which
#'   of its values is found among the disagreeing rows more often than chance allows. Chance is taken within each class
#'   and within each group, and the lesser evidence counts, so that a place is blamed neither for the class that lives
#'   there nor for the group its rows were put into. Counts are compared with their exact distribution, numbers by
#'   their ranks (below 30 disagreeing rows with choices drawn at random).
#'
#' @param agreement From [fl_agree()] of a partition.
#' @return An object of class `fl_mismatches`: `rows`, one row per disagreeing row, nearest to a border first (`row`,
#'   `id`, `group`, `class`, `expected`: the group its class is matched to, `toward`: the group beyond the nearest
#'   border, `border`: the distance to it, negative beyond it, `nearer`: the share of agreeing rows nearer to a border,
#'   `membership` and `silhouette` where there are any); `kinds` (`group`, `class`, `expected`, `rows`, `near`: how
#'   many are nearer to a border than nine in ten agreeing rows); `causes` (`column`, `value`, `rows`, `expected`, `z`
#'   and `p`, the latter adjusted by Holm's method for all values looked at, surest first); `agreement`.
#'   `as.data.frame()` gives `rows`.
#' @section Errors: `fjordline_error_argument` when the agreement is not one of a partition, `fjordline_error_model`
#'   for a partition loaded from a file.
#' @references
#' Mantel, N. and Haenszel, W. (1959). Statistical aspects of the analysis of data from retrospective studies of
#' disease. \doi{10.1093/jnci/22.4.719}: counts compared with chance within classes.
#'
#' Besag, J. and Clifford, P. (1991). Sequential Monte Carlo p-values. \doi{10.1093/biomet/78.2.301}
#'
#' van Elteren, P. H. (1960). On the combination of independent two-sample tests of Wilcoxon. Bulletin of the
#' International Statistical Institute 37, 351-361: ranks compared so.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' fl_mismatches(fl_agree(groups))
#' @export
fl_mismatches <- function(agreement) {
  check_made_by(agreement, "fl_agree", "agreement")
  partition <- agreement$partition
  if (is.null(partition)) {
    fl_abort("argument", "The rows that disagree are told of a partition, whose table is at hand.",
             found = "The agreement compares two vectors.", advice = "fl_agree(partition) is what is needed.")
  }
  need_rows(partition)
  borders <- border_distances(partition)
  rows <- mismatch_rows(agreement, borders)
  structure(list(rows = rows, kinds = mismatch_kinds(rows), causes = mismatch_causes(agreement), agreement = agreement),
            class = "fl_mismatches")
}

mismatch_rows <- function(agreement, borders) {
  partition <- agreement$partition
  rows <- agreement$disagree
  agreeing <- setdiff(agreement$compared, rows)
  usual <- sort(borders$border[agreeing])
  class <- agreement$labels$b[rows]
  out <- tibble::tibble(
    row = rows, id = if (is.null(partition$id)) NA_character_ else as.character(partition$id[rows]),
    group = partition$group[rows], class = class, expected = expected_groups(agreement, rows, borders$toward),
    toward = borders$toward[rows], border = borders$border[rows],
    nearer = if (length(usual) > 0L) findInterval(borders$border[rows], usual, left.open = TRUE) / length(usual)
    else NA_real_
  )
  if (is.function(partition$method$membership)) {
    shares <- row_memberships(partition)
    placed <- which(out$group > 0L)
    out$membership <- NA_real_
    out$membership[placed] <- shares[cbind(out$row[placed], out$group[placed])]
  }
  if (has_silhouettes(partition)) {
    width <- row_silhouettes(partition)
    out$silhouette <- width$silhouette[match(out$row, width$row)]
  }
  out[order(out$border, out$row), ]
}

# The group that a row's class is matched to; of several, the one beyond the nearest border, else the first.
expected_groups <- function(agreement, rows, toward) {
  groups <- split(as.integer(agreement$matched$group), agreement$matched$class)
  vapply(rows, function(row) {
    among <- groups[[agreement$labels$b[row]]]
    if (length(among) == 0L) NA_integer_ else if (toward[row] %in% among) toward[row] else among[1L]
  }, 0L)
}

mismatch_kinds <- function(rows) {
  if (nrow(rows) == 0L) {
    return(tibble::tibble(group = integer(), class = character(), expected = integer(), rows = integer(),
                          near = integer()))
  }
  kind <- paste(rows$group, rows$class, sep = "\r")
  first <- !duplicated(kind)
  near <- rows$nearer <= border_share
  out <- tibble::tibble(
    group = rows$group[first], class = rows$class[first], expected = rows$expected[first],
    rows = as.integer(table(kind)[kind[first]]),
    near = vapply(kind[first], function(k) sum(near[kind == k], na.rm = TRUE), 0L, USE.NAMES = FALSE)
  )
  out[order(-out$rows, out$group, out$class), ]
}

# For every row of the table: the distance to the nearest plane halfway between its own centre and another, as the
# metric sees rows and centres, and which group lies beyond. Noise has no border.
border_distances <- function(partition) {
  ready <- partition$ready
  seen <- seen_points(partition)
  x <- seen$x
  centres <- seen$centres
  out <- list(border = rep(NA_real_, ready$total), toward = rep(NA_integer_, ready$total))
  group <- partition$group[ready$rows]
  if (partition$k < 2L) {
    return(out)
  }
  for (g in seq_len(partition$k)) {
    mine <- which(group == g)
    others <- setdiff(seq_len(partition$k), g)
    to_border <- vapply(others, function(h) {
      way <- centres[h, ] - centres[g, ]
      middle <- (centres[h, ] + centres[g, ]) / 2
      length <- sqrt(sum(way^2))
      before <- drop((rep(middle, each = length(mine)) - x[mine, , drop = FALSE]) %*% way)
      if (length == 0) 0 * before else before / length
    }, double(length(mine)))
    to_border <- matrix(to_border, length(mine))
    nearest <- max.col(-to_border, ties.method = "first")
    out$border[ready$rows[mine]] <- to_border[cbind(seq_along(mine), nearest)]
    out$toward[ready$rows[mine]] <- others[nearest]
  }
  out
}

# Columns kept aside, asked one value at a time.
mismatch_causes <- function(agreement) {
  partition <- agreement$partition
  data <- partition$ready$data
  compared <- agreement$compared
  wrong <- compared %in% agreement$disagree
  group <- agreement$labels$a[compared]
  class <- agreement$labels$b[compared]
  columns <- setdiff(columns_of(data, "aside"), agreement$b)
  asked <- unlist(lapply(columns, function(column) {
    askable_values(column, data$table[[column]][compared])
  }), recursive = FALSE)
  tested <- lapply(asked, function(one) {
    excess <- excess_of_both(one$score, wrong, group, class)
    if (is.null(excess)) {
      return(NULL)
    }
    way <- if (is.null(one$value)) if (excess$z > 0) "larger" else "smaller" else one$value
    tibble::tibble(column = one$column, value = way,
                   rows = if (is.null(one$value)) NA_real_ else sum(one$score[wrong], na.rm = TRUE),
                   expected = if (is.null(one$value)) NA_real_ else excess$expected, z = excess$z, p = excess$p)
  })
  out <- vctrs::vec_rbind(!!!tested)
  if (NROW(out) == 0L) {
    return(tibble::tibble(column = character(), value = character(), rows = double(), expected = double(), z = double(),
                          p = double()))
  }
  out$p <- stats::p.adjust(out$p, "holm")
  out[order(out$p, -abs(out$z)), ]
}

# Rows of a class that lie in another group have the values of that group: a value is in excess only where it is so both
# within the classes and within the groups, the same way. The lesser evidence counts.
excess_of_both <- function(score, wrong, group, class) {
  within <- list(excess_within(score, wrong, class), excess_within(score, wrong, group))
  if (any(lengths(within) == 0L)) {
    return(NULL)
  }
  weaker <- within[[which.max(vapply(within, `[[`, 0, "p"))]]
  if (sign(within[[1L]]$z) != sign(within[[2L]]$z)) weaker$p <- 1
  weaker
}

# What can be asked of a column: of numbers whether they are large, of anything else each of its values. Dates are
# numbers, and their parts are asked by value.
askable_values <- function(column, values) {
  by_value <- function(name, values, most = 30L) {
    found <- names(utils::head(sort(table(values), decreasing = TRUE), most))
    lapply(found, function(one) list(column = name, value = one, score = as.double(values == one)))
  }
  if (inherits(values, c("Date", "POSIXt"))) {
    parts <- c("year", "month", "weekday", if (inherits(values, "POSIXt")) "hour")
    return(c(list(list(column = column, score = as.double(values))),
             unlist(lapply(parts, function(part) by_value(paste(column, part), format(values, date_parts[[part]]))),
                    recursive = FALSE)))
  }
  if (is.numeric(values) && length(unique(stats::na.omit(values))) > 2L) {
    return(list(list(column = column, score = as.double(values))))
  }
  by_value(column, as.character(values))
}

#' @export
as.data.frame.fl_mismatches <- function(x, ...) x$rows
