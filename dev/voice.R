# Prints where the words people read break the rules of how Fjordline speaks: texts in the code, help, README, articles,
# reports. None is wanted. What a pattern cannot find a reader must.
rules <- c(
  "per, not a" = paste0("\\b([Aa]|[Oo]ne) (row|column|line|label|point|panel|bar|name|vote|sentence|record|rule|",
                         "category) an? [a-z]+"),
  "an actor says it" = "\\b(is|are) said\\b",
  "not a, not no" = paste0("(?<!There )\\b(is|are) no (feature|store|study|method|index|list|table|partition|number|",
                            "file|JSON|YAML)\\b"),
  "0.98, never .98" = "(^|[ (=])\\.[0-9]",
  "36%, no space" = "[0-9] %(?![a-z%*|])",
  "subject, verb, object" = paste0("\\b(Most weight have|First of [a-z]+ stands?|By chance as good|Most like it is|",
                                   "Most is lost by|Tightest is|Of the columns|Of the indices [a-z_]+ )"),
  "depends on" = "\\b(hangs?|hanging) on\\b",
  "nobody would rather" = "\\b(would rather|has a voice|to be believed|are heard|without a voice)\\b",
  "one word per thing" = paste0("\\b(prepared units|off the matching|(?<!Hierarchical )groupings?|one heap|",
                                "heaps of rows|condensed tree|learnt|elliptic groups|survives? other)\\b"),
  "no imperative without a test" = "\\btake linkage|, take [a-z]+\\("
)

# Texts in code, and the lines of help above it.
texts_of_code <- function(file) {
  data <- utils::getParseData(parse(file, keep.source = TRUE))
  strings <- data[data$token == "STR_CONST", c("line1", "text")]
  lines <- readLines(file, encoding = "UTF-8")
  help <- which(startsWith(lines, "#'") & !grepl("^#' (@examples|@export|\\\\doi)", lines))
  rbind(data.frame(line = strings$line1, text = gsub("^[\"']|[\"']$", "", strings$text)),
        data.frame(line = help, text = sub("^#' ?", "", lines[help])))
}

# Prose of Markdown: not what stands in code fences or is indented as code.
texts_of_prose <- function(file) {
  lines <- readLines(file, encoding = "UTF-8")
  fenced <- cumsum(grepl("^```", lines)) %% 2L == 1L
  kept <- which(!fenced & !grepl("^    ", lines))
  data.frame(line = kept, text = lines[kept])
}

findings <- function(file) {
  texts <- if (grepl("[.]R$", file)) texts_of_code(file) else texts_of_prose(file)
  out <- lapply(names(rules), function(rule) {
    hit <- grepl(rules[[rule]], texts$text, perl = TRUE)
    if (any(hit)) paste0(file, ":", texts$line[hit], ": ", rule, ": ", trimws(texts$text[hit]))
  })
  unlist(out)
}

files <- c(setdiff(list.files("R", "[.]R$", full.names = TRUE), "R/RcppExports.R"), "README.md", "NEWS.md",
           "ARCHITECTURE.md", list.files("vignettes", "[.]Rmd$", full.names = TRUE, recursive = TRUE),
           list.files("inst/reports", "[.]Rmd$", full.names = TRUE))
found <- unlist(lapply(files[file.exists(files)], findings))
if (length(found) > 0L) cat(found, sep = "\n")
cat(length(found), "findings of the voice\n")
quit(save = "no", status = as.integer(length(found) > 0))
