# What the interactive view of a sweep shows: rows, columns, and the groups of every count, as data for inst/canvas. The
# page steps, compares and selects by itself; nothing of it is fitted or tested there.

canvas_columns <- 30L
canvas_levels <- 40L

# `taken`, a partition of the sweep: its count is shown first, and its names go along. `most` rows are drawn.
canvas_data <- function(sweep, vote = NULL, taken = NULL, preparation = NULL, most = Inf) {
  preparation <- preparation %||% vote$preparation %||% names(sweep$ready)[1L]
  sets <- canvas_partitions(sweep, preparation)
  if (length(sets) == 0L) {
    fl_abort("argument", "There is nothing to show: the sweep has no fit.")
  }
  method <- taken$method$key %||% vote$method %||% names(sets)[1L]
  if (!method %in% names(sets)) method <- names(sets)[1L]
  first <- first_shown(sets[[method]], taken$k %||% vote$settled$k %||% vote$k)
  ready <- sweep$ready[[preparation]]
  drawn <- drawn_rows(length(ready$rows), most)
  out <- canvas_of(sets, method, first, ready$rows[drawn], taken)
  indices <- lapply(names(sets), function(key) canvas_indices(sweep, preparation, sweep$methods[[key]], vote))
  out$sets <- Map(function(set, indices) c(set, list(indices = indices)), out$sets, indices)
  out$said <- canvas_words(vote, taken)
  out$note <- drawn_note(drawn, length(ready$rows))
  out
}

# One partition, or two of the same rows side by side.
canvas_pair <- function(a, b = NULL, most = Inf) {
  both <- Filter(Negate(is.null), list(a = a, b = b))
  rows <- Reduce(intersect, lapply(both, function(one) one$ready$rows))
  out <- canvas_of(lapply(both, list), "a", 1L, rows[drawn_rows(length(rows), most)], a)
  for (i in seq_along(both)) out$sets[[i]]$label <- both[[i]]$name
  out$said <- canvas_words(a$vote, a)
  out$note <- drawn_note(drawn_rows(length(rows), most), length(rows))
  out
}

# `rows` of the table, and the groups of each set in them. Axes and columns are those of the partition shown first.
canvas_of <- function(sets, method, first, rows, taken) {
  shown <- sets[[method]][[first]]
  ready <- shown$ready
  colours <- followed_colours(sets, method, first)
  axes <- component_axes(shown, 3L)
  columns <- canvas_table(ready, shown, rows)
  list(
    name = ready$data$name, preparation = ready$name, total = ready$total, shown = length(rows),
    rows = encoded_whole(rows),
    ids = if (!is.null(row_ids(ready$data))) I(row_ids(ready$data)[rows]),
    axes = canvas_axes(axes$rows[match(rows, ready$rows), , drop = FALSE], axes$words), columns = columns,
    place = canvas_place(ready$data, columns), sets = unname(Map(canvas_set, sets, colours, list(rows))),
    method = match(method, names(sets)) - 1L, at = first - 1L, colours = I(canvas_palette(max(unlist(colours), 1L))),
    noise = noise_grey, names = if (has_names(taken)) named_colours(taken, colours[[method]][[first]])
  )
}

# Where the rows lie on a map, if they tell: the two columns, by their place among the number columns.
canvas_place <- function(data, columns) {
  found <- position_columns(data)
  numbers <- Filter(function(column) column$type != "level", columns)
  at <- match(found, vapply(numbers, `[[`, "", "name"))
  if (length(at) == 2L && !anyNA(at)) I(at - 1L)
}

# Columns that say by their names that they are positions: across first.
position_columns <- function(data) {
  columns <- c(columns_of(data, "feature"), columns_of(data, "aside"))
  named <- function(words) grep(paste0("^(", words, ")"), columns, value = TRUE, ignore.case = TRUE)
  across <- named("longitude|lon$|easting|east_km|x_km")
  up <- named("latitude|lat$|northing|north_km|y_km")
  if (length(across) == 1L && length(up) == 1L) c(across, up)
}

