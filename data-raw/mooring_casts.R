# Salinity casts at a made-up mooring: 32 depths each. The mixing regime is in the shape of the profile; its level moves
# with the season and the year, so that plain distances see the level first.
# Run from the package's folder: Rscript data-raw/mooring_casts.R
set.seed(6035)

depth <- round(seq(1, 125, length.out = 32))

# shapes between 0 (the surface) and 1 (the bottom)
step <- function(at, width) function(z) 1 / (1 + exp(-(z - at) / width))
shapes <- list(
  "two layers" = list(n = 104, curve = function() step(rnorm(1, 22, 3), runif(1, 2.5, 4.5))),
  "deep mixed" = list(n = 78, curve = function() step(rnorm(1, 78, 6), runif(1, 5, 8))),
  "gradual" = list(n = 70, curve = function() {
    power <- runif(1, 0.85, 1.15)
    function(z) (z / 125)^power
  }),
  "intrusion" = list(n = 48, curve = function() {
    base <- step(rnorm(1, 22, 3), runif(1, 2.5, 4.5))
    at <- rnorm(1, 62, 5)
    deep <- runif(1, 0.35, 0.5)
    function(z) base(z) - deep * exp(-((z - at) / 11)^2)
  })
)
seasons <- c("spring", "summer", "autumn", "winter")
odds <- rbind("two layers" = c(3, 6, 3, 0.5), "deep mixed" = c(1.5, 0.5, 2, 6), gradual = c(3, 1, 3, 3),
              intrusion = c(2, 3, 3, 1))

casts <- do.call(rbind, lapply(names(shapes), function(regime) {
  do.call(rbind, lapply(seq_len(shapes[[regime]]$n), function(i) {
    season <- sample(seasons, 1, prob = odds[regime, ])
    surface <- c(spring = 26, summer = 21, autumn = 25, winter = 29)[[season]] + rnorm(1, sd = 2.2)
    bottom <- 33.8 + rnorm(1, sd = 0.5)
    profile <- surface + (bottom - surface) * shapes[[regime]]$curve()(depth)
    profile <- profile + as.numeric(stats::filter(rnorm(length(depth) + 4, sd = 0.28), rep(1 / 3,
                                                                                           3)))[3:(length(depth) + 2)]
    data.frame(regime = regime, season = season, t(round(profile, 2)))
  }))
}))
names(casts)[-(1:2)] <- sprintf("salinity_%03d", depth)
month <- c(spring = 3, summer = 6, autumn = 9, winter = 12)
casts$date <- as.Date(sprintf("%d-%02d-01", sample(2026:2030, nrow(casts), replace = TRUE), month[casts$season])) +
  sample(0:88, nrow(casts), replace = TRUE)
casts <- casts[order(casts$date), ]
casts$cast <- sprintf("MC-%03d", seq_len(nrow(casts)))
casts <- casts[, c("cast", "date", "season", sprintf("salinity_%03d", depth), "regime")]
write.csv(casts, "inst/extdata/mooring_casts.csv", row.names = FALSE, quote = FALSE, na = "")
