# Without this the kernels would be built for debugging, and a later install would take those slow objects.
options(pkg.build_extra_flags = FALSE)
# Regenerates NAMESPACE, man/ and the Rcpp bindings.
Rcpp::compileAttributes()
roxygen2::roxygenise(load_code = roxygen2::load_source)
