# Without this the kernels would be built for debugging, and a later install would take those slow objects.
options(pkg.build_extra_flags = FALSE)
# Regenerates NAMESPACE, man/, the Rcpp bindings and the tables of README.md that follow from the registries.
Rcpp::compileAttributes()
roxygen2::roxygenise(load_code = roxygen2::load_source)
package <- roxygen2::load_source(".")
writeLines(package$between_marks(readLines("README.md"), "methods", package$readme_methods()), "README.md")
