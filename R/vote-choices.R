# The map of choices: which groups come out whatever is chosen, and which choice matters most.

#' Which groups do not depend on your choices
#'
#' Compares all partitions of a sweep, over its preparations, columns, methods, counts and seeds, on the rows they have
#' in common: how far each choice alone moves the result, which groups are found again whatever is chosen, and which
#' rows no choice divides. A conclusion that holds under every reasonable choice needs no defence of any of them.
#'
#' @param sweep From [fl_sweep()], or [fl_open()] for a table of a study.
#' @param k The counts to compare. Left out, those that a vote names: of each method on each preparation,
#'   or of several methods together.
#' @return An object of class `fl_choices` with fields
#'   * `shares`: one row per choice: `choice` (`method`, `count`, `preparation`, `columns`, `seed`), `tried`, `alone`
#'     (the share of the differences between partitions that the choice explains by itself) and `involved` (the share
#'     in which it has a part, alone or together with others: what stays when all others are held). Columns are a part
#'     of the preparation. Where other seeds were tried, what each choice would get by chance is taken off; else chance
#'     is part of the shares. `combinations` is the share that no choice explains by itself.
#'   * `groups`: one row per group of the most central partition: `group`, `rows`, `share`, `found_again` (share of the
#'     other partitions that have it), `least` (its least Jaccard overlap, rows in both out of rows in either),
#'     and `lost_by`, the choice under which it is mostly lost.
#'   * `rows`: one row per common row: `row`, `id`, `group`, `stays` (share of the other partitions in which it stays
#'     with its group), `block` (rows with the same number are together in every partition; 0: with none).
#'   * `fits`: one row per partition: `preparation`, `columns`, `method`, `k`, `parameter`, `repeat`, `apart` (mean
#'     share of pairs of rows on which it differs from the others).
#'   * `overlaps`: groups by partitions, the overlap with the most similar group there.
#'   * `distances` (between all partitions), `middle` (row of `fits` of the most central partition, whose mean distance
#'     to all others is smallest), `left_out`.
#'
#'   `as.data.frame()` gives `rows`.
#' @details Two partitions differ by the share of pairs of rows that one puts together and the other apart (Mirkin
#'   1996). That share is a squared distance, so what separates all partitions divides between the choices as in an
#'   analysis of variance (McArdle and Anderson 2001; `involved` after Homma and Saltelli 1996). Where not all
#'   combinations were tried, or some failed, the shares of single choices overlap. A group is found again where its
#'   overlap with a group there is 0.75 or more. Methods that find the count themselves take part with
#'   the counts asked for, where they come to them. Noise is together with nothing.
#' @section Errors: `fjordline_error_argument` where there are fewer than three partitions, or no common rows.
#' @references
#' McArdle, B. H. and Anderson, M. J. (2001). Fitting multivariate models to community data. Ecology 82, 290-297.
#' \doi{10.1890/0012-9658(2001)082[0290:FMMTCD]2.0.CO;2}
#'
#' Homma, T. and Saltelli, A. (1996). Importance measures in global sensitivity analysis of nonlinear models.
#' Reliability Engineering and System Safety 52, 1-17. \doi{10.1016/0951-8320(96)00002-6}
#'
#' Hennig, C. (2007). Cluster-wise assessment of cluster stability. Computational Statistics and Data Analysis 52,
#' 258-271. \doi{10.1016/j.csda.2006.11.025}
#' @seealso [fl_lineage()] for one method over the counts, [fl_reliability()] for the same choices on other samples.
#' @examples
#' water <- fl_demo("water_samples")
#' ready <- list(plain = fl_prepare(water), logged = fl_prepare(water, transform = c(turbidity = "log")))
#' sweep <- fl_sweep(ready, c("kmeans", "linkage"), k = 2:6, indices = "fast")
#' fl_choices(sweep, k = 3:5)
#' @export
fl_choices <- function(sweep, k = NULL) {
  check_made_by(sweep, "fl_sweep", "sweep")
  counts <- if (is.null(k)) voted_counts(sweep) else sort(unique(check_whole(k, "k", many = TRUE)))
  fitted <- !vapply(sweep$fits, inherits, NA, "error")
  cells <- sweep$cells
  mine <- fitted & cells$stands & cells$k %in% counts
  if (sum(mine) < 3L) {
    fl_abort("argument", "A map of choices needs three partitions or more.",
             found = paste0("The sweep holds ", sum(mine), " at k = ", listed(counts), "."),
             advice = "Sweep over more methods or preparations, or give other counts: fl_choices(sweep, k = ).")
  }
  common <- Reduce(intersect, lapply(sweep$ready, `[[`, "rows"))
  if (length(common) < 2L) fl_abort("argument", "The preparations have no rows in common.")
  labels <- lapply(which(mine), function(i) {
    sweep$fits[[i]]$group[match(common, sweep$ready[[cells$preparation[i]]]$rows)]
  })
  fits <- tibble::tibble(cells[mine, c("preparation", "method", "k", "parameter", "repeat")])
  fits <- tibble::add_column(fits, columns = columns_said(sweep)[fits$preparation], .after = "preparation")
  distances <- label_distances(labels)
  fits$apart <- rowSums(distances) / (nrow(fits) - 1L)
  middle <- which.min(fits$apart)
  returns <- lapply(labels[-middle], best_matches, group = labels[[middle]])
  overlaps <- do.call(cbind, lapply(returns, `[[`, "share"))
  shares <- shares_by_choice(distances, fits)
  left <- unique(cells$method[!cells$method %in% fits$method])
  structure(
    list(shares = shares$shares, combinations = shares$combinations,
         groups = surviving_groups(labels[[middle]], overlaps, fits[-middle, ]),
         rows = staying_rows(sweep, common, labels, middle, returns), fits = fits, overlaps = overlaps,
         distances = distances, middle = middle, k = counts, given = !is.null(k), left_out = left,
         ready = sweep$ready, sweep_steps = fl_steps(sweep),
         call = code_call("fl_choices", verbatim("sweep"), k = if (!is.null(k)) k)),
    class = "fl_choices"
  )
}

