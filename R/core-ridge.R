# Components and groups: how deep the density of a mixture falls between two components, and which components are one
# group made of several. All critical points of the density of two elliptical components lie on their ridge: Ray &
# Lindsay (2005), doi:10.1214/009053605000000417; merging after Hennig (2010), doi:10.1007/s11634-010-0058-3.

ridge_points <- 21L

# Points from one centre to the other along which the density of two components has its peaks and its valley.
# `precision`: inverse covariances.
ridge_between <- function(mean, precision, a, b, points = ridge_points) {
  t(vapply(seq(0, 1, length.out = points), function(way) {
    both <- (1 - way) * precision[[a]] + way * precision[[b]]
    toward <- (1 - way) * precision[[a]] %*% mean[a, ] + way * precision[[b]] %*% mean[b, ]
    tryCatch(drop(solve(both, toward)), error = function(e) (1 - way) * mean[a, ] + way * mean[b, ])
  }, mean[1L, ]))
}

# The highest log density of each component's ridges and, between each two, the lowest on the way from peak to peak.
# `density`: a function of points.
ridge_heights <- function(mean, covariance, density) {
  k <- nrow(mean)
  d <- ncol(mean)
  if (k == 1L) {
    return(list(peak = density(mean), saddle = matrix(Inf, 1L, 1L)))
  }
  precision <- lapply(seq_len(k), function(j) {
    s <- full_covariance(covariance[j, ], d)
    tryCatch(solve(s), error = function(e) diag(1 / pmax(diag(s), 1e-300), d))
  })
  pairs <- utils::combn(k, 2L)
  points <- do.call(rbind, lapply(seq_len(ncol(pairs)), function(p) {
    path <- ridge_between(mean, precision, pairs[1L, p], pairs[2L, p])
    matrix(path, ncol = d)
  }))
  heights <- matrix(density(points), ridge_points)
  peak <- density(mean)
  saddle <- matrix(Inf, k, k)
  for (p in seq_len(ncol(pairs))) {
    path <- heights[, p]
    half <- (ridge_points + 1L) %/% 2L
    from <- which.max(path[seq_len(half)])
    to <- half - 1L + which.max(path[half:ridge_points])
    lowest <- min(path[from:to])
    saddle[pairs[1L, p], pairs[2L, p]] <- saddle[pairs[2L, p], pairs[1L, p]] <- lowest
    peak[pairs[1L, p]] <- max(peak[pairs[1L, p]], path[from])
    peak[pairs[2L, p]] <- max(peak[pairs[2L, p]], path[to])
  }
  list(peak = peak, saddle = saddle)
}

# Merges components until one is left: at each step the two groups between which the density falls least, as a share of
# the lower peak. Gives the ratio of each merge and, for every number of groups, the group of each component.
merge_by_ridge <- function(heights) {
  k <- length(heights$peak)
  group <- seq_len(k)
  of <- vector("list", k)
  of[[k]] <- group
  ratio <- rep(NA_real_, k)
  peak <- heights$peak
  saddle <- heights$saddle
  diag(saddle) <- -Inf
  left <- seq_len(k)
  while (length(left) > 1L) {
    pairs <- utils::combn(left, 2L)
    lower <- saddle[t(pairs)] - pmin(peak[pairs[1L, ]], peak[pairs[2L, ]])
    best <- which.max(lower)
    a <- pairs[1L, best]
    b <- pairs[2L, best]
    ratio[length(left)] <- exp(min(0, lower[best]))
    group[group == b] <- a
    peak[a] <- max(peak[a], peak[b])
    saddle[a, ] <- saddle[, a] <- pmax(saddle[a, ], saddle[b, ])
    saddle[a, a] <- -Inf
    left <- setdiff(left, b)
    of[[length(left)]] <- match(group, sort(unique(group)))
  }
  list(ratio = ratio, of = of)
}
