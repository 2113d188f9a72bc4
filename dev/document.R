# Without this the kernels would be built for debugging, and a later install would take those slow objects.
options(pkg.build_extra_flags = FALSE)
# Regenerates NAMESPACE, man/ and the Rcpp bindings.
Rcpp::compileAttributes()
roxygen2::roxygenise(load_code = roxygen2::load_source)

# The pages of help that the shell command shows without loading the package.
pages <- roxygen2::load_source(".")$cli_pages()
dir.create("inst/cli/help", showWarnings = FALSE)
for (page in names(pages)) writeLines(pages[[page]], file.path("inst/cli/help", paste0(page, ".txt")), useBytes = TRUE)
