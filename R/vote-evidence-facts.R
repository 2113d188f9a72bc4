# What the lines of evidence say, in sentences.

# What the count rests on, where there is a mixture.
evidence_fact <- function(x) {
  found <- x$found
  together <- length(x$voters) > 1L
  one <- function(k) if (is.na(k)) "none" else as.character(k)
  with_bic <- together && x$shape$votes > 0  # in small tables BIC has votes beside the indices
  who <- if (with_bic) "The indices of k-means and BIC together" else "The indices of k-means"
  indices <- paste0(who, " prefer ", one(x$indices_say), if (x$pointed != "clear") ", not clearly")
  apart <- apart_words(found)
  switch(
    x$by,
    agreed = paste0(who, if (found$components == found$groups) {
      paste0(", the mixture and ", apart[["it"]], " between its components agree.")
    } else {
      paste0(" and ", apart[["it"]], " between the components agree.")
    }),
    indices = paste0(who, " prefer it", if (x$pointed == "clear") " clearly", "; ", apart[["it"]], " point to ",
                     found$groups, "."),
    components = paste0("The best mixture has ", counted(found$components, "component"),
                        if (found$components > 1L) paste0(", ", apart[["each"]]), ".",
                        if (together) paste0(" ", indices, ".")),
    valleys = paste0("The best mixture has ", counted(found$components, "component"), ", which ",
                     if (found$fits) "look as it assumes" else "stand by BIC alone", "; the dips point to ",
                     found$groups, ".", if (together) paste0(" ", indices, ".")),
    dips = ,
    levels = paste0("Merging the ", counted(found$components, "component"), " until ", apart[["until"]], " leaves ",
                    found$groups, ".", if (together) paste0(" ", indices, ".")),
    weights = paste0("By the weights given (", evidence_said(x), ")."),
    paste0(indices, ".")
  )
}

# Words for components that are apart, and for those that are not.
apart_words <- function(found) {
  if (is.null(found) || found$apart_by == "dips") {
    return(c(it = "the dips", each = "with dips between each two", until = "the rows dip between all",
             rest = "between the others the rows do not dip"))
  }
  c(it = "the differences in levels", each = "each two told apart by their levels",
    until = "all are told apart by their levels", rest = "the others are not told apart by their levels")
}

# Components are told from groups.
components_fact <- function(x) {
  found <- x$found
  if (is.null(found) || x$verdict == "no groups") {
    return(NULL)
  }
  k <- voted_count(x)
  c(
    if (found$components != found$groups) {
      paste0(capital(spelt(found$components)), " components make ", counted(found$groups, "group"),
             ": ", apart_words(found)[["rest"]], ".")
    },
    if (isTRUE(found$with_levels)) {
      "The mixture assumes independent levels within a component; the vote does not test this."
    } else if (anyNA(found$misfit)) "The components have too few rows to test their shape."
    else if (!found$fits) {
      paste0("The components do not look as the mixture assumes (", misfit_words(found),
             "): ", if (found$components == found$groups) "only the dips between them support the number of groups."
             else "their number describes a form, not groups.")
    }
  )
}

voted_count <- function(x) if (is.null(x$settled)) x$k else x$settled$voted

# Two counts can both be right: groups within groups.
levels_fact <- function(x) {
  if (length(x$levels) < 2L || x$verdict == "no groups") {
    return(NULL)
  }
  paste0("Groups within groups: the ", max(x$levels), " lie in ", min(x$levels),
         " clumps far from each other, and each of the two counts is an answer.")
}

# Other models that describe the rows as well but group them otherwise.
rivals_fact <- function(x) {
  rivals <- x$found$rivals
  if (is.null(rivals) || x$verdict == "no groups") {
    return(NULL)
  }
  paste0("Of the mixtures with ", counted(x$found$components, "component"), ", ", spelt(rivals$models),
         if (rivals$models == 1L) " other has" else " others have", " a BIC within ", rivals_within,
         " of the smallest but ", if (rivals$models == 1L) "groups" else "group", " the rows otherwise (adjusted Rand ",
         fixed2(rivals$least),
         if (rivals$models > 1L) " or more", ").")
}

# Where most models fooled themselves, the rest are a poor choice.
left_out_fact <- function(x) {
  models <- x$found$left_out
  if (is.null(models) || models[["left_out"]] * 2L <= models[["of"]] || x$verdict == "no groups") {
    return(NULL)
  }
  paste0(models[["left_out"]], " of ", models[["of"]], " mixture models with ",
         counted(x$found$components, "component"), " do not count, since a component collapsed or vanished.")
}

# Where the two methods put rows into other groups at the count, both are worth a look.
method_groups_fact <- function(x) {
  other <- otherwise_grouped(x)
  if (is.null(other)) {
    return(NULL)
  }
  said <- function(method) method_said(x$sweep$methods[[method]])
  paste0("With ", x$k, " groups the two methods group the rows differently (adjusted Rand ", fixed2(x$alike),
         "). Shown: ", said(x$method), "; the other: ", said(other), ".")
}

# The other of the two methods, where its groups at the count differ.
otherwise_grouped <- function(x) {
  differ <- isTRUE(x$alike < other_groups) && x$verdict != "no groups"
  if (differ) setdiff(x$voters, x$method)[1L]
}

# Rows far from everything are noise.
far_fact <- function(x) {
  if (length(x$far) == 0L) {
    return(NULL)
  }
  paste0(counted(length(x$far), "row"), " (", percent(length(x$far) / length(x$sweep$ready[[x$preparation]]$rows)),
         ") lie far from everything: noise, not a group. Setting them apart leaves them out.")
}
