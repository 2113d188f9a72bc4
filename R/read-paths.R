# Which rows fall where, as a short decision tree.

paths_most_rows <- 20000L
paths_most_levels <- 10L  # more are put in an order first: all their divisions would be too many to look at

#' The groups as a few plain rules
#'
#' Grows a small classification tree (Breiman et al. 1984) that repeats the groups from the columns themselves, in their
#' own units, and says how faithfully it does so: on the rows it was grown from and on rows it had not seen. The rules
#' describe the groups; they do not define them. Above 20,000 rows they are made and counted on an even sample of so
#' many.
#'
#' @param partition From [fl_partition()], [fl_take()] or [fl_adopt()].
#' @param columns Names of the columns the rules may use; left out, the features of the preparation. Columns kept aside
#'   show whether the groups can be told from something else.
#' @param most_rules How many rules (leaves of the tree) at most. The smallest tree within one standard error of the
#'   best by cross-validation is taken among those, but one that tells every group apart is preferred where there is
#'   one of that size.
#' @param seed Whole number for the ten parts of the cross-validation.
#' @return An object of class `fl_paths`: `rules` (`rule`, `group`, `condition`, `rows` it covers, `right`: how many of
#'   them are in the group, `share`: right of rows, `found`: right of the group's rows), `fidelity` (`within`: the share
#'   of rows whose group the tree gives; `unseen`: the same for rows left out in ten turns; `largest`: the share of the
#'   largest group, which no rule at all would get right), `missed` (groups that no rule gives), `tree` (from rpart),
#'   `columns`. `as.data.frame()` gives `rules`.
#' @section Errors: `fjordline_error_argument` for a partition of one group, `fjordline_error_column` for a misspelt
#'   column or one that cannot be used, `fjordline_error_values` when rows with values lie in one group only.
#' @section Columns: Numbers are asked for limits, dates for days, categories for their values. A category of more than
#'   10 values is first put in the order in which its values' shares of the groups lie along their main direction
#'   (Coppersmith, Hong and Hosking 1999), and divided along that.
#' @references Coppersmith, D., Hong, S. J. and Hosking, J. R. M. (1999). Partitioning nominal attributes in decision
#'   trees. \doi{10.1023/A:1009869804967}
#'
#'   Breiman, L., Friedman, J. H., Olshen, R. A. and Stone, C. J. (1984). Classification and Regression
#'   Trees. Wadsworth.
#' @examples
#' groups <- fl_partition(fl_prepare(fl_demo("water_samples"), transform = c(turbidity = "log")), k = 5)
#' fl_paths(groups)
#' @export
fl_paths <- function(partition, columns = NULL, most_rules = max(8, 2 * partition$k), seed = 1) {
  check_made_by(partition, "fl_partition", "partition")
  need_rows(partition)
  need_groups(partition)
  check_seed(seed)
  if (partition$k < 2L) {
    fl_abort("argument", "One group has no paths that lead to it: every row is in it.")
  }
  check_whole(most_rules, "most_rules", least = 2)
  columns <- path_columns(partition, columns)
  table <- path_table(partition, columns, seed)
  folds <- path_folds(table$.group, seed)
  grown <- grow_tree(table, folds)
  tree <- short_tree(grown, most_rules, nlevels(table$.group))
  rules <- tree_rules(tree, table, columns, partition$ready$units)
  structure(
    list(rules = rules, fidelity = tree_fidelity(tree, table, folds),
         missed = setdiff(seq_len(partition$k), rules$group),
         tree = tree, columns = columns, partition = partition,
         sampled = attr(table, "sampled"),
         left_out = sum(partition$group %in% 0L) + valueless_rows(partition, columns), seed = seed,
         call = code_call("fl_paths", verbatim("groups"),
                          columns = if (!identical(columns, partition$ready$features)) columns,
                          most_rules = most_rules, seed = seed)),
    class = "fl_paths"
  )
}

path_columns <- function(partition, columns) {
  data <- partition$ready$data
  if (is.null(columns)) {
    return(partition$ready$features)
  }
  columns <- check_columns(columns, data$table, "columns", data$name)
  for (column in columns) {
    values <- data$table[[column]]
    if (!is.numeric(values) && !inherits(values, c("Date", "POSIXt")) &&
          length(unique(values)) > profile_levels) {
      fl_abort("column", paste0("Column ", quoted(column), " cannot be used in rules."),
               found = paste0("It holds no numbers and ", thousands(length(unique(values))), " different values."))
    }
  }
  columns
}

