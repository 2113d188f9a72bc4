# What a study consists of: its fits, and when they are there, what judges them.

# One row per fit, in the form of a sweep's cells. The seed follows from the coordinates alone.
study_cells <- function(study) {
  beside <- length(study$indices) > 0L
  cells <- lapply(names(study$ready), function(dataset) {
    ready <- study$ready[[dataset]]
    cells <- sweep_cells(ready, study$methods, study$k, study$repeats, study$seed)
    tibble::tibble(dataset = dataset, cells[beside | cells$asked, ])
  })
  cells <- vctrs::vec_rbind(!!!cells)
  cells$cell <- coordinates(cells$dataset, cells$preparation, cells$method, cells$k, cells$parameter, cells$`repeat`)
  cells$seed <- vapply(cells$cell, seed_at, 0, seed = study$seed, USE.NAMES = FALSE)
  cells
}

# What judges the fits of one method over its counts: a row for each method, preparation and repeat. None without
# indices.
study_judgements <- function(study, cells) {
  if (length(study$indices) == 0L) cells <- cells[0L, ]
  sets <- unique(cells[c("dataset", "preparation", "method", "repeat")])
  sets$judgement <- judgement_at(study, sets, sets$method)
  sets$seed <- vapply(coordinates(sets$dataset, sets$preparation, sets$method, sets$`repeat`), seed_at, 0,
                      seed = study$seed, USE.NAMES = FALSE)
  sets
}

# Where a study grows by a count its fits are judged anew: curves and votes are of all counts together.
judgement_at <- function(study, part, method) {
  coordinates(part$dataset, part$preparation, method, part$`repeat`, toString(study$k))
}

# The method of round groups and the mixture, where a study has both: fl_vote() hears them together.
voting_pair <- function(study) {
  voices <- vapply(study$methods, voice_of, "")
  pair <- names(voices)[match(c("round", "models"), voices)]
  if (anyNA(pair)) NULL else pair
}

both_said <- "kmeans and mixture"

study_pairs <- function(study, judgements) {
  if (nrow(judgements) == 0L || is.null(voting_pair(study))) {
    return(NULL)
  }
  pairs <- unique(judgements[c("dataset", "preparation", "repeat")])
  pairs$method <- both_said
  pairs$judgement <- judgement_at(study, pairs, NA)
  pairs
}

# Whether there are groups at all, asked once for every preparation and way of seeing its rows.
study_gates <- function(study) {
  if (length(study$indices) == 0L) {
    return(NULL)
  }
  seen <- unique(vapply(study$methods, seen_metric, ""))
  gates <- lapply(names(study$ready), function(dataset) {
    expand.grid(dataset = dataset, preparation = names(study$ready[[dataset]]), metric = seen,
                stringsAsFactors = FALSE)
  })
  gates <- tibble::as_tibble(vctrs::vec_rbind(!!!gates))
  gates$gate <- coordinates(gates$dataset, gates$preparation, gates$metric)
  gates
}

# The class of rows that belong to no group, where a table has one.
noise_class <- function(study, dataset) if (dataset %in% names(study$noise)) study$noise[[dataset]]

has_truth <- function(study) any(!is.na(unlist(known_counts(study))))

has_scores <- function(result) has_truth(result$study) && nrow(result$agreements) > 0L

# Names may hold any letter: in quotes they stay apart.
coordinates <- function(...) {
  parts <- lapply(list(...), function(part) {
    ifelse(is.na(part), "-", if (is.character(part)) paste0("\"", gsub("([\"\\\\])", "\\\\\\1", part), "\"")
           else formatC(as.double(part), digits = 15L, format = "g", width = 1L))
  })
  do.call(paste, c(parts, sep = "/"))
}

seed_at <- function(coordinates, seed) derived_seed(seed, utf8ToInt(enc2utf8(coordinates)))

#' @export
as.data.frame.fl_study <- function(x, ...) {
  cells <- study_cells(x)
  cells[cells$asked, c("dataset", "preparation", "method", "k", "parameter", "repeat", "seed")]
}