# The fits of one preparation, by method and count.
canvas_partitions <- function(sweep, preparation) {
  sets <- lapply(stats::setNames(nm = names(sweep$methods)), function(method) {
    free <- sweep$methods[[method]]$free_count
    counts <- if (free) list(NULL) else as.list(sweep$k)
    Filter(Negate(is.null), lapply(counts, function(k) {
      tryCatch(fl_take(sweep, method, k, preparation), fjordline_error = function(e) NULL)
    }))
  })
  Filter(length, sets)
}

first_shown <- function(partitions, k) {
  counts <- vapply(partitions, `[[`, 0L, "k")
  at <- match(k %||% NA, counts)
  if (is.na(at)) which.max(counts >= min(2L, max(counts))) else at
}

canvas_axes <- function(rows, words) {
  lapply(seq_len(min(ncol(rows), length(unique(words)))), function(j) {
    list(name = gsub("\n", ", ", words[j], fixed = TRUE), values = encoded_number(rows[, j]))
  })
}

# Features first, those that tell the shown groups apart best; then what was kept aside.
canvas_table <- function(ready, partition, rows) {
  data <- ready$data
  roles <- data$roles[data$roles$role %in% c("feature", "aside", "truth"), ]
  features <- intersect(roles$column[roles$role == "feature"], ready$features)
  strength <- vapply(features, function(column) {
    v <- data$table[[column]][ready$rows]
    if (is.numeric(v)) variance_test(as.double(v), partition$group[ready$rows])$effect %||% 0 else 1
  }, 0)
  columns <- c(features[order(-strength)], setdiff(roles$column, features))
  columns <- columns[vapply(columns, function(column) drawable(data$table[[column]]), NA)]
  truth <- roles$column[roles$role == "truth"]
  columns <- unique(c(utils::head(setdiff(columns, truth), canvas_columns), intersect(truth, columns)))
  lapply(columns, function(column) {
    c(list(name = column, unit = trimws(unit_after(column, ready$units)),
           role = roles$role[match(column, roles$column)]), encoded_column(data$table[[column]][rows]))
  })
}

drawable <- function(v) {
  is.numeric(v) || inherits(v, c("Date", "POSIXt")) || length(unique(v)) <= canvas_levels
}

canvas_set <- function(partitions, colours, rows) {
  method <- partitions[[1L]]$method
  at <- match(rows, partitions[[1L]]$ready$rows)
  widths <- canvas_widths(partitions)
  list(
    method = method$key, label = method_said(method), free = method$free_count,
    counts = I(vapply(partitions, `[[`, 0L, "k")), by_centres = widths$by_centres,
    parts = lapply(seq_along(partitions), function(i) {
      one <- partitions[[i]]
      list(
        k = one$k, group = encoded_code(one$group[rows]), colour = I(colours[[i]] - 1L),
        sizes = I(tabulate(one$group, one$k)), width = encoded_share(widths$width[at, i], -1, 1),
        nearest = encoded_code(widths$neighbour[at, i]), far = encoded_share(own_distance(one)[rows], 0, NULL),
        sure = canvas_sure(one, rows)
      )
    })
  )
}

# Silhouette widths: exact for few rows, above that by centres.
canvas_widths <- function(partitions) {
  ready <- partitions[[1L]]$ready
  x <- as_seen(ready$x, seen_metric(partitions[[1L]]$method))
  groups <- lapply(partitions, function(one) one$group[ready$rows])
  exact <- nrow(x) <= canvas_exact_rows
  found <- if (exact) pair_sums(x, groups) else centre_silhouettes(x, groups)
  list(width = found$width, neighbour = found$neighbour, by_centres = !exact)
}

canvas_exact_rows <- 3000L

canvas_sure <- function(partition, rows) {
  if (is.null(partition$method$membership)) {
    return(NULL)
  }
  share <- tryCatch(row_memberships(partition)[rows, , drop = FALSE], fjordline_error = function(e) NULL)
  if (!is.null(share)) encoded_share(do.call(pmax, as.data.frame(share)), 0, 1)
}

