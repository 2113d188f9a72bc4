# What a profile says, in sentences.

#' @export
fl_facts.fl_profile <- function(x) {
  groups <- x$groups
  features <- x$separation[x$separation$role == "feature" & !is.na(x$separation$effect), ]
  best <- utils::head(features, 3L)
  c(
    paste0(capital(spelt(nrow(groups))), if (nrow(groups) == 1L) " group" else " groups",
           if (nrow(groups) > 1L && nrow(best) > 0L) {
             paste0(", told apart most by ", listed(paste0(best$column, " (", effect_said(best), ")")))
           }, "."),
    group_facts(x), tightness_fact(groups, x$partition), tested_facts(x)
  )
}

# What was tested: features, which of them decide, columns kept aside.
tested_facts <- function(x) {
  features <- x$separation[x$separation$role == "feature" & !is.na(x$separation$effect), ]
  c(if (!is.null(x$partition$placed)) placed_fact
    else if (x$partition$method$key == adopted_key) adopted_fact
    else beyond_fact(features, x$sets, !is.null(x$partition$method$settled)),
    deciding_fact(x), aside_fact(x$separation))
}

# How strongly a column tells groups apart: of a number the share of its spread that lies between them.
effect_said <- function(tested) {
  ifelse(tested$test == "F", paste("eta squared", fixed2(tested$effect)), paste("Cramer's V", fixed2(tested$effect)))
}

group_facts <- function(x) {
  vapply(seq_len(nrow(x$groups)), function(g) group_fact(x$groups[g, ], x$partition), "")
}

group_fact <- function(group, partition) {
  paste0(group_title(partition, group$group), ": ", if (group$rows > 0L) {
    paste0(counted(group$rows, "row"), " (", percent(group$share), "); ")
  }, standouts_said(group), ".")
}

standouts_said <- function(groups) {
  ifelse(groups$rows == 0L, "no row", ifelse(nzchar(groups$standouts), groups$standouts,
                                             "near the average of the table"))
}

tightness_fact <- function(groups, partition) {
  if (nrow(groups) < 2L) {
    return(NULL)
  }
  close <- which.min(groups$isolation)
  paste0(capital(group_said(partition, groups$group[which.min(groups$tightness)])), " is the tightest and ",
         group_said(partition, groups$group[which.max(groups$tightness)]), " the loosest; ",
         groups_said(partition, sort(c(groups$group[close], groups$nearest[close]))), " lie closest together.")
}

placed_fact <- paste("The rows were placed into the groups by these features: that they differ between the groups",
                     "proves nothing by itself.")

adopted_fact <- paste("The labels were made elsewhere. If they were made from these features, that they differ between",
                      "the groups proves nothing by itself.")

beyond_fact <- function(features, sets, mixture = FALSE) {
  plain <- "That features differ between groups proves nothing by itself: the groups were made from them."
  tested <- features[!is.na(features$p_beyond), ]
  if (nrow(tested) == 0L) {
    return(paste0(plain, if (mixture) " Under a mixture they are not tested against one cluster."))
  }
  sure <- tested$p_beyond <= 0.05
  said <- if (all(sure)) {
    switch(min(nrow(tested), 3L), "the tested feature differs", "both tested features differ",
           paste("all", nrow(tested), "tested features differ"))
  } else if (!any(sure)) "no feature is shown to differ"
  else paste(sum(sure), "of", nrow(tested), "features differ; not beyond that:", listed(tested$column[!sure]))
  paste0(plain, " Beyond what cutting one cluster in as many pieces gives (p up to 0.05 each, unadjusted; against ",
         sets, " Gaussian clusters and ", sets, " with the columns' own shapes), ", said, ".")
}

deciding_fact <- function(x) {
  audited <- x$separation[!is.na(x$separation$between), ]
  if (nrow(audited) < 2L || nrow(x$groups) < 2L) {
    return(NULL)
  }
  if (all(is.na(audited$decides))) {
    most <- audited[which.max(audited$between), ]
    return(paste0(capital(most$column), " holds ", percent(most$between), " of the spread between groups."))
  }
  deciding <- audited[audited$decides %in% TRUE, ]
  if (nrow(deciding) == 0L) {
    least <- if (all(is.na(audited$without))) NA else min(audited$without, na.rm = TRUE)
    return(paste0("No single feature is shown to decide the groups",
                  if (!is.na(least)) paste0(": without any one of them adjusted Rand with these groups stays at ",
                                            fixed2(least), " or more"), sampled_said(x), "."))
  }
  without <- ifelse(is.na(deciding$without), "", paste0("; without it the adjusted Rand index with these groups is ",
                                                        fixed2(deciding$without)))
  said <- paste0(deciding$column, " (", percent(deciding$between), " of the spread between groups", without, ")")
  paste0(capital(listed(said)), if (nrow(deciding) == 1L) " decides" else " decide", " the groups", sampled_said(x),
         ".")
}

# Which rows the refits were made of.
sampled_said <- function(x) {
  if (length(x$partition$ready$rows) > resample_most_rows) {
    paste0(" (refits of an even sample of ", counted(resample_most_rows, "row"), ")")
  }
}

aside_fact <- function(separation) {
  aside <- separation[separation$role == "aside" & !is.na(separation$p_plain), ]
  if (nrow(aside) == 0L) {
    return(NULL)
  }
  aside$p <- stats::p.adjust(aside$p_plain, "holm")
  sure <- aside[aside$p <= 0.05, ]
  if (nrow(sure) == 0L) {
    return(paste0("No column kept aside is shown to differ between the groups (", listed(aside$column), ")."))
  }
  said <- paste0(sure$column, " (", effect_said(sure), ")")
  paste0(listed(said), ", kept aside, ", if (nrow(sure) == 1L) "differs" else "differ",
         " between the groups (p up to 0.05", if (nrow(aside) > 1L) paste0(", adjusted for ", nrow(aside), " columns"),
         ").")
}
