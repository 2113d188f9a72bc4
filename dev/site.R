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

# The list "On this page" is made here, so that it is there without a connection too.
list_headings <- function(file) {
  page <- xml2::read_html(file)
  place <- xml2::xml_find_first(page, "//nav[@id = 'toc']")
  if (inherits(place, "xml_missing")) return()
  heads <- xml2::xml_find_all(page, "//main//*[self::h2 or self::h3][ancestor::div[@id] or @id]")
  target <- vapply(heads, function(head) {
    own <- xml2::xml_attr(head, "id")
    if (is.na(own)) xml2::xml_attr(xml2::xml_find_first(head, "ancestor::div[@id][1]"), "id") else own
  }, "")
  heads <- heads[!is.na(target) & !grepl("toc", target)]
  target <- target[!is.na(target) & !grepl("toc", target)]
  xml2::xml_set_attr(place, "data-toggle", NULL)
  if (length(heads) == 0L) return(xml2::xml_remove(place))
  items <- xml2::xml_add_child(place, "ul", class = "nav flex-column")
  for (i in seq_along(heads)) {
    item <- xml2::xml_add_child(items, "li", class = "nav-item")
    inner <- if (xml2::xml_name(heads[[i]]) == "h3") "nav-link py-0 ps-4" else "nav-link py-1"
    xml2::xml_add_child(item, "a", trimws(sub("#$", "", xml2::xml_text(heads[[i]]))), href = paste0("#", target[i]),
                        class = inner)
  }
  xml2::write_html(page, file)
}
for (file in list.files("build/site", "[.]html$", recursive = TRUE, full.names = TRUE)) list_headings(file)
