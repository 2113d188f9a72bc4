# Speed of mixtures, linkage and density, as ratios within one run; and how often a covariance structure is given back.
# usage: Rscript bench/methods.R [quick]   quick: smaller tables
library(fjordline)
Rcpp::sourceCpp("bench/textbook-trees.cpp")
kernel <- function(name) getFromNamespace(name, "fjordline")
quick <- "quick" %in% commandArgs(TRUE)
took <- function(code) system.time(code)[["elapsed"]]
line <- function(work, ours, beside, goal) cat(sprintf("%-62s %-12s %-44s wanted: %s\n", work, ours, beside, goal))
heaps <- function(n, d, k, sd = 1.5, seed = 1) {
  set.seed(seed)
  group <- sample(k, n, TRUE)
  list(x = matrix(rnorm(k * d, sd = sd), k)[group, ] + rnorm(n * d), group = group)
}

# --- EM against the same in vectorised R

vectorised_em <- function(x, member, rounds) {
  n <- nrow(x)
  d <- ncol(x)
  for (round in seq_len(rounds)) {
    rows <- colSums(member)
    means <- crossprod(member, x) / rows
    density <- vapply(seq_along(rows), function(j) {
      gap <- sweep(x, 2, means[j, ])
      root <- chol(crossprod(gap * member[, j], gap) / rows[j])
      z <- backsolve(root, t(gap), transpose = TRUE)
      log(rows[j] / n) - d / 2 * log(2 * pi) - sum(log(diag(root))) - colSums(z^2) / 2
    }, numeric(n))
    most <- do.call(pmax, as.data.frame(density))
    member <- exp(density - most)
    member <- member / rowSums(member)
  }
  member
}

n <- if (quick) 10000 else 50000
made <- heaps(n, 10, 8)
rounds <- 40L
how <- kernel("mixture_how")(fl_method("mixture")$settings)
how[c("short_rounds", "kept", "max_rounds", "exchanges", "moves", "tolerance")] <- list(rounds, 1L, 0L, 0L, 0L, 0)
code <- kernel("structure_codes")("general/volume+shape+orientation", FALSE)
ours <- took(kernel("fitted_from")(kernel("mixture_rows")(made$x), code, 8L, matrix(made$group), how)) / rounds
theirs <- took(vectorised_em(made$x, outer(made$group, 1:8, "==") + 0, 3)) / 3
line(paste0("a round of EM, full covariances, ", format(n, big.mark = ","), " x 10, k = 8"),
     paste0(round(1000 * ours, 1), " ms"), sprintf("vectorised R %.0f ms: %.0fx", 1000 * theirs, theirs / ours), "10x")
set.seed(2)
group <- sample(5, 2000, TRUE)
turns <- replicate(5, qr.Q(qr(matrix(rnorm(36), 6))) %*% diag(exp(runif(6, -1, 1))), simplify = FALSE)
x <- matrix(rnorm(12000), 2000)
for (g in 1:5) x[group == g, ] <- x[group == g, ] %*% turns[[g]]
x <- x + matrix(rnorm(30, sd = 4), 5)[group, ]
ready <- fl_prepare(fl_data(as.data.frame(x)), scale = "none")
all <- took(for (k in 1:9) fl_partition(ready, fl_method("mixture", tails = "normal"), k = k))
line("14 structures, k = 1 to 9, 2,000 x 6, all starts", paste0(round(all, 1), " s"), "", "20 s")

# --- linkage

n <- if (quick) 5000 else 20000
x <- heaps(n, 16, 8)$x
link <- function(join, brief = TRUE) took(kernel("linkage_kernel")(x, FALSE, "euclidean", join, brief, 2L))
size <- paste0(format(n, big.mark = ","), " x 16")
plain <- took(textbook_tree(x))
single <- link("single")
line(paste("single linkage,", size), paste0(round(single, 2), " s"),
     sprintf("textbook tree %.1f s: %.1fx", plain, plain / single), "5x")
average <- link("average")
complete <- link("complete")
ward <- link("ward")
line(paste("ward,", size), paste0(round(ward, 2), " s"), sprintf("average %.1f s: %.1fx", average, average / ward),
     "5x")