# Rows with a group that have no value in any of the columns.
valueless_rows <- function(partition, columns) {
  lacking <- Reduce(`&`, lapply(partition$ready$data$table[columns], is.na))
  sum(lacking & partition$group > 0L, na.rm = TRUE)
}

# The columns under plain names, which any column name can stand behind.
path_table <- function(partition, columns, seed = 1) {
  # a row without any of the values cannot be asked anything
  valued <- !Reduce(`&`, lapply(partition$ready$data$table[columns], is.na))
  rows <- which(partition$group > 0L & valued)
  if (length(unique(partition$group[rows])) < 2L) {
    fl_abort("values", paste0("Rules need rows of two groups or more that have a value of ",
                             listed(columns, "or"), "."),
             found = paste0(counted(length(rows), "row"), " with a group and a value, ",
                            if (length(rows) > 0L) "all of one group." else "none at all."))
  }
  drawn <- rows[sampled_rows(length(rows), paths_most_rows, seed)]
  plain <- as.list(partition$ready$data$table[drawn, columns, drop = FALSE])
  out <- asked_table(plain, factor(partition$group[drawn]))
  attr(out, "sampled") <- length(drawn) < length(rows)
  attr(out, "plain") <- plain
  out
}

# `plain`: a list of columns.
asked_table <- function(plain, group) {
  asked <- lapply(plain, asked_values, group = group)
  names(asked) <- paste0("c", seq_along(asked))
  out <- data.frame(.group = group, lapply(asked, `[[`, "values"))
  attr(out, "forms") <- lapply(asked, `[[`, "form")
  out
}

# What the tree sees of a column, and how its limits are said again.
asked_values <- function(values, group) {
  if (inherits(values, c("Date", "POSIXt"))) {
    said <- function(v) {
      if (inherits(values, "Date")) format(as.Date(v, origin = "1970-01-01"))
      else format(as.POSIXct(v, origin = "1970-01-01", tz = attr(values, "tzone")[1L] %||% ""))
    }
    return(list(values = as.double(values), form = list(kind = "date", said = said)))
  }
  if (is.numeric(values)) {
    return(list(values = ifelse(is.finite(values), as.double(values), NA_real_), form = list(kind = "number")))
  }
  levels <- factor(as.character(values))
  if (nlevels(levels) <= paths_most_levels) {
    return(list(values = levels, form = list(kind = "levels", levels = levels(levels))))
  }
  order <- levels(levels)[level_order(levels, group)]
  list(values = match(as.character(levels), order), form = list(kind = "ordered", levels = order))
}

# Levels by where their shares of the groups lie along their main direction.
level_order <- function(levels, group) {
  counts <- unclass(base::table(levels, group))
  shares <- counts / rowSums(counts)
  middle <- colSums(counts) / sum(counts)
  axes <- svd(sqrt(rowSums(counts)) * (shares - rep(middle, each = nrow(shares))), nu = 0L, nv = 1L)
  order((shares - rep(middle, each = nrow(shares))) %*% axes$v)
}

# Ten parts with about the same share of every group.
path_folds <- function(group, seed) {
  out <- integer(length(group))
  for (g in levels(group)) {
    mine <- which(group == g)
    mine <- mine[order(uniform_numbers(length(mine), derived_seed(seed, 31, as.integer(g))))]
    out[mine] <- rep_len(seq_len(10L), length(mine))
  }
  out
}

grow_tree <- function(table, folds) {
  settings <- rpart::rpart.control(minsplit = 10L, minbucket = max(2L, min(5L, min(table(table$.group)))), cp = 5e-4,
                                   maxsurrogate = 2L, xval = folds, maxdepth = 10L)
  rpart::rpart(.group ~ ., table, method = "class", control = settings)
}

# The smallest tree within a standard error of the best that has few enough leaves; a tree that tells every group apart
# goes before one that does not.
short_tree <- function(tree, most_rules, k) {
  if (nrow(tree$frame) == 1L) {
    return(tree)
  }
  steps <- tree$cptable
  leaves <- steps[, "nsplit"] + 1
  few <- which(leaves <= most_rules)
  best <- few[which.min(steps[few, "xerror"])]
  fine <- few[steps[few, "xerror"] <= steps[best, "xerror"] + steps[best, "xstd"]]
  pruned <- function(at) rpart::prune(tree, cp = steps[at, "CP"] * 1.0000001)
  first <- pruned(fine[1L])
  for (at in few[few >= fine[1L]]) {
    candidate <- pruned(at)
    if (length(unique(leaf_groups(candidate))) == k) {
      return(candidate)
    }
  }
  first
}

