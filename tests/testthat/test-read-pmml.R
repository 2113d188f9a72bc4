# A partition in PMML: read back by an evaluator that knows only the standard, it gives the labels of predict().

expect_pmml_as_predict <- function(groups, table, reach = 1, info = NULL) {
  file <- withr::local_tempfile(fileext = ".pmml")
  fl_export(groups, file, reach = reach)
  found <- pmml_scored(file, as.data.frame(table))
  placed <- suppressWarnings(fl_place(groups, table, reach = reach, strict = FALSE))$rows
  expect_identical(as.integer(found$`group number`), as.integer(placed$group), info = info)
  expect_identical(as.integer(found$`nearest group`), as.integer(placed$nearest), info = info)
  expect_identical(as.character(found$`group name`), placed$name, info = info)
}

test_that("on every demo table PMML gives the labels of predict(), every one", {
  skip_if_not_installed("xml2")
  for (name in fl_demos()$name) {
    data <- fl_demo(name)
    ready <- fl_prepare(data)
    for (method in c("kmeans", "fuzzy", "mixed", "medoids")) {
      groups <- fl_partition(ready, method, k = 4)
      expect_pmml_as_predict(groups, data, info = paste(name, method))
      expect_pmml_as_predict(groups, shaken_rows(data), reach = 0.9, info = paste(name, method, "shaken"))
    }
  }
})

test_that("every step of a preparation and every metric", {
  skip_if_not_installed("xml2")
  water <- fl_demo("water_samples")
  new <- shaken_rows(water)
  for (transform in names(transforms)) {
    expect_pmml_as_predict(fl_partition(fl_prepare(water, transform = transform), k = 5), new, info = transform)
  }
  far <- fl_prepare(water, outliers = "winsorise", scale = "median_iqr", missing = "middle", transform = c(turbidity = "log"))
  expect_pmml_as_predict(fl_partition(far, k = 5), new)
  expect_pmml_as_predict(fl_partition(fl_prepare(water, reduce = 3, weights = c(salinity = 2)), k = 5), new, reach = Inf)
  visits <- fl_demo("vessel_visits")
  groups <- fl_partition(fl_prepare(visits, missing = "middle", weights = c(cargo = 0.5)), "mixed", k = 4)
  expect_pmml_as_predict(fl_name(groups), shaken_rows(visits))
  table <- data.frame(a = rnorm(60), b = rep(c(TRUE, FALSE), 30), row = 1:60)
  expect_pmml_as_predict(fl_partition(fl_prepare(fl_data(table, features = c("a", "b"))), k = 1), table)
  casts <- fl_prepare(fl_demo("mooring_casts"), scale = "none")
  for (method in list(fl_method("kmeans", metric = "cosine"), fl_method("kmeans", metric = "correlation"),
                      fl_method("medoids", metric = "manhattan"), fl_method("medoids", metric = "chebyshev"))) {
    expect_pmml_as_predict(fl_partition(casts, method, k = 3), shaken_rows(fl_demo("mooring_casts")), reach = 0.9,
                           info = method$settings$metric)
  }
})

test_that("the document has the parts of the standard, in its order, with names as text", {
  skip_if_not_installed("xml2")
  file <- withr::local_tempfile(fileext = ".pmml")
  table <- stats::setNames(heaps()[2:3], c("a <b> & \"c\"", "scaled a"))
  groups <- fl_name(fl_partition(fl_prepare(fl_data(table, name = "x <y>")), k = 3), c("1 < 2", "\"b\"", "c"))
  fl_export(groups, file)
  document <- xml2::read_xml(file)
  expect_equal(xml2::xml_attr(document, "version"), "4.4")
  expect_equal(unname(xml2::xml_ns(document)[1]), "http://www.dmg.org/PMML-4_4")
  plain <- xml2::xml_ns_strip(document)
  expect_equal(xml2::xml_name(xml2::xml_children(plain)),
               c("Header", "DataDictionary", "TransformationDictionary", "ClusteringModel"))
  model <- xml2::xml_find_first(plain, "ClusteringModel")
  expect_equal(unique(xml2::xml_name(xml2::xml_children(model))),
               c("MiningSchema", "Output", "ComparisonMeasure", "ClusteringField", "Cluster"))
  expect_equal(xml2::xml_attr(xml2::xml_find_all(plain, "//DataField"), "name"), names(table))
  named <- xml2::xml_attr(xml2::xml_find_all(plain, "//DerivedField | //DataField"), "name")
  expect_equal(anyDuplicated(named), 0)
  expect_pmml_as_predict(groups, table)
})

test_that("what the standard cannot say is refused", {
  skip_if_not_installed("xml2")
  file <- withr::local_tempfile(fileext = ".pmml")
  ready <- water_ready()
  mixture <- fl_partition(ready, fl_method("mixture", restarts = 1, covariance = "diagonal/common"), k = 3)
  expect_error(fl_export(mixture, file), class = "fjordline_error_method", "densities")
  expect_error(fl_export(fl_partition(ready, "dbscan"), file), class = "fjordline_error_method")
  expect_error(fl_export(fl_partition(ready, k = 3), file, table = "t"), class = "fjordline_error_argument", ".sql")
  expect_error(fl_export(fl_partition(ready, k = 3), file, what = "centres"), class = "fjordline_error_argument")
  expect_false(file.exists(file))
})
