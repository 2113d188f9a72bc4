# k-means of every row of a source that is read in chunks and never held as a whole.

#' Group every row of a long table
#'
#' Takes a preparation learned from a sample ([fl_sample()]), and groups all rows of the sample's source by
#' k-means, a stretch of rows at a time. It goes like this:
#' 1. k-means of the sample, with all its restarts, gives the first centres;
#' 2. the source is read once, and every batch of rows pulls its centres on, each to the mean of all rows it was ever
#'    given (Sculley 2010);
#' 3. the source is read again, and every row goes to the nearest centre.
#'
#' The result is approximate, and says by how much: W of its centres on the sample, against W of the fit of the sample
#' itself. The preparation is the one of the sample: its means and spreads are not those of all rows, but nearly.
#'
#' @param ready From [fl_prepare()] on an [fl_sample()].
#' @param method A k-means method, see [k-means][method-kmeans]; its settings hold for the fit of the sample.
#' @param k The count of groups: a whole number, or a vote.
#' @param seed Whole number; see [fl_partition()].
#' @param batch_rows Rows a batch.
#' @param file Where to write the groups, `.csv`: `row`, `group` and `distance` (to the own centre, scaled units) of
#'   every row of the source. Written whole or not at all.
#' @param name What to call the result.
#' @return A partition of all rows of the source, without the rows themselves: it prints, takes new rows with
#'   [predict()][predict.fl_partition], is saved by [fl_save()], and [fl_labels()] gives the group of every row (`NA`
#'   where a value was missing). `objective` is W over all rows; `approximation` the share by which W of the sample is
#'   above that of the sample's own fit.
#' @section Errors: `fjordline_error_argument` when `ready` was not made from a sample, `fjordline_error_method` for
#'   another method than k-means, `fjordline_error_column` when a chunk lacks a column or holds something else there,
#'   `fjordline_error_file` when the source cannot be read or changed.
#' @section Progress: a bar after two seconds in an interactive session; else progress is signalled through the
#'   progressr package.
#' @references Sculley, D. (2010). Web-scale k-means clustering. \doi{10.1145/1772690.1772862}
#' @examples
#' file <- tempfile(fileext = ".csv")
#' write.csv(as.data.frame(fl_demo("water_samples")), file, row.names = FALSE)
#' sample <- fl_sample(file, rows = 300, features = c("temperature", "salinity", "oxygen"))
#' groups <- fl_stream(fl_prepare(sample), k = 5)
#' groups
#' table(fl_labels(groups), useNA = "ifany")
#' @export
fl_stream <- function(ready, k, method = "kmeans", seed = 1, batch_rows = 10000, file = NULL, name = NULL) {
  check_made_by(ready, "fl_prepare", "ready")
  if (is.null(ready$data$sample)) {
    fl_abort("argument", "`ready` must be a preparation of a sample of the table.",
             advice = "fl_prepare(fl_sample(source, ...)) makes one.")
  }
  method <- as_method(method)
  if (!method$in_batches) {
    able <- names(Filter(function(one) one$in_batches, built_in("method")))
    fl_abort("method", paste0(method$label, " cannot go through a table in batches."),
             advice = paste0("Use ", listed(quoted(able), "or"), "."))
  }
  check_seed(seed)
  check_whole(batch_rows, "batch_rows", least = 10)
  if (!is.null(file)) file_form(file, "csv")
  vote <- if (inherits(k, "fl_vote")) k
  k <- asked_count(k, method)
  started <- proc.time()[["elapsed"]]
  fit <- fit_ready(method, ready, k, seed)
  state <- batch_state(fit)
  over_chunks(ready, function(x, first) {
    state <<- pull_centres(state, x[stats::complete.cases(x), , drop = FALSE], batch_rows)
    NULL
  })
  state <- settle_directions(state)
  placed <- if (is.null(file)) place_chunks(ready, state, NULL)
  else {
    written <- NULL
    write_whole(file, function(draft) written <<- place_chunks(ready, state, draft))
    written
  }
  call <- code_call("fl_stream", verbatim("ready"), k = k,
                    method = if (length(method$changed) > 0L) verbatim(method_code(method)), seed = seed,
                    batch_rows = if (batch_rows != 10000) batch_rows, file = file, name = name)
  streamed_partition(ready, method, seed, fit, state, placed, vote, name, call, proc.time()[["elapsed"]] - started)
}

# Runs `work(x, first)` on every chunk in scaled units (all NA where a value is missing), and lists what it gave.
over_chunks <- function(ready, work) with_bar(each_chunk(ready, work))

