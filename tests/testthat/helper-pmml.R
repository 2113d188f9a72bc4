# A small evaluator of PMML 4.4 that knows only the standard: fields, expressions, and clustering models of centres.
# https://dmg.org/pmml/v4-4-1/

pmml_attribute <- function(node, name) {
  value <- xml2::xml_attr(node, name)
  if (is.na(value)) NULL else value
}

pmml_find <- function(node, path) xml2::xml_find_all(node, path)

pmml_typed <- function(text, type) switch(type, double = , integer = as.double(text), boolean = text == "true", text)

pmml_evaluate <- function(node, fields, n) {
  inside <- xml2::xml_children(node)
  switch(xml2::xml_name(node),
    FieldRef = fields[[xml2::xml_attr(node, "field")]],
    Constant = if (identical(pmml_attribute(node, "missing"), "true")) rep(NA, n)
    else rep(pmml_typed(xml2::xml_text(node), xml2::xml_attr(node, "dataType")), n),
    NormContinuous = {
      stopifnot(xml2::xml_attr(node, "outliers") == "asExtremeValues")
      at <- as.double(xml2::xml_attr(inside, "orig"))
      value <- as.double(xml2::xml_attr(inside, "norm"))
      v <- fields[[xml2::xml_attr(node, "field")]]
      if (length(unique(at)) == 1) ifelse(is.na(v), NA, value[1]) else approx(at, value, v, rule = 2, ties = "ordered")$y
    },
    Apply = pmml_function(xml2::xml_attr(node, "function"), lapply(inside, pmml_evaluate, fields = fields, n = n)),
    stop("no such element: ", xml2::xml_name(node))
  )
}

# A test that is missing makes if() missing; and, or follow three-valued logic.
pmml_function <- function(name, a) {
  two <- function(f) f(a[[1]], a[[2]])
  switch(name,
    `+` = two(`+`), `-` = two(`-`), `*` = two(`*`), `/` = two(`/`), pow = two(`^`), equal = two(`==`),
    lessThan = two(`<`), lessOrEqual = two(`<=`), greaterThan = two(`>`), greaterOrEqual = two(`>=`),
    and = Reduce(`&`, a), or = Reduce(`|`, a), not = !a[[1]], isMissing = is.na(a[[1]]),
    isIn = ifelse(is.na(a[[1]]), NA, Reduce(`|`, lapply(a[-1], function(v) a[[1]] == v))),
    ln = suppressWarnings(log(a[[1]])), exp = exp(a[[1]]), sqrt = suppressWarnings(sqrt(a[[1]])), abs = abs(a[[1]]),
    `if` = {
      no <- if (length(a) > 2) a[[3]] else NA
      out <- ifelse(a[[1]], a[[2]], no)
      out[is.na(a[[1]])] <- NA
      out
    },
    stop("no such function: ", name)
  )
}

# Rows through a PMML file: a list of the output fields.
pmml_scored <- function(file, table) {
  document <- xml2::xml_ns_strip(xml2::read_xml(file))
  n <- nrow(table)
  fields <- list()
  model <- pmml_find(document, "/PMML/ClusteringModel")
  for (field in pmml_find(document, "/PMML/DataDictionary/DataField")) {
    name <- xml2::xml_attr(field, "name")
    known <- xml2::xml_attr(pmml_find(field, "Value"), "value")
    mined <- Filter(function(m) identical(xml2::xml_attr(m, "name"), name), as.list(pmml_find(model, "MiningSchema/MiningField")))
    stopifnot(length(mined) == 1, xml2::xml_attr(mined[[1]], "invalidValueTreatment") == "asMissing")
    v <- table[[name]]
    v <- switch(xml2::xml_attr(field, "dataType"), double = as.double(v), boolean = as.logical(v), as.character(v))
    if (length(known) > 0) v[!v %in% known] <- NA
    fields[[name]] <- v
  }
  for (field in pmml_find(document, "/PMML/TransformationDictionary/DerivedField")) {
    fields[[xml2::xml_attr(field, "name")]] <- pmml_evaluate(xml2::xml_child(field), fields, n)
  }
  measure <- pmml_find(model, "ComparisonMeasure")
  kind <- xml2::xml_name(xml2::xml_child(measure))
  compared <- pmml_find(model, "ClusteringField")
  clusters <- pmml_find(model, "Cluster")
  away <- vapply(clusters, function(cluster) {
    centre <- scan(text = xml2::xml_text(pmml_find(cluster, "Array")), quiet = TRUE)
    stopifnot(length(centre) == as.integer(xml2::xml_attr(pmml_find(cluster, "Array"), "n")))
    gaps <- vapply(seq_along(compared), function(i) {
      v <- fields[[xml2::xml_attr(compared[[i]], "field")]]
      delta <- identical(pmml_attribute(compared[[i]], "compareFunction"), "delta")
      weight <- as.double(pmml_attribute(compared[[i]], "fieldWeight") %||% 1)
      gap <- if (delta) as.double(v != centre[i]) else abs(v - centre[i])
      switch(kind, euclidean = weight * gap^2, cityBlock = weight * gap, chebychev = weight * gap)
    }, double(n))
    gaps <- matrix(gaps, n)
    switch(kind, euclidean = sqrt(rowSums(gaps)), cityBlock = rowSums(gaps), chebychev = apply(gaps, 1, max))
  }, double(n))
  away <- matrix(away, n)
  ids <- as.integer(xml2::xml_attr(clusters, "id"))
  nearest <- apply(away, 1, function(d) if (anyNA(d)) NA else ids[which.min(d)])
  out <- list()
  for (field in pmml_find(model, "Output/OutputField")) {
    name <- xml2::xml_attr(field, "name")
    value <- switch(xml2::xml_attr(field, "feature"), predictedValue = nearest,
                    affinity = away[, match(as.integer(xml2::xml_attr(field, "value")), ids)],
                    transformedValue = pmml_evaluate(xml2::xml_child(field), c(fields, out), n))
    out[[name]] <- value
  }
  out
}
