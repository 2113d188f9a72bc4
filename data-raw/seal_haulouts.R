# Seal haul-outs of a made-up fjord: positions along branching arms and around skerries, with scattered strays. Groups
# follow the shore, so they are curved, of different density, and no centre stands for them.
# Run from the package's folder: Rscript data-raw/seal_haulouts.R
set.seed(2288)

# a curve through waypoints (kilometres east and north), rows spread along it with a width
along <- function(n, east, north, width) {
  at <- sort(runif(n))
  bend <- function(points) splinefun(seq(0, 1, length.out = length(points)), points, method = "natural")(at)
  data.frame(east = bend(east) + rnorm(n, sd = width), north = bend(north) + rnorm(n, sd = width))
}

# a ring of rocks around a skerry
around <- function(n, east, north, radius, width, from = 0, to = 2 * pi) {
  angle <- runif(n, from, to)
  r <- radius + rnorm(n, sd = width)
  data.frame(east = east + r * cos(angle), north = north + r * sin(angle))
}

places <- list(
  "north arm" = along(210, c(2.0, 4.5, 7.5, 9.0, 12.5), c(9.0, 10.6, 10.2, 12.4, 13.4), 0.16),
  "south arm" = along(190, c(2.4, 5.2, 8.0, 11.2, 13.0), c(7.4, 6.0, 6.8, 5.0, 2.4), 0.20),
  "east arm" = along(150, c(7.8, 9.8, 11.6, 14.2), c(8.7, 8.2, 9.1, 8.6), 0.14),
  "outer skerry" = around(130, 1.2, 2.2, 1.05, 0.10),
  "gull skerry" = around(90, 4.9, 2.4, 0.75, 0.07, from = -0.4, to = 3.9),
  "harbour rocks" = data.frame(east = rnorm(60, 8.0, 0.13), north = rnorm(60, 2.3, 0.11))
)
strays <- data.frame(east = runif(70, 0, 15), north = runif(70, 0.5, 14.5))

seals <- do.call(rbind, Map(function(rows, name) cbind(rows, shore = name), c(places, list(stray = strays)),
                            c(names(places), "stray")))
n <- nrow(seals)
seals$date <- as.Date("2031-05-20") + sample(0:110, n, replace = TRUE)
seals$adults <- rpois(n, ifelse(grepl("skerry|rocks", seals$shore), 9, 4)) + 1
seals$pups <- rbinom(n, seals$adults, ifelse(seals$shore == "gull skerry", 0.45, 0.15))

seals <- seals[order(seals$date, seals$east), ]
seals$sighting <- sprintf("HO-%04d", 2001:(2000 + n))
# a flat fjord: 1 degree of longitude is 53.3 km at this latitude, 1 of latitude 111.2 km
seals$longitude <- round(-33.60 + seals$east / 53.3, 5)
seals$latitude <- round(61.35 + seals$north / 111.2, 5)
seals$east <- round(seals$east, 3)
seals$north <- round(seals$north, 3)
seals <- seals[, c("sighting", "date", "east", "north", "longitude", "latitude", "adults", "pups", "shore")]
write.csv(seals, "inst/extdata/seal_haulouts.csv", row.names = FALSE, quote = FALSE, na = "")
