# Builds the site into build/site, from what is on this machine alone.
# usage: Rscript dev/site.R [quick]     quick leaves out the examples of the help pages
quick <- "quick" %in% commandArgs(TRUE)
options(pkgdown.internet = FALSE)
unlink("build/site", recursive = TRUE)
pkgdown::build_site(override = list(destination = "build/site"), examples = !quick, devel = FALSE, preview = FALSE,
                    install = FALSE, new_process = FALSE)

# The README's links to pictures and sources become links of the site.
dir.create("build/site/docs", showWarnings = FALSE)
invisible(file.copy("docs/screenshots", "build/site/docs", recursive = TRUE))
page <- readLines("build/site/index.html", encoding = "UTF-8")
page <- gsub("href=\"vignettes/(articles/)?([a-z-]+)[.]Rmd\"", "href=\"articles/\\2.html\"", page)
page <- gsub("href=\"(NEWS)[.]md\"", "href=\"news/index.html\"", page)
page <- gsub("href=\"bench/README[.]md\"", "href=\"articles/validation.html\"", page)
writeLines(page, "build/site/index.html", useBytes = TRUE)
