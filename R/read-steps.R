# The script that makes an object again.

#' @export
fl_steps.fl_data <- function(x) paste("data <-", x$call)

#' @export
fl_steps.fl_prepare <- function(x) {
  c(fl_steps(x$data), if (!is.null(x$outliers)) outlier_steps(x), paste("ready <-", x$call))
}

# The rows were flagged in another preparation, or in this one's table.
outlier_steps <- function(x) c(paste("ready <-", x$outliers$ready$call), paste("outliers <-", x$outliers$call))

#' @export
fl_steps.fl_sweep <- function(x) c(prepare_steps(x$ready), paste("sweep <-", x$call))

prepare_steps <- function(ready) {
  if (length(ready) == 1L) {
    return(fl_steps(ready[[1L]]))
  }
  steps <- unlist(Map(function(one, name) c(fl_steps(one$data), paste(name_code(name), "<-", one$call)), ready,
                      names(ready)))
  unique(unname(steps))
}

#' @export
fl_steps.fl_vote <- function(x) {
  c(fl_steps(x$sweep), paste("vote <-", x$call), if (!is.null(x$settled)) paste("vote <-", x$settle_call))
}

#' @export
fl_steps.fl_partition <- function(x) c(fitting_steps(x), naming_steps(x))

fitting_steps <- function(x) {
  if (!is.null(x$placed)) {
    return(placed_steps(x))
  }
  if (!is.null(x$origin)) {
    return(c(x$before, paste("groups <-", x$call)))
  }
  need_rows(x)
  taken <- !is.null(x$sweep_steps)
  if (!is.null(x$vote)) {
    return(c(fl_steps(x$vote), paste("groups <-", if (taken) "fl_take(vote)" else x$call)))
  }
  c(if (taken) x$sweep_steps else fl_steps(x$ready), paste("groups <-", x$call))
}

# Names as they are, wherever they came from.
naming_steps <- function(x) {
  inherited <- identical(x$names, x$placed$partition$names)
  if (has_names(x) && !inherited) paste("groups <-", code_call("fl_name", verbatim("groups"), names = x$names))
}

# What is made of a partition, by the call that made it.
made_of_groups <- function(name) {
  force(name)
  function(x) c(fl_steps(x$partition), paste(name, "<-", x$call))
}

#' @export
fl_steps.fl_profile <- made_of_groups("profile")

#' @export
fl_steps.fl_outcome <- made_of_groups("outcome")

#' @export
fl_steps.fl_paths <- made_of_groups("paths")

#' @export
fl_steps.fl_reliability <- made_of_groups("reliability")

#' @export
fl_steps.fl_agree <- function(x) {
  if (is.null(x$partition)) {
    fl_abort("argument", "This agreement compares vectors: it has no table to begin at.")
  }
  c(fl_steps(x$partition), paste("agreement <-", x$call))
}

#' @export
fl_steps.fl_mismatches <- function(x) c(fl_steps(x$agreement), "mismatches <- fl_mismatches(agreement)")

#' @export
fl_steps.fl_contrast <- function(x) {
  second <- sub("^groups <-", "others <-", sub("(fl_name\\()groups", "\\1others", fl_steps(x$b)))
  c(fl_steps(x$a), setdiff(second, fl_steps(x$a)), paste("contrast <-", x$call))
}

#' @export
fl_steps.fl_lineage <- function(x) {
  named <- if (!is.null(x$named)) setdiff(fl_steps(x$named), x$partitions[[1L]]$sweep_steps)
  named <- sub("^groups <-", "named <-", sub("(fl_name\\()groups", "\\1named", named))
  c(x$partitions[[1L]]$sweep_steps, named, paste("lineage <-", x$call))
}
