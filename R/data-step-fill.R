# Missing values filled: by the middle of the column, or by the rows nearest in the columns that are there (Troyanskaya
# et al. 2001). A row without any value is never filled.

fill_neighbours <- 5L
fill_most_donors <- 2000L

step_fill <- list(
  learn = function(frame, how) {
    if (how == "middle") {
      list(kind = "fill", columns = names(frame), how = how, values = lapply(unname(frame), middle_value))
    } else {
      learn_donors(frame)
    }
  },
  apply = function(frame, step) {
    if (!any(vapply(frame[step$columns], anyNA, NA))) {
      return(frame)
    }
    if (step$how == "middle") fill_middle(frame, step) else fill_nearest(frame, step)
  },
  invert = function(x, step) x,
  say = function(step) {
    if (step$how == "middle") {
      "fill missing values with the column's median, or its most frequent level"
    } else {
      paste0("fill missing values from the ", fill_neighbours, " nearest of ",
             counted(length(unlist(step$donors[[1L]])),
                                                                                       "complete row"),
             " (their mean, or most frequent level)")
    }
  }
)

middle_value <- function(v) {
  if (is.numeric(v)) stats::median(v, na.rm = TRUE) else most_frequent(v)
}

# Ties go to the level that sorts first.
most_frequent <- function(v) names(which.max(table(as.character(v))))

empty_rows <- function(frame) {
  out <- rep(TRUE, frame_length(frame))
  for (column in frame) out <- out & is.na(column)
  out
}

fill_middle <- function(frame, step) {
  empty <- empty_rows(frame[step$columns])
  change_columns(frame, step$columns, function(v, i) {
    if (anyNA(v)) replace(v, is.na(v) & !empty, unlist(step$values[[i]])) else v
  })
}

# --- donors: an even sample of the complete rows, kept with the preparation, so that filling never changes

learn_donors <- function(frame) {
  complete <- which(complete_rows(frame))
  if (length(complete) < 2L * fill_neighbours) {
    fl_abort("table", paste0("missing = \"nearest\" needs at least ", 2L * fill_neighbours, " rows without a gap."),
             found = paste0("There are ", length(complete), "."), advice = "missing = \"middle\" needs none.")
  }
  donors <- frame_rows(frame, complete[sampled_rows(length(complete), fill_most_donors)])
  list(kind = "fill", columns = names(frame), how = "nearest", donors = unname(donors),
       pull = vapply(donors, pull_of, 0, USE.NAMES = FALSE))
}

# What a squared difference, or a difference of levels, counts: each column has the same mean over pairs of rows.
pull_of <- function(v) {
  spread <- if (is.numeric(v)) spread_of(v)^2 else share_apart(v) / 2
  if (is.finite(spread) && spread > 0) 1 / spread else 0
}

fill_nearest <- function(frame, step) {
  wanting <- which(!complete_rows(frame[step$columns]) & !empty_rows(frame[step$columns]))
  if (length(wanting) == 0L) {
    return(frame)
  }
  donors <- stats::setNames(lapply(step$donors, unlist), step$columns)
  rows <- frame_rows(frame[step$columns], wanting)
  near <- donors_kernel(coded_matrix(rows, donors), coded_matrix(donors, donors), as.double(step$pull),
                        as.integer(!vapply(donors, is.numeric, NA)), fill_neighbours)
  change_columns(frame, step$columns, function(v, i) {
    gaps <- which(is.na(rows[[i]]))
    if (length(gaps) == 0L) {
      return(v)
    }
    given <- matrix(donors[[i]][near[, gaps] + 1L], nrow = fill_neighbours)
    v[wanting[gaps]] <- if (is.numeric(v)) colMeans(given) else apply(given, 2L, most_frequent)
    v
  })
}

coded_matrix <- function(frame, donors) {
  frame_matrix(Map(function(v, known) if (is.numeric(known)) as.double(v) else as.double(match(v, unique(known))),
                   frame,
                   donors))
}