# The counts that votes name, whatever their verdict. A sweep out of a store knows them.
voted_counts <- function(sweep) {
  if (length(sweep$voted) > 0L) {
    return(sweep$voted)
  }
  sets <- unique(sweep$cells[c("preparation", "method")])
  alone <- lapply(seq_len(nrow(sets)), function(i) {
    vote_of(sweep, sets$preparation[i], sets$method[i], counting_by())$points$k[1L]
  })
  together <- lapply(names(sweep$ready), function(p) vote_together(sweep, p, counting_by())$points$k[1L])
  counts <- sort(unique(as.integer(stats::na.omit(unlist(c(alone, together))))))
  if (length(counts) > 0L) counts else setdiff(sweep$k, 1L)
}

# The columns that each preparation sees, where they differ.
columns_said <- function(sweep) {
  used <- lapply(sweep$ready, `[[`, "features")
  most <- Reduce(union, used)
  vapply(used, function(one) {
    if (length(one) == length(most)) "all"
    else if (length(one) <= 3L) paste(one, collapse = ", ")
    else paste0("without ", listed(setdiff(most, one), most = 3L))
  }, "")
}

# A preparation has one choice of columns, which is a part of its own share.
shares_by_choice <- function(distances, fits) {
  choices <- list(method = fits$method, count = fits$k, preparation = fits$preparation, seed = fits$`repeat`)
  choices <- choices[vapply(choices, function(choice) length(unique(choice)) > 1L, NA)]
  found <- choice_shares(distances, choices)
  tried <- function(choice) listed(unique(choice), most = 6L)
  said <- vapply(choices, tried, "")
  if ("seed" %in% names(said)) said[["seed"]] <- counted(length(unique(choices$seed)), "repeat")
  out <- tibble::tibble(choice = names(choices), tried = unname(said), alone = unname(found$alone),
                        involved = unname(found$involved))
  out <- out[order(-out$involved), ]
  at <- match("preparation", out$choice)
  if (length(unique(fits$columns)) > 1L) {
    of_columns <- c(list(columns = fits$columns), choices["seed" == names(choices)],
                    list(rest = paste(fits$method, fits$k, fits$preparation)))
    columns <- tibble::tibble(choice = "columns", tried = tried(fits$columns),
                              alone = choice_shares(distances, of_columns)$alone[["columns"]], involved = NA_real_)
    out <- vctrs::vec_rbind(out[seq_len(at), ], columns, out[-seq_len(at), ])
  }
  list(shares = out, combinations = max(0, 1 - found$single))
}

surviving_groups <- function(group, overlaps, others) {
  back <- overlaps >= unstable_below
  rows <- tabulate(group, nrow(overlaps))
  share <- rows / length(group)
  tibble::tibble(group = seq_along(rows), rows = rows, share = share, found_again = rowMeans(back),
                 least = apply(overlaps, 1L, min),
                 lost_by = vapply(seq_len(nrow(back)), function(g) lost_by(back[g, ], others), ""))
}

