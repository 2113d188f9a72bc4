# A summer of readings from one spot of a made-up fjord: columns that go together, and no groups at all.
# Run from the package's folder: Rscript data-raw/still_water.R
set.seed(861)

n <- 500
hidden <- matrix(rnorm(n * 2), n)
reading <- function(weights, middle, sd) {
  mixed <- hidden %*% weights
  own <- sqrt(1 - sum(weights^2))
  middle + sd * as.numeric(mixed + own * rnorm(n))
}
still <- data.frame(
  reading = sprintf("R%03d", seq_len(n)),
  day = format(as.Date("2031-06-01") + sort(sample(0:91, n, replace = TRUE))),
  temperature = round(reading(c(0.85, 0.1), 12.4, 1.3), 2),
  salinity = round(reading(c(-0.7, 0.4), 27.9, 1.1), 2),
  oxygen = round(reading(c(-0.5, -0.6), 6.4, 0.5), 2),
  chlorophyll = round(reading(c(0.3, 0.8), 3.1, 0.6), 2),
  current_speed = round(reading(c(0, 0.3), 18, 4), 1)
)
write.csv(still, "inst/extdata/still_water.csv", row.names = FALSE, quote = FALSE)
