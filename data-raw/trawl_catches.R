# Hauls of a made-up catch survey: counts of eight kinds of animals on four kinds of bottom. Counts are whole, skewed
# and more scattered than Poisson (hauls differ in how much they catch), so that no group is an ellipse. Run from the
# package's folder: Rscript data-raw/trawl_catches.R
set.seed(8117)

bottoms <- rbind(
  `kelp edge`   = c(cod = 14, wrasse = 22, crab = 16, flounder = 2, shrimp = 3, eelpout = 2, sprat = 6, starfish = 9),
  `sand flat`   = c(cod = 3, wrasse = 1, crab = 5, flounder = 26, shrimp = 15, eelpout = 2, sprat = 8, starfish = 19),
  `deep basin`  = c(cod = 4, wrasse = 0.2, crab = 2, flounder = 2, shrimp = 42, eelpout = 17, sprat = 2, starfish = 3),
  `river mouth` = c(cod = 1, wrasse = 0.5, crab = 2, flounder = 9, shrimp = 4, eelpout = 0.6, sprat = 38,
                    starfish = 0.5)
)
hauls <- c(148, 121, 84, 63)
depth <- rbind(c(9, 3), c(24, 8), c(148, 30), c(6, 2))

catches <- do.call(rbind, lapply(seq_along(hauls), function(b) {
  n <- hauls[b]
  size <- rgamma(n, shape = 14, rate = 14)
  counts <- vapply(bottoms[b, ], function(mean) rpois(n, mean * size * rgamma(n, shape = 12, rate = 12)), integer(n))
  data.frame(counts, depth = round(pmax(2, rnorm(n, depth[b, 1], depth[b, 2]))), bottom = rownames(bottoms)[b])
}))
catches <- catches[sample(nrow(catches)), ]
catches$date <- as.Date("2031-05-01") + sort(sample(0:150, nrow(catches), replace = TRUE))
catches$haul <- sprintf("H%04d", seq_len(nrow(catches)) + 4000L)
catches <- catches[, c("haul", "date", colnames(bottoms), "depth", "bottom")]
write.csv(catches, "inst/extdata/trawl_catches.csv", row.names = FALSE, quote = FALSE)