canvas_indices <- function(sweep, preparation, method, vote) {
  firsts <- if (identical(vote$preparation, preparation)) vote$ballots[vote$ballots$rank == 1L, ]
  values <- part_of(sweep$values, preparation, method$key)
  values <- values[values$`repeat` == min(values$`repeat`, Inf) & is.finite(values$value), ]
  lapply(intersect(names(sweep$indices), values$index), function(key) {
    mine <- values[values$index == key, ]
    list(key = key, label = sub(" \\(.*$", "", sweep$indices[[key]]$label), better = sweep$indices[[key]]$direction,
         picks = picked_by(firsts, key, mine), k = I(mine$k), value = I(signif(mine$value, 5L)))
  })
}

# The count an index puts first, where its vote was about these values.
picked_by <- function(firsts, key, values) {
  first <- firsts[firsts$index == key, ]
  if (NROW(first) == 1L && isTRUE(all.equal(values$value[values$k == first$k], first$value))) first$k
}

# What stands beside the picture: the verdict, and what to doubt of it.
canvas_words <- function(vote, taken) {
  if (is.null(vote)) {
    return(list(head = if (!is.null(taken)) fl_facts(taken)[1L] else "No vote was held.", more = I(character())))
  }
  list(head = vote_headline(vote), more = I(c(structure_fact(vote)[1L], components_fact(vote), levels_fact(vote),
                                              method_groups_fact(vote), far_fact(vote), track_fact(vote))))
}

# --- columns as text: numbers in 4 bytes, codes and shares in 1

encoded <- function(values, size) {
  jsonlite::base64_enc(writeBin(values, raw(), size = size, endian = "little"))
}

encoded_number <- function(v) encoded(as.double(v), 4L)

encoded_whole <- function(v) encoded(as.integer(v), 4L)

# 255: none.
encoded_code <- function(code) {
  code[is.na(code) | code > 254L] <- 255L
  jsonlite::base64_enc(as.raw(code))
}

# Shares of the way from `low` to `high`, in 200 steps; with the scale where it is not known before.
encoded_share <- function(v, low, high) {
  top <- high %||% max(v[is.finite(v)], 0)
  step <- if (top > low) round(200 * (pmin(pmax(v, low), top) - low) / (top - low)) else 0 * v
  encoded_code(as.integer(step))
}

encoded_column <- function(v) {
  if (inherits(v, "POSIXt")) v <- as.Date(v)
  if (inherits(v, "Date")) {
    return(list(type = "date", values = encoded_number(as.double(v))))
  }
  if (is.numeric(v)) {
    return(list(type = "number", values = encoded_number(v)))
  }
  level <- if (is.factor(v)) factor(v) else factor(as.character(v))
  list(type = "level", levels = I(levels(level)), values = encoded_code(as.integer(level)))
}

# --- in a page

canvas_files <- c("view.js", "plane.js", "panels.js", "cards.js", "start.js")

canvas_code <- function(files = canvas_files) {
  files <- system.file("canvas", files, package = "fjordline", mustWork = TRUE)
  paste(unlist(lapply(files, readLines, encoding = "UTF-8")), collapse = "\n")
}

canvas_style <- function() {
  paste(readLines(system.file("canvas", "view.css", package = "fjordline", mustWork = TRUE)), collapse = "\n")
}

canvas_json <- function(data) {
  json <- jsonlite::toJSON(data, auto_unbox = TRUE, digits = 6L, null = "null", na = "null")
  # a "<" in the data could end the script element: it is written as its code
  gsub("<", "\\u003c", json, fixed = TRUE)
}

canvas_html <- function(data, pass = NULL) {
  tags <- htmltools::tags
  htmltools::tagList(
    tags$style(htmltools::HTML(canvas_style())),
    tags$div(class = "fl-view", tags$script(type = "application/json", htmltools::HTML(canvas_json(data)))),
    tags$script(nonce = pass, htmltools::HTML(canvas_code()))
  )
}
