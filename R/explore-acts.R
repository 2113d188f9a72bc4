# What the page can ask for, as lines of R. Everything a reader types goes through code(), so that it stays text.

line_of <- function(target, call) paste(target, "<-", call)

# Reads a file or a demo table; `given` are arguments of fl_data().
open_line <- function(file = NULL, demo = NULL, given = list()) {
  given <- given[lengths(given) > 0L]
  if (!is.null(demo) && length(given) == 0L) {
    return(line_of("data", code_call("fl_demo", demo)))
  }
  source <- if (is.null(demo)) file else verbatim(paste0("as.data.frame(", code_call("fl_demo", demo), ")"))
  more <- if (!is.null(demo) && is.null(given$name)) list(name = demo)
  line_of("data", do.call(code_call, c("fl_data", list(source), given, more)))
}

# Roles as the reader set them, as arguments of fl_data(): only what differs from what it would take by itself.
roles_given <- function(columns, roles, types) {
  of <- function(role) columns[roles == role]
  numbers <- types == "number"  # all others take part only where they are named
  named <- of("feature")[!numbers[roles == "feature"]]
  aside <- intersect(of("aside"), columns[numbers])
  list(
    truth = if (length(of("truth")) > 0L) of("truth")[1L], id = if (length(of("id")) > 0L) of("id")[1L],
    aside = aside, features = if (length(named) > 0L) c("numbers", named)
  )
}

# Settings that differ from the defaults of fl_prepare().
prepare_line <- function(settings) {
  usual <- list(scale = "mean_sd", missing = "drop", outliers = "keep")
  same <- vapply(names(settings), function(name) identical(settings[[name]], usual[[name]]), NA)
  given <- settings[!same & lengths(settings) > 0L]
  line_of("ready", do.call(code_call, c("fl_prepare", list(verbatim("data")), given)))
}

sweep_line <- function(methods, k, indices) {
  line_of("sweep", code_call("fl_sweep", verbatim("ready"), methods, k = k,
                             indices = if (!identical(indices, "standard")) indices))
}

vote_line <- function() line_of("vote", "fl_vote(sweep)")

take_line <- function(method, k) line_of("groups", code_call("fl_take", verbatim("sweep"), method, k = k))

settle_line <- function(k, reason) line_of("vote", code_call("fl_settle", verbatim("vote"), k = k, reason = reason))

# The method only where the vote would take another.
take_settled_line <- function(vote, method) {
  line_of("groups", code_call("fl_take", verbatim("vote"), if (!identical(method, vote$method)) method))
}

# Names by group; a group without a name keeps its number.
name_line <- function(k, names) {
  given <- rep(NA_character_, k)
  known <- names[nzchar(names)]
  given[as.integer(names(known))] <- unname(known)
  line_of("groups", code_call("fl_name", verbatim("groups"), names = given))
}

set_apart_line <- function(rows, reason) {
  line_of("data", code_call("fl_set_apart", verbatim("data"), rows, reason = reason))
}

keep_line <- function(made) {
  number <- 1L
  while (paste0("kept_", number) %in% names(made)) number <- number + 1L
  line_of(paste0("kept_", number), "groups")
}

# Files to hand on: by what they are, the line that writes them.
hand_on_lines <- function(name, group = NULL) {
  file <- function(what, ending) paste0(gsub("[^A-Za-z0-9_-]+", "_", name), "-", what, ".", ending)
  of <- verbatim("groups")
  list(
    labels = list(file = file("groups", "csv"), line = code_call("fl_export", of, file("groups", "csv"))),
    group = if (!is.null(group)) {
      one <- file(paste0("group-", group), "csv")
      list(file = one, line = code_call("fl_export", of, one, group = group))
    },
    centres = list(file = file("centres", "csv"), line = code_call("fl_export", of, file("centres", "csv"),
                                                                   what = "centres")),
    figure = list(file = file("figure", "png"),
                  line = code_call("ggplot2::ggsave", file("figure", "png"), verbatim("ggplot2::autoplot(groups)"),
                                   width = 9, height = 6, dpi = 200)),
    model = list(file = file("model", "json"), line = code_call("fl_save", of, file("model", "json"))),
    query = list(file = file("place", "sql"), line = code_call("fl_export", of, file("place", "sql"))),
    report = list(file = file("report", "html"), line = code_call("fl_report", of, file("report", "html")))
  )
}

# What a fit will take, in words, before it is asked for.
fit_words <- function(ready, methods, k, indices) {
  if (is.null(ready)) {
    return("Prepare the table first, or fit with the usual preparation.")
  }
  fits <- length(methods) * length(k)
  paste0(capital(counted(fits, "fit")), " (", counted(length(methods), "method"), " by ", counted(length(k), "count"),
         ") of ",
         counted(nrow(ready$x), "row"), " by ", counted(ncol(ready$x), "column"), ", ",
         if (identical(indices, "standard")) "with reference tables and resamples for the indices"
         else "with the fast indices", ".")
}

# Cells of the table times fits: how a fit grows, roughly.
fit_work <- function(ready, asked) {
  if (!is.null(ready$x)) as.double(length(ready$x)) * length(asked$methods) * sum(asked$k)
}

# A guess from the last fit on this page; none where that was another kind of work.
guess_words <- function(last, work, indices) {
  if (!is.null(last) && !is.null(work) && identical(last$indices, indices)) {
    paste0("About ", max(1, signif(last$seconds * work / last$work, 1L)), " s, going by the last fit.")
  }
}
