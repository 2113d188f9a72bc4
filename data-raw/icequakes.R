# Seismic events of a made-up calving glacier: four kinds of source, very unequal in number, with heavy tails.
# Run from the package's folder: Rscript data-raw/icequakes.R
set.seed(2291)

# medians; all columns spread log-normally (df: tails of Student's t on the log scale)
kinds <- data.frame(
  source = c("crevassing", "calving", "basal slip", "iceberg roll"),
  n = c(231, 92, 64, 21),
  duration = c(0.9, 28, 5.5, 95), rise_time = c(0.08, 4.2, 0.9, 22), dominant_frequency = c(24, 3.2, 9.5, 0.9),
  energy = c(2.1e3, 9e5, 6e4, 2.5e6)
)
spread <- c(duration = 0.42, rise_time = 0.50, dominant_frequency = 0.28, energy = 1.15)
heavy <- function(n) rt(n, df = 5)

events <- do.call(rbind, lapply(seq_len(nrow(kinds)), function(i) {
  n <- kinds$n[i]
  size <- heavy(n)  # larger events last longer, are lower and more energetic
  data.frame(
    duration = kinds$duration[i] * exp(spread["duration"] * (0.6 * size + 0.8 * heavy(n))),
    rise_time = kinds$rise_time[i] * exp(spread["rise_time"] * (0.5 * size + 0.8 * heavy(n))),
    dominant_frequency = kinds$dominant_frequency[i] *
      exp(spread["dominant_frequency"] * (-0.6 * size + 0.8 * heavy(n))),
    energy = kinds$energy[i] * exp(spread["energy"] * (0.8 * size + 0.6 * heavy(n))),
    distance = runif(n, 0.4, 6.5),
    source = kinds$source[i]
  )
}))
events$time <- as.POSIXct("2031-07-01 00:00:00", tz = "UTC") + sort(runif(nrow(events), 0, 62 * 86400))
events <- events[sample(nrow(events)), ]
events$time <- format(sort(events$time), "%Y-%m-%d %H:%M:%S")
events$event <- sprintf("E%05d", cumsum(sample(1:40, nrow(events), replace = TRUE)) + 20000L)
events$duration <- signif(events$duration, 3)
events$rise_time <- signif(events$rise_time, 2)
events$dominant_frequency <- signif(events$dominant_frequency, 3)
events$energy <- signif(events$energy, 3)
events$distance <- round(events$distance, 2)
events$rise_time[sample(nrow(events), 6)] <- NA
events <- events[, c("event", "time", "duration", "rise_time", "dominant_frequency", "energy", "distance", "source")]
write.csv(events, "inst/extdata/icequakes.csv", row.names = FALSE, quote = FALSE, na = "")
