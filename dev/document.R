# Regenerates NAMESPACE, man/ and the Rcpp bindings.
Rcpp::compileAttributes()
roxygen2::roxygenise(load_code = roxygen2::load_source)
