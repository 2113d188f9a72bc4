# Calls at a made-up harbour: numbers, yes-or-no columns and categories about every visit. Five kinds of traffic lie
# behind them, but no column says so. Hours of overstay are kept aside to read groups with.
# Run from the package's folder: Rscript data-raw/vessel_visits.R
set.seed(9146)

kinds <- list(
  fishing = list(n = 760, length = c(17, 5), draught = c(3.1, 0.5), crew = 4, hours = c(2.4, 0.5), tonnes = c(2.6, 0.8),
                 cargo = c(fish = 88, ice = 9, none = 3), berth = c(north = 70, inner = 25, quay = 5),
                 pilot = 0.01, reefer = 0.75, night = 0.55, overstay = 0.8),
  coaster = list(n = 430, length = c(82, 14), draught = c(5.4, 0.6), crew = 9, hours = c(2.9, 0.4), tonnes = c(7.3,
                                                                                                               0.6),
                 cargo = c(timber = 38, salt = 27, `fish feed` = 30, ice = 5), berth = c(quay = 85, north = 15),
                 pilot = 0.35, reefer = 0.08, night = 0.3, overstay = 3.5),
  ferry = list(n = 390, length = c(64, 4), draught = c(3.6, 0.25), crew = 14, hours = c(0.2, 0.25), tonnes = c(4.4,
                                                                                                               0.5),
               cargo = c(passengers = 100), berth = c(ferry = 97, quay = 3),
               pilot = 0.02, reefer = 0.02, night = 0.18, overstay = 0.1),
  cruise = list(n = 110, length = c(215, 38), draught = c(7.4, 0.5), crew = 480, hours = c(2.2, 0.2), tonnes = c(3.2,
                                                                                                                 0.7),
                cargo = c(passengers = 100), berth = c(anchorage = 68, quay = 32),
                pilot = 0.98, reefer = 0.02, night = 0.08, overstay = 0.5),
  service = list(n = 330, length = c(31, 9), draught = c(3.9, 0.6), crew = 7, hours = c(3.6, 0.8), tonnes = c(3.1, 0.9),
                 cargo = c(none = 55, equipment = 45), berth = c(inner = 60, quay = 30, north = 10),
                 pilot = 0.05, reefer = 0.03, night = 0.4, overstay = 6)
)

visits <- do.call(rbind, lapply(kinds, function(k) {
  n <- k$n
  pick <- function(odds) sample(names(odds), n, replace = TRUE, prob = odds)
  length <- pmax(6, rnorm(n, k$length[1], k$length[2]))
  stay <- exp(rnorm(n, k$hours[1], k$hours[2]))
  data.frame(
    length = round(length, 1), draught = round(pmax(1, rnorm(n, k$draught[1],
                                                             k$draught[2]) + 0.004 * (length - k$length[1])), 1),
    crew = 1 + rpois(n, k$crew), hours = round(stay, 1), tonnes = round(exp(rnorm(n, k$tonnes[1], k$tonnes[2])), 1),
    pilot = runif(n) < k$pilot, reefer = runif(n) < k$reefer, night = runif(n) < k$night, cargo = pick(k$cargo),
    berth = pick(k$berth), overstay = round(rexp(n, 1 / k$overstay) * (runif(n) < 0.35), 1)
  )
}))
n <- nrow(visits)
visits$condition <- cut(visits$hours / 30 + rnorm(n), c(-Inf, -0.4, 1, Inf), c("good", "fair", "poor"))
visits$arrival <- as.Date("2031-01-01") + sample(0:364, n, replace = TRUE)
visits <- visits[order(visits$arrival, visits$hours), ]
visits$visit <- sprintf("V-%05d", 30000 + seq_len(n))
visits$tonnes[sample(n, 46)] <- NA
visits$cargo[sample(n, 21)] <- NA
visits <- visits[, c("visit", "arrival", "length", "draught", "crew", "hours", "tonnes", "pilot", "reefer", "night",
                     "cargo",
                     "berth", "condition", "overstay")]
write.csv(visits, "inst/extdata/vessel_visits.csv", row.names = FALSE, quote = FALSE, na = "")
