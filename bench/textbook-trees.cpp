// The minimal spanning tree as a textbook has it: one row joins at a time, all others are looked at. One thread, -O2.
#include <Rcpp.h>

#include <cmath>
#include <vector>

// [[Rcpp::export]]
double textbook_tree(Rcpp::NumericMatrix x) {
  const int n = x.nrow(), d = x.ncol();
  std::vector<double> rows(static_cast<std::size_t>(n) * d), nearest(n, HUGE_VAL);
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < d; ++j) rows[static_cast<std::size_t>(i) * d + j] = x(i, j);
  std::vector<char> inside(n, 0);
  int at = 0;
  double total = 0.0;
  for (int step = 1; step < n; ++step) {
    inside[at] = 1;
    int best = -1;
    for (int i = 0; i < n; ++i) {
      if (inside[i]) continue;
      double sum = 0.0;
      for (int j = 0; j < d; ++j) {
        const double gap = rows[static_cast<std::size_t>(i) * d + j] - rows[static_cast<std::size_t>(at) * d + j];
        sum += gap * gap;
      }
      const double distance = std::sqrt(sum);
      if (distance < nearest[i]) nearest[i] = distance;
      if (best < 0 || nearest[i] < nearest[best]) best = i;
    }
    total += nearest[best];
    at = best;
  }
  return total;
}

// Computes all distances into one matrix of single precision, then reads it once for each count in `passes`, of that
// many rows: what linkage from a matrix cannot do without.
// [[Rcpp::export]]
double compute_and_read(Rcpp::NumericMatrix x, Rcpp::IntegerVector passes) {
  const std::size_t n = x.nrow(), d = x.ncol();
  std::vector<double> rows(n * d);
  for (std::size_t i = 0; i < n; ++i)
    for (std::size_t j = 0; j < d; ++j) rows[i * d + j] = x(i, j);
  std::vector<float> matrix(n * n);
  for (std::size_t i = 0; i < n; ++i) {
    for (std::size_t l = 0; l < n; ++l) {
      double sum = 0.0;
      for (std::size_t j = 0; j < d; ++j) {
        const double gap = rows[i * d + j] - rows[l * d + j];
        sum += gap * gap;
      }
      matrix[i * n + l] = static_cast<float>(std::sqrt(sum));
    }
  }
  double out = 0.0;
  for (int m : passes) {
    for (int i = 0; i < m; ++i) {
      float least = HUGE_VALF;
      for (int l = 0; l < m; ++l) least = matrix[i * n + l] < least ? matrix[i * n + l] : least;
      out += least;
    }
  }
  return out;
}