leaf_groups <- function(tree) tree$frame$yval[tree$frame$var == "<leaf>"]

tree_fidelity <- function(tree, table, folds) {
  given <- stats::predict(tree, table, type = "class")
  wrong_alone <- mean(table$.group != names(which.max(table(table$.group))))
  size <- nrow(tree$cptable)
  alone <- nrow(tree$frame) == 1L  # then nothing was left out in turns
  ordered <- any(vapply(attr(table, "forms"), `[[`, "", "kind") == "ordered")
  list(within = mean(given == table$.group),
       unseen = if (alone) 1 - wrong_alone
       else if (ordered) unseen_with_order(table, folds, tree$cptable[size, "nsplit"])
       else 1 - tree$cptable[size, "xerror"] * wrong_alone,
       largest = 1 - wrong_alone)
}

# Many levels are put in an order by the groups of the rows: in each turn by those of the rows that are not left out.
# The trees are cut to as many splits.
unseen_with_order <- function(table, folds, splits) {
  plain <- attr(table, "plain")
  right <- lapply(unique(folds), function(fold) {
    out <- folds == fold
    seen <- asked_table(lapply(plain, `[`, !out), droplevels(table$.group[!out]))
    grown <- grow_tree(seen, 0L)
    steps <- grown$cptable
    tree <- rpart::prune(grown, cp = steps[max(which(steps[, "nsplit"] <= splits)), "CP"] * 1.0000001)
    left <- Map(values_as_asked, lapply(plain, `[`, out), attr(seen, "forms"))
    given <- stats::predict(tree, data.frame(stats::setNames(left, names(attr(seen, "forms")))), type = "class")
    as.character(given) == as.character(table$.group[out])
  })
  mean(unlist(right))
}

# A level that was not seen is missing.
values_as_asked <- function(values, form) {
  switch(form$kind, ordered = match(as.character(values), form$levels),
         levels = factor(as.character(values), form$levels),
         number = ifelse(is.finite(values), as.double(values), NA_real_), date = as.double(values))
}

# --- rules

tree_rules <- function(tree, table, columns, units) {
  frame <- tree$frame
  leaves <- which(frame$var == "<leaf>")
  splits <- tree_splits(tree, table)
  group <- as.integer(levels(table$.group)[frame$yval[leaves]])
  inside <- split(table$.group, factor(tree$where, leaves))
  right <- unname(mapply(function(labels, g) sum(labels == g), inside, group))
  rows <- unname(lengths(inside))
  sizes <- base::table(table$.group)
  out <- tibble::tibble(
    rule = NA_integer_, group = group,
    condition = vapply(as.integer(rownames(frame)[leaves]), leaf_condition, "", splits = splits, columns = columns,
                       units = units),
    rows = rows, right = as.integer(right), share = right / rows, found = right / as.integer(sizes[as.character(group)])
  )
  out <- out[order(out$group, -out$right), ]
  out$rule <- seq_len(nrow(out))
  out
}

# By node: the column it asks, and the limit, or the levels that go left and right. Limits are rounded as far as no row
# changes sides.
tree_splits <- function(tree, table) {
  frame <- tree$frame
  inner <- frame$var != "<leaf>"
  first <- cumsum(c(1L, frame$ncompete + frame$nsurrogate + inner))[seq_len(nrow(frame))]
  out <- lapply(which(inner), function(i) {
    split <- tree$splits[first[i], ]
    column <- as.character(frame$var[i])
    form <- attr(table, "forms")[[column]]
    if (form$kind == "ordered") {
      below <- seq_along(form$levels) < split[["index"]]
      left <- if (split[["ncat"]] < 0) below else !below
      return(list(column = column, all = form$levels, left = form$levels[left], right = form$levels[!left]))
    }
    if (abs(split[["ncat"]]) < 2) {
      # of dates the first on the upper side is said
      cut <- if (form$kind == "date") min(table[[column]][table[[column]] >= split[["index"]]], na.rm = TRUE)
      else short_cut(split[["index"]], table[[column]])
      return(list(column = column, cut = cut, said = form$said, below_is_left = split[["ncat"]] < 0))
    }
    sides <- tree$csplit[split[["index"]], ]
    levels <- attr(tree, "xlevels")[[column]]
    sides <- sides[seq_along(levels)]
    list(column = column, all = levels, left = levels[sides == 1L], right = levels[sides == 3L])
  })
  stats::setNames(out, rownames(frame)[inner])
}

