# A partition of centres in the Predictive Model Markup Language, version 4.4: an open standard of the Data Mining
# Group, which other systems score. https://dmg.org/pmml/v4-4-1/ClusteringModel.html

pmml_form <- "pmml"

write_pmml <- function(partition, file, reach) {
  need_package("xml2", "Writing PMML")
  document <- pmml_document(partition, reach)
  write_whole(file, function(draft) xml2::write_xml(document, draft))
}

pmml_document <- function(partition, reach = 1) {
  check_made_by(partition, "fl_partition", "x")
  check_reach(reach)
  rule <- formula_rule(partition, partition)
  if (!is.null(rule$tails)) {
    fl_abort("method", paste0("PMML has no words for the densities of ", partition$method$label, "."),
             found = "Its clustering models place rows by the distance to centres.",
             advice = "A file that ends in .sql takes every mixture.")
  }
  columns <- partition$ready$columns
  names(columns) <- paste0("v", seq_along(columns))
  prepared <- preparation_formulas(partition$ready, columns)
  x <- formula_names("x", prepared$made)
  stages <- c(list(read = read_formulas(columns)), prepared$stages, sphere_stages(rule, x), level_stage(rule, x))
  derived <- pmml_derived(stages, columns, partition$ready$prepared %||% colnames(partition$ready$x))
  model <- pmml_model(partition, rule, derived$fields, reach_limits(partition, reach)$all)
  xml2::as_xml_document(list(PMML = pmml_node(
    c(xmlns = "http://www.dmg.org/PMML-4_4", version = "4.4"),
    list(Header = pmml_node(c(description = paste("The groups of",
                                                  partition$ready$data$name %||% partition$ready$table_name)),
                            list(Application = pmml_node(c(name = "Fjordline", version = package_version_text())))),
         DataDictionary = pmml_node(c(numberOfFields = length(columns)),
                                    pmml_all("DataField", lapply(columns, pmml_field))),
         TransformationDictionary = pmml_node(NULL, pmml_all("DerivedField", derived$made)),
         ClusteringModel = model)
  )))
}

# As xml2 takes it: a list of children, with attributes.
pmml_node <- function(given = NULL, inside = list()) {
  out <- inside
  for (name in names(given)) attr(out, name) <- as.character(given[[name]])
  out
}

pmml_all <- function(name, nodes) stats::setNames(unname(nodes), rep(name, length(nodes)))

pmml_field <- function(form) {
  type <- switch(form$type, category = c("categorical", "string"), ordered = c("ordinal", "string"),
                 logical = c("categorical", "boolean"), c("continuous", "double"))
  values <- lapply(unlist(form$levels), function(level) pmml_node(c(value = level)))
  pmml_node(c(name = form$name, optype = type[1L], dataType = type[2L]), pmml_all("Value", values))
}

# --- fields that are computed

# Truths are read as 1 and 0.
read_formulas <- function(columns) {
  lapply(stats::setNames(nm = names(columns)), function(name) {
    v <- as.name(name)
    if (columns[[name]]$type == "logical") call("when", call("is.na", v), NA_real_, call("==", v, TRUE), 1, 0) else v
  })
}

# Which level a row has in each category, from 1; 0 where it has none that is known.
level_stage <- function(rule, x) {
  if (length(rule$levels) == 0L) {
    return(list())
  }
  codes <- lapply(rule$levels, function(known) {
    when_of(level_tests(known, x), as.list(as.double(seq_len(nrow(known)))), 0)
  })
  names <- paste0("level", seq_along(codes))
  list(level = keep_others(stats::setNames(codes, names), c(names, as.character(x))))
}

# A field for each formula that does more than hand on, named by what was done and to what; `fields`: by the short names
# of the last stage.
pmml_derived <- function(stages, columns, prepared) {
  said <- c(vapply(columns, `[[`, "", "name"), stats::setNames(prepared, paste0("x", seq_along(prepared))))
  fields <- vapply(columns, `[[`, "", "name")
  taken <- unname(fields)
  made <- list()
  for (stage in names(stages)) {
    after <- character()
    for (name in names(stages[[stage]])) {
      formula <- stages[[stage]][[name]]
      if (is.name(formula)) {
        after[name] <- fields[[as.character(formula)]]
      } else {
        field <- free_name(paste(stage, if (name %in% names(said)) said[[name]] else name), taken)
        taken <- c(taken, field)
        made[[field]] <- pmml_node(c(name = field, optype = "continuous", dataType = pmml_type(columns[[name]], stage)),
                                   pmml_of(formula, fields))
        after[name] <- field
      }
    }
    fields <- after
  }
  list(made = unname(made), fields = fields)
}

pmml_type <- function(form, stage) {
  text <- !is.null(form) && form$type %in% c("category", "ordered") && stage %in% c("known", "filled")
  if (text) "string" else "double"
}

pmml_functions <- c(`+` = "+", `-` = "-", `*` = "*", `/` = "/", `<` = "lessThan", `<=` = "lessOrEqual",
                    `>` = "greaterThan", `>=` = "greaterOrEqual", `==` = "equal", `&` = "and", `|` = "or",
                    `!` = "not", is.na = "isMissing",
                    log = "ln", exp = "exp", sqrt = "sqrt", abs = "abs", power = "pow", largest = "max")

