# Prints the style findings; none is wanted.
found <- lintr::lint_package(".")
extra <- lapply(c("bench", "data-raw", "dev"), function(folder) lintr::lint_dir(folder))
found <- c(unclass(found), unlist(lapply(extra, unclass), recursive = FALSE))
for (one in found) cat(one$filename, ":", one$line_number, ": ", one$message, "\n", sep = "")
cat(length(found), "style findings\n")
quit(save = "no", status = as.integer(length(found) > 0))