each_chunk <- function(ready, work) {
  data <- ready$data
  from <- data$sample
  chunks <- open_chunks(from$source, from$how, from$chunk_rows, names(ready$columns))
  on.exit(chunks$close())
  step <- progressr::progressor(steps = ceiling(from$rows / from$chunk_rows))
  first <- 1
  given <- list()
  while (!is.null(chunk <- chunks$fetch())) {
    x <- withCallingHandlers(
      replay(ready, shape_chunk(chunk, data, ready$columns)),
      fjordline_warning_values = function(w) invokeRestart("muffleWarning")
    )
    given <- c(given, list(work(x, first)))
    first <- first + nrow(chunk)
    # Chunks are let go at once: by itself R would wait until hundreds of megabytes lie about.
    gc(verbose = FALSE, full = length(given) %% 4L == 0L)
    step()
  }
  if (first - 1 != from$rows) {
    fl_abort("file", paste0(data$name, " has changed since it was sampled."),
             found = paste0("It had ", from$rows, " rows and now has ", first - 1, "."), advice = "Sample it again.")
  }
  given
}

# Every row to its nearest centre, with what the whole table adds up to.
place_chunks <- function(ready, state, file) {
  k <- nrow(state$centres)
  middle <- colMeans(ready$x)
  parts <- over_chunks(ready, function(x, first) {
    placed <- list(group = rep(NA_integer_, nrow(x)), distance = rep(NA_real_, nrow(x)))
    whole <- which(stats::complete.cases(x))
    inside <- x[whole, , drop = FALSE]
    near <- nearest_kernel(inside, state$centres, state$metric, thread_count())
    placed$group[whole] <- near$group
    placed$distance[whole] <- near$distance
    if (!is.null(file)) {
      rows <- data.frame(row = first - 1 + seq_len(nrow(x)), group = placed$group, distance = placed$distance)
      data.table::fwrite(rows, file, append = first > 1, na = "")
    }
    added <- added_by(near$distance, state$metric)
    off <- sweep(inside, 2L, middle)
    list(group = placed$group, rows = tabulate(near$group, k), off = colSums(off), squares = sum(off^2),
         scatter = vapply(split(added, factor(near$group, seq_len(k))), sum, 0, USE.NAMES = FALSE),
         far = vapply(split(near$distance, factor(near$group, seq_len(k))), function(d) max(d, 0), 0,
                      USE.NAMES = FALSE))
  })
  add <- function(field) Reduce(`+`, lapply(parts, `[[`, field))
  rows <- add("rows")
  list(group = unlist(lapply(parts, `[[`, "group")), rows = rows, scatter = add("scatter"),
       far = Reduce(pmax, lapply(parts, `[[`, "far")),
       total = add("squares") - sum(add("off")^2) / max(sum(rows), 1))
}

streamed_partition <- function(ready, method, seed, fit, state, placed, vote, name, call, seconds) {
  excess <- excess_over(fit, ready$x, state)
  sphere <- state$metric %in% sphere_metrics
  # Groups in their order: by size, ties by the centre. One that no row chose is left out.
  order <- do.call(order, c(list(-placed$rows), lapply(seq_len(ncol(state$centres)), function(j) state$centres[, j])))
  order <- order[placed$rows[order] > 0L]
  number <- match(seq_len(nrow(state$centres)), order)
  centres <- state$centres[order, , drop = FALSE]
  dimnames(centres) <- list(NULL, colnames(ready$x))
  group <- number[placed$group]
  rows <- placed$rows[order]
  small <- ready
  small[c("data", "x")] <- list(NULL)
  small$table_name <- ready$data$name
  small$prepared <- colnames(ready$x)
  small$total <- length(group)
  small$left <- c(missing = length(group) - sum(rows))
  small$rows <- if (small$left == 0L) seq_along(group) else which(!is.na(group))
  shown <- list(k = length(order), centres = centres, scatter = placed$scatter[order])
  out <- new_partition(
    small, method, length(order), seed, name %||% default_partition_name(method, length(order)), group, centres,
    group_table(small, shown, rows, sum(rows)), sum(placed$scatter), fit$minimises,
    if (sphere) NA_real_ else sum(placed$scatter), placed$total, approximation = excess,
    notes = c(approximate_note(nrow(ready$x), fit$minimises, excess), fit$notes),
    model = if (sphere) list(metric = state$metric, directions = centres), seconds = seconds, vote = vote,
    decision = decision_facts(vote), call = call, before = fl_steps(vote %||% ready),
    origin = paste0("Read in chunks from ", ready$data$name, "."), fitted = fitted_columns(ready)
  )
  out$reach <- list(all = streamed_reach(out, ready, placed$far[order]))
  out
}

# How far groups reach: as the sample tells, up to the farthest of all rows.
streamed_reach <- function(partition, ready, far) {
  near <- assign_rows(partition$method, partition, ready$x)
  t(vapply(seq_len(partition$k), function(g) {
    own <- near$distance[near$group == g]
    q <- if (length(own) > 0L) stats::quantile(own, reach_grid, names = FALSE, type = 7L)
    else rep(far[g], length(reach_grid))
    c(pmin(q[-length(q)], far[g]), far[g])
  }, double(length(reach_grid))))
}
