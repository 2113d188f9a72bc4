# Builds the site into build/site, from what is on this machine alone.
# usage: Rscript dev/site.R [quick]     quick leaves out the examples of the help pages
quick <- "quick" %in% commandArgs(TRUE)
pkgdown::build_site(override = list(destination = "build/site"), examples = !quick, devel = FALSE, preview = FALSE,
                    install = FALSE, new_process = FALSE)
