# Files that say what to do: studies, and tables with their preparation.
study_lines <- c(
  "study: types", "seed: 7", "datasets:", "  - {name: still, demo: still_water}",
  "  - {name: own, file: own.csv, truth: ice, id: cast, aside: [day, note]}", "preparations:",
  "  - {name: plain, scale: mean_sd}",
  "  - {name: other, scale: median_iqr, use: [salinity, depth], datasets: [own]}", "methods:", "  - kmeans",
  "  - {linkage: {join: [ward, average]}}", "  - {name: quick, kmeans: {restarts: 2}}", "counts: 1-6", "repeats: 2",
  "indices: fast", "limits: {seconds: 20, megabytes: 500}"
)

attack("study files", function(number) {
  folder <- once("folder of studies", function() {
    folder <- tempfile("studies-")
    dir.create(folder)
    set.seed(5)
    utils::write.csv(some_table(), file.path(folder, "own.csv"), row.names = FALSE)
    folder
  })
  file <- file.path(folder, "study.yml")
  if (number %% 2 == 0) writeBin(damaged_bytes(charToRaw(paste(study_lines, collapse = "\n"))), file)
  else writeLines(damaged_text(study_lines), file)
  outcome_of({
    format(fl_study_file(file))
    TRUE
  })
}, 900)
