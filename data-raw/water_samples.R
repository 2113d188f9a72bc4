# Water samples of a made-up fjord: five water masses with different temperature, salinity, oxygen and turbidity.
# Density and the speed of sound follow from the others, so that columns overlap as they do in real tables.
# Run from the package's folder: Rscript data-raw/water_samples.R
set.seed(4107)

masses <- list(
  "surface brackish" = list(n = 214, depth = c(0, 14), salinity = c(23.0, 3.0), warm = c(10.8, 1.3), tilt = -0.16,
                            oxygen = c(7.0, 0.50), turbidity = c(1.0, 0.45)),
  "intermediate" = list(n = 158, depth = c(15, 60), salinity = c(30.4, 1.3), warm = c(7.9, 0.9), tilt = -0.25,
                        oxygen = c(6.0, 0.50), turbidity = c(0.2, 0.45)),
  "basin" = list(n = 124, depth = c(90, 260), salinity = c(33.7, 0.45), warm = c(6.3, 0.5), tilt = 0.3,
                 oxygen = c(2.9, 0.85), turbidity = c(-0.5, 0.45)),
  "shelf inflow" = list(n = 78, depth = c(50, 140), salinity = c(34.4, 0.40), warm = c(8.7, 0.7), tilt = 0.4,
                        oxygen = c(5.0, 0.55), turbidity = c(-0.8, 0.45)),
  "glacial melt" = list(n = 38, depth = c(0, 8), salinity = c(14.5, 3.4), warm = c(3.9, 1.2), tilt = 0.10,
                        oxygen = c(8.1, 0.40), turbidity = c(3.1, 0.60))
)

simulate <- function(mass, name) {
  n <- mass$n
  depth <- runif(n, mass$depth[1], mass$depth[2])
  off <- rnorm(n)
  salinity <- mass$salinity[1] + mass$salinity[2] * off
  temperature <- mass$warm[1] + mass$tilt * mass$salinity[2] * off + rnorm(n, sd = mass$warm[2])
  oxygen <- mass$oxygen[1] - 0.25 * (depth - mean(mass$depth)) / diff(mass$depth) + rnorm(n, sd = mass$oxygen[2])
  turbidity <- exp(rnorm(n, mass$turbidity[1], mass$turbidity[2]))
  data.frame(depth, temperature, salinity, oxygen, turbidity, water_mass = name)
}

water <- do.call(rbind, Map(simulate, masses, names(masses)))

# a few samples were taken where two waters mix
mix <- sample(which(water$water_mass == "surface brackish"), 34)
deep <- sample(which(water$water_mass == "intermediate"), 34)
share <- runif(34, 0.25, 0.6)
for (column in c("temperature", "salinity", "oxygen")) {
  water[mix, column] <- (1 - share) * water[mix, column] + share * water[deep, column]
}

water$density <- 1000 + 0.79 * water$salinity - 0.0055 * (water$temperature - 3.9)^2 - 0.03 * water$temperature +
  0.0046 * water$depth + rnorm(nrow(water), sd = 0.3)
# the leading terms of Mackenzie (1981), Nine-term equation for sound speed in the oceans, doi 10.1121/1.386920
water$sound_speed <- 1448.96 + 4.591 * water$temperature - 0.05304 * water$temperature^2 +
  1.34 * (water$salinity - 35) + 0.0163 * water$depth + rnorm(nrow(water), sd = 0.15)

# a made-up fjord, placed in the open ocean
stations <- data.frame(station = c("inner basin", "glacier front", "narrows", "ferry landing", "outer sill"),
                       longitude = c(-33.158, -33.093, -33.345, -33.269, -33.582),
                       latitude = c(61.482, 61.517, 61.430, 61.451, 61.377))
odds <- rbind(`surface brackish` = c(3, 1, 3, 3, 2), intermediate = c(3, 1, 3, 2, 3), basin = c(6, 1, 2, 1, 0.3),
              `shelf inflow` = c(0.5, 0.1, 2, 1, 6), `glacial melt` = c(1.5, 8, 0.3, 0.2, 0))
at <- vapply(water$water_mass, function(m) sample(5L, 1L, prob = odds[m, ]), 1L)
water$station <- stations$station[at]
water$longitude <- round(stations$longitude[at] + rnorm(nrow(water), sd = 0.004), 4)
water$latitude <- round(stations$latitude[at] + rnorm(nrow(water), sd = 0.002), 4)
water$date <- as.Date("2031-04-03") + sample(0:180, nrow(water), replace = TRUE)

water <- water[order(water$date, water$station, water$depth), ]
water$sample <- sprintf("WS-%04d", 1001:(1000 + nrow(water)))
rounding <- c(depth = 1, temperature = 2, salinity = 2, oxygen = 2, turbidity = 2, density = 2, sound_speed = 1)
for (column in names(rounding)) water[[column]] <- round(water[[column]], rounding[[column]])

# the oxygen probe failed now and then, the turbidity lamp on one day
water$oxygen[sample(nrow(water), 7)] <- NA
water$turbidity[sample(nrow(water), 4)] <- NA
water$sound_speed[sample(nrow(water), 3)] <- NA

water <- water[, c("sample", "station", "date", "longitude", "latitude", "depth", "temperature", "salinity", "density",
                   "oxygen", "turbidity", "sound_speed", "water_mass")]
write.csv(water, "inst/extdata/water_samples.csv", row.names = FALSE, quote = FALSE, na = "")