pmml_of <- function(formula, fields) {
  if (is.name(formula)) {
    return(list(FieldRef = pmml_node(c(field = fields[[as.character(formula)]]))))
  }
  if (!is.call(formula)) {
    return(list(Constant = pmml_constant(formula)))
  }
  what <- as.character(formula[[1L]])
  parts <- as.list(formula[-1L])
  switch(what,
    when = pmml_when(parts, fields),
    among = pmml_apply("isIn", c(pmml_of(parts[[1L]], fields),
                                 pmml_all("Constant", lapply(parts[[2L]], pmml_constant)))),
    between = list(NormContinuous = pmml_node(
      c(field = fields[[as.character(parts[[1L]])]], outliers = "asExtremeValues"),
      pmml_all("LinearNorm", Map(function(at, value) pmml_node(c(orig = exact_text(at), norm = exact_text(value))),
                                 pmml_knots(parts[[2L]]), pmml_knots(parts[[3L]])))
    )),
    pmml_apply(pmml_functions[[what]], do.call(c, lapply(parts, pmml_of, fields = fields)))
  )
}

# A line needs two knots.
pmml_knots <- function(values) if (length(values) == 1L) rep(values, 2L) else values

pmml_apply <- function(name, inside) list(Apply = pmml_node(c(`function` = name), inside))

pmml_when <- function(parts, fields) {
  otherwise <- if (length(parts) > 3L) pmml_when(parts[-(1:2)], fields) else pmml_of(parts[[3L]], fields)
  pmml_apply("if", c(pmml_of(parts[[1L]], fields), pmml_of(parts[[2L]], fields), otherwise))
}

pmml_constant <- function(v) {
  if (is.na(v)) {
    return(pmml_node(c(missing = "true")))
  }
  type <- switch(typeof(v), character = "string", logical = "boolean", typeof(v))
  pmml_node(c(dataType = type), list(if (is.character(v)) v else if (is.logical(v)) tolower(v) else exact_text(v)))
}

# --- the model

pmml_model <- function(partition, rule, fields, limits) {
  k <- partition$k
  numbers <- unname(fields[paste0("x", rule$numbers)])
  levels <- unname(fields[paste0("level", seq_along(rule$levels))][seq_along(rule$levels)])
  charges <- vapply(seq_along(levels), function(c) max(unlist(lapply(rule$parts, function(part) part$levels[[c]]))), 0)
  compared <- c(lapply(numbers, function(field) pmml_node(c(field = field))),
                Map(function(field, charge) {
                  pmml_node(c(field = field, compareFunction = "delta", fieldWeight = exact_text(charge)))
                }, levels, charges))
  clusters <- lapply(rule$parts, function(part) {
    own <- vapply(part$levels, function(cost) which.min(cost), 0L)
    centre <- c(part$middle, as.double(own))
    pmml_node(c(id = part$group, name = group_names(partition, part$group), size = partition$groups$rows[part$group]),
              list(Array = pmml_node(c(n = length(centre), type = "real"),
                                     list(paste(vapply(centre, exact_text, ""), collapse = " ")))))
  })
  metric <- switch(rule$metric, manhattan = "cityBlock", chebyshev = "chebychev", "euclidean")
  mined <- lapply(partition$ready$columns, function(form) {
    pmml_node(c(name = form$name, usageType = "active", invalidValueTreatment = "asMissing"))
  })
  pmml_node(
    c(modelName = partition$name, functionName = "clustering", modelClass = "centerBased", numberOfClusters = k),
    c(list(MiningSchema = pmml_node(NULL, pmml_all("MiningField", mined)),
           Output = pmml_node(NULL, pmml_all("OutputField", pmml_output(partition, rule, c(numbers, levels), limits))),
           ComparisonMeasure = pmml_node(c(kind = "distance", compareFunction = "absDiff"),
                                         stats::setNames(list(list()), metric))),
      pmml_all("ClusteringField", compared), pmml_all("Cluster", clusters))
  )
}

# The nearest group, the distance to each, and the group: 0 for none of these, missing where a value is.
pmml_output <- function(partition, rule, needed, limits) {
  groups <- seq_len(partition$k)
  away <- paste("distance to", groups)
  distances <- Map(function(name, g) {
    pmml_node(c(name = name, optype = "continuous", dataType = "double", feature = "affinity", value = g))
  }, away, groups)
  fields <- c(stats::setNames(needed, paste0("n", seq_along(needed))), stats::setNames(away, paste0("d", groups)),
              nearest = "nearest group", group = "group number")
  missing <- any_of(lapply(formula_names("n", length(needed)), function(v) call("is.na", v)))
  # as directions, rows and centres have 2 (1 - cosine) as their squared distance
  far <- if (rule$metric %in% sphere_metrics) sqrt(2 * limits) else limits
  within <- if (is.null(limits)) TRUE else any_of(Map(function(d, limit) call("<=", d, limit * (1 + 1e-9)),
                                                      formula_names("d", partition$k), far))
  c(list(pmml_node(c(name = "nearest group", optype = "categorical", dataType = "integer",
                     feature = "predictedValue"))),
    unname(distances),
    list(pmml_node(c(name = "group number", optype = "categorical", dataType = "integer", feature = "transformedValue"),
                   pmml_of(call("when", missing, NA_integer_, within, quote(nearest), 0L), fields)),
         pmml_node(c(name = "group name", optype = "categorical", dataType = "string", feature = "transformedValue"),
                   pmml_of(when_of(lapply(groups, function(g) call("==", quote(group), g)),
                                   as.list(group_names(partition)),
                                   call("when", quote(group == 0L), "none of these", NA_character_)), fields))))
}