# The shortest number that parts the values as `cut` does: below it, and from it on.
short_cut <- function(cut, values) {
  values <- values[!is.na(values)]
  below <- max(values[values < cut], -Inf)
  from <- min(values[values >= cut], Inf)
  for (digits in 2:15) {
    short <- signif(cut, digits)
    if (short > below && short <= from) {
      return(short)
    }
  }
  cut
}

# The conditions on the way to a leaf; of several limits of a column the narrowest.
leaf_condition <- function(node, splits, columns, units) {
  way <- list()
  while (node > 1L) {
    split <- splits[[as.character(node %/% 2L)]]
    split$goes_left <- node %% 2L == 0L
    way <- c(list(split), way)
    node <- node %/% 2L
  }
  if (length(way) == 0L) {
    return("any row")
  }
  asked <- vapply(way, `[[`, "", "column")
  said <- vapply(unique(asked), function(one) {
    column_condition(columns[as.integer(sub("c", "", one))], way[asked == one], units)
  }, "")
  paste(said, collapse = " and ")
}

column_condition <- function(column, splits, units = NULL) {
  if (is.null(splits[[1L]]$cut)) {
    return(level_condition(column, splits))
  }
  below <- vapply(splits, function(s) if (s$goes_left == s$below_is_left) s$cut else Inf, 0)
  from <- vapply(splits, function(s) if (s$goes_left != s$below_is_left) s$cut else -Inf, 0)
  as_date <- splits[[1L]]$said
  if (!is.null(as_date)) {
    return(date_condition(column, max(from), min(below), as_date))
  }
  unit <- if (isFALSE(is.na(units[column]))) paste0(" ", units[column])
  number <- function(v) {
    paste0(format(v, digits = 15L, big.mark = ",", scientific = abs(v) >= 1e15 || v != 0 && abs(v) < 1e-5), unit)
  }
  if (any(is.finite(from)) && any(is.finite(below))) {
    paste0(column, " from ", number(max(from)), " to below ", number(min(below)))
  } else if (any(is.finite(from))) paste0(column, " of ", number(max(from)), " or more")
  else paste0(column, " below ", number(min(below)))
}

date_condition <- function(column, from, below, said) {
  if (is.finite(from) && is.finite(below)) paste0(column, " from ", said(from), " to before ", said(below))
  else if (is.finite(from)) paste0(column, " from ", said(from), " on")
  else paste0(column, " before ", said(below))
}

# Most of the levels are said by those that are not among them.
level_condition <- function(column, splits) {
  all <- unique(unlist(lapply(splits, `[[`, "all")))
  levels <- Reduce(intersect, lapply(splits, function(s) if (s$goes_left) s$left else s$right))
  others <- setdiff(all, levels)
  if (length(levels) > 2L && length(others) < length(levels)) paste0(column, " is not ", listed(quoted(others), "or"))
  else paste0(column, " is ", listed(quoted(levels), "or"))
}

#' @export
as.data.frame.fl_paths <- function(x, ...) x$rules

# --- sentences

#' @export
fl_facts.fl_paths <- function(x) {
  f <- x$fidelity
  c(
    paste0(capital(spelt_count(nrow(x$rules), "rule")), " give", if (nrow(x$rules) == 1L) "s", " the right group to ",
           percent(f$within), " of the rows (", percent(f$unseen), " of rows the rules had not seen; the largest ",
           "group alone is ", percent(f$largest), ")."),
    vapply(seq_len(nrow(x$rules)), function(i) rule_fact(x$rules[i, ], x$partition), ""),
    if (length(x$missed) > 0L) paste0("No rule leads to ", groups_said(x$partition, x$missed), "."),
    if (x$sampled) paste0("Made and counted on an even sample of ", counted(paths_most_rows, "row"), "."),
    if (x$left_out > 0L) {
      paste0(counted(x$left_out, "row"), " of noise or without any of these values left out.")
    },
    if (nrow(x$rules) == 1L) "No question about these columns tells the groups apart."
    else if (f$unseen < 0.8) "Rules this short do not repeat the groups well: read them as a rough map.",
    if (!setequal(x$columns, x$partition$ready$features)) {
      paste0("The rules use ", listed(x$columns), ", which need not be what made the groups.")
    }
  )
}

rule_fact <- function(rule, partition) {
  paste0(capital(rule$condition), ": ", group_said(partition, rule$group), " (", thousands(rule$right), " of ",
         counted(rule$rows, "row"), "; ", percent(rule$found), " of the group).")
}
