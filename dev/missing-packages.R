# Prints, one a line, the packages named in DESCRIPTION that this R cannot find.
# Arguments: names of further DESCRIPTION fields to look in (Config/Needs/develop); `needed` leaves out the optional
# ones.
asked <- commandArgs(trailingOnly = TRUE)
fields <- c("Imports", "LinkingTo", if (!"needed" %in% asked) "Suggests", setdiff(asked, "needed"))
wanted <- read.dcf("DESCRIPTION")[1L, ]
wanted <- unlist(strsplit(wanted[intersect(fields, names(wanted))], ","))
wanted <- sort(unique(trimws(sub("\\(.*", "", wanted))))
found <- vapply(wanted, function(p) length(find.package(p, quiet = TRUE)) > 0L, NA)
writeLines(wanted[!found])