# rounds of mutual neighbours shrink the matrix by a tenth or so
passes <- round(n * 0.92^(0:40))
base <- took(compute_and_read(x, as.integer(passes)))
line(paste("average,", size), paste0(round(average, 2), " s"),
     sprintf("compute, read once a pass %.1f s: %.1f times", base, average / base), "4 times")
line(paste("complete,", size), paste0(round(complete, 2), " s"), sprintf("%.1f times", complete / base), "4 times")

# --- density, and single linkage, in two columns

sizes <- if (quick) c(50000, 100000) else c(125000, 250000, 500000, 1000000)
spots <- function(n) {
  set.seed(3)
  rbind(matrix(rnorm(1.6 * n, sd = 0.1), ncol = 2) + matrix(sample(0:9, 1.6 * n, TRUE), ncol = 2),
        matrix(runif(0.4 * n, -1, 10), ncol = 2))
}
growth <- function(name, wanted, run) {
  seconds <- vapply(sizes, function(n) {
    x <- spots(n)
    took(run(x, n))
  }, 0)
  slope <- stats::coef(stats::lm(log(seconds) ~ log(sizes)))[[2]]
  line(paste0(name, ", ", format(max(sizes), big.mark = ",", scientific = FALSE), " x 2"),
       paste0(round(max(seconds), 1), " s"), sprintf("time grows as n^%.2f", slope), wanted)
}
# as many rows within the radius at every size
growth("dbscan", "15 s, about 1", function(x, n) kernel("dbscan_kernel")(x, 0.03 * sqrt(1e6 / n), 10L, 2L))
growth("hdbscan", "", function(x, n) kernel("hdbscan_kernel")(x, kernel("core_distance")(x, 10L), 100L, 2L))
growth("single linkage", "", function(x, n) kernel("linkage_kernel")(x, FALSE, "euclidean", "single", TRUE, 2L))

# --- the leading axes of similarities, against all of them

similar <- kernel("normalised_similarity")(heaps(if (quick) 800 else 2000, 6, 2)$x, 7L)
leading <- took(kernel("leading_axes")(similar, 21L))
every <- took(eigen(similar, symmetric = TRUE))
line(paste0("spectral: 21 axes of ", nrow(similar), " rows"), paste0(round(leading, 2), " s"),
     sprintf("all axes by the linear algebra R has, %.1f s: %.0f times", every, every / leading), "")

# --- is a structure given back?

structures <- kernel("covariance_structures")
frees <- kernel("structure_frees")
drawn <- function(structure, seed, n = 600, d = 3, k = 3) {
  set.seed(seed)
  form <- kernel("structure_form")(structure)
  differs <- function(what) frees(structure, what)
  turn <- function() qr.Q(qr(matrix(rnorm(d * d), d)))
  volume <- if (differs("volume")) c(0.25, 1, 4) else rep(1, k)
  # a cigar, something between, and a disc; common: the one between
  shapes <- cbind(c(5, 0.5, 0.4), c(2, 1, 0.5), c(2, 2, 0.25))
  if (!differs("shape")) shapes <- shapes[, c(2, 2, 2)]
  if (form == "spherical") shapes[] <- 1
  turns <- replicate(k, if (form == "general") turn() else diag(d), simplify = FALSE)
  if (!differs("orientation")) turns <- rep(turns[1], k)
  group <- rep(seq_len(k), length.out = n)
  x <- matrix(rnorm(n * d), n)
  for (g in seq_len(k)) x[group == g, ] <- x[group == g, ] %*% diag(sqrt(volume[g] * shapes[, g])) %*% t(turns[[g]])
  x + (matrix(rnorm(k * d), k) + 8 * diag(k)[, rep_len(seq_len(k), d)])[group, ]
}
repeats <- if (quick) 4 else 20
found <- vapply(structures, function(structure) {
  back <- vapply(seq_len(repeats), function(seed) {
    ready <- fl_prepare(fl_data(as.data.frame(drawn(structure, seed))), scale = "none")
    fl_partition(ready, fl_method("mixture", tails = "normal"), k = 3)$model$structure
  }, "")
  c(mean(back == structure), names(sort(-table(back)))[1])
}, c("", ""))
cat("\nstructure drawn from, share of", repeats, "tables given it back, and the one given most often\n")
print(data.frame(drawn = structures, share = found[1, ], most = found[2, ]), row.names = FALSE)
