# Writes README.md from README.Rmd: every output in it is made here, by the installed package.
rmarkdown::render("README.Rmd", output_file = "README.md", quiet = TRUE)
unlink("README.html")
size <- file.size("README.md")
cat("README.md:", size, "bytes\n")
quit(save = "no", status = as.integer(size > 10240))