# The choice under which a group comes back far less often than without it.
lost_by <- function(back, others) {
  levels <- vctrs::vec_rbind(!!!lapply(c("method", "preparation", "k"), function(choice) {
    of <- others[[choice]]
    vctrs::vec_rbind(!!!lapply(sort(unique(of)), function(level) {
      tibble::tibble(said = if (choice == "k") paste("k =", level) else level, kept = mean(back[of == level]),
                     else_kept = mean(back[of != level]))
    }))
  }))
  levels <- levels[is.finite(levels$else_kept) & levels$kept < 0.5 & levels$else_kept - levels$kept >= 0.25, ]
  if (nrow(levels) == 0L) "" else levels$said[which.max(levels$else_kept - levels$kept)]
}

staying_rows <- function(sweep, common, labels, middle, returns) {
  data <- sweep$ready[[1L]]$data
  stays <- Reduce(`+`, lapply(returns, `[[`, "stays")) / length(returns)
  group <- labels[[middle]]
  rows <- tibble::tibble(row = common, group = group, stays = ifelse(group > 0L, stays, NA_real_),
                         block = undivided_blocks(labels))
  id <- row_ids(data)
  if (!is.null(id)) rows <- tibble::add_column(rows, id = id[common], .after = "row")
  rows
}

#' @export
as.data.frame.fl_choices <- function(x, ...) x$rows

#' @export
summary.fl_choices <- showing_field("shares")

#' @export
fl_steps.fl_choices <- function(x) c(x$sweep_steps, paste("choices <-", x$call))

#' @export
fl_facts.fl_choices <- function(x) {
  lost <- x$groups[nzchar(x$groups$lost_by), ]
  c(choices_headline(x), choice_facts(x),
    if (nrow(lost) > 0L) paste0("Mostly lost: ", listed(paste0("group ", lost$group, " by ", lost$lost_by)), "."))
}

hardly_apart <- 0.02  # mean share of pairs of rows on which groupings differ

choices_headline <- function(x) {
  first <- x$shares[1L, ]
  name <- x$ready[[1L]]$data$name
  if (all(x$distances == 0)) return(paste0("All ", nrow(x$fits), " partitions of ", name, " are the same."))
  apart <- mean(x$fits$apart)
  if (apart < hardly_apart) {
    return(paste0("The ", nrow(x$fits), " partitions of ", name, " hardly differ: two of them treat ",
                  if (apart < 0.0005) "under 0.1%" else percent(apart),
                  " of the pairs of rows otherwise, on average."))
  }
  if (first$involved <= 0.05 || first$choice == "seed") {
    return(paste0("No choice changes the partitions of ", name, " beyond what other seeds change: two of ",
                  nrow(x$fits), " partitions treat ", percent(apart), " of the pairs of rows otherwise, on average."))
  }
  paste0("For ", name, " the choice of ", first$choice, " matters most: it explains ", percent(first$alone), " of the ",
         "differences between ", nrow(x$fits), " partitions, and ", percent(first$involved),
         " including its interactions.")
}

choice_facts <- function(x) {
  mine <- x$fits[x$middle, ]
  whole <- x$groups$group[x$groups$found_again >= 1]
  blocks <- tabulate(x$rows$block)
  least <- max(2, ceiling(0.02 * nrow(x$rows)))
  big <- blocks[blocks >= least]
  c(
    paste0("The table shows the most central partition: ", mine$method, " on ", mine$preparation, ", ",
           counted(mine$k, "group"), "."),
    if (length(whole) == nrow(x$groups)) "Every partition finds all of them again."
    else if (length(whole) > 0L) paste0("Every partition finds group", if (length(whole) > 1L) "s", " ", listed(whole),
                                        " again.")
    else "No group is found again by every partition.",
    if (length(big) > 0L) paste0(thousands(sum(big)), " of ", counted(nrow(x$rows), "row"), " form ",
                                 counted(length(big), "block"), " that every partition keeps together.")
    else "No block of 2% of the rows is kept together by every partition.",
    if (!x$given) paste0("Counts ", listed(x$k), ", which a vote names; for others: fl_choices(sweep, k = )."),
    if (length(x$left_out) > 0L) paste0("Left out, since no fit came to these counts: ", listed(x$left_out), ".")
  )
}
