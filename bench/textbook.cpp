// Plain implementations, as a textbook prints them: what the package is measured against.
#include <Rcpp.h>

#include <cmath>
#include <limits>
#include <vector>

// [[Rcpp::export]]
double textbook_lloyd(Rcpp::NumericMatrix x, Rcpp::NumericMatrix start, int rounds) {
  const int n = x.nrow(), d = x.ncol(), k = start.nrow();
  Rcpp::NumericMatrix centres = Rcpp::clone(start);
  std::vector<int> group(n, 0);
  double scatter = 0.0;
  for (int round = 0; round < rounds; ++round) {
    scatter = 0.0;
    for (int i = 0; i < n; ++i) {
      double best = std::numeric_limits<double>::infinity();
      for (int g = 0; g < k; ++g) {
        double distance = 0.0;
        for (int j = 0; j < d; ++j) distance += (x(i, j) - centres(g, j)) * (x(i, j) - centres(g, j));
        if (distance < best) {
          best = distance;
          group[i] = g;
        }
      }
      scatter += best;
    }
    std::vector<double> size(k, 0.0);
    Rcpp::NumericMatrix sums(k, d);
    for (int i = 0; i < n; ++i) {
      size[group[i]] += 1.0;
      for (int j = 0; j < d; ++j) sums(group[i], j) += x(i, j);
    }
    for (int g = 0; g < k; ++g)
      if (size[g] > 0.0)
        for (int j = 0; j < d; ++j) centres(g, j) = sums(g, j) / size[g];
  }
  return scatter;
}

// [[Rcpp::export]]
double textbook_silhouette(Rcpp::NumericMatrix x, Rcpp::IntegerVector group) {
  const int n = x.nrow(), d = x.ncol(), k = Rcpp::max(group);
  std::vector<double> size(k, 0.0);
  for (int i = 0; i < n; ++i) size[group[i] - 1] += 1.0;
  double total = 0.0;
  for (int i = 0; i < n; ++i) {
    std::vector<double> sum(k, 0.0);
    for (int l = 0; l < n; ++l) {
      double distance = 0.0;
      for (int j = 0; j < d; ++j) distance += (x(i, j) - x(l, j)) * (x(i, j) - x(l, j));
      sum[group[l] - 1] += std::sqrt(distance);
    }
    const int own = group[i] - 1;
    if (size[own] < 2.0) continue;
    const double a = sum[own] / (size[own] - 1.0);
    double b = std::numeric_limits<double>::infinity();
    for (int g = 0; g < k; ++g)
      if (g != own && size[g] > 0.0) b = std::min(b, sum[g] / size[g]);
    total += (b - a) / std::max(a, b);
  }
  return total / n;
}

// The machine's limit: subtract, multiply and add, `count` times, with nothing in the way.
// [[Rcpp::export]]
double multiply_adds(double count) {
  double a[16], step = 1.0000001;
  for (int i = 0; i < 16; ++i) a[i] = 1.0 + i;
  for (long long i = 0; i < static_cast<long long>(count / 16); ++i)
    for (int j = 0; j < 16; ++j) a[j] = (a[j] - 0.5) * step + 0.25;
  double sum = 0.0;
  for (double v : a) sum += v;
  return sum;
}
