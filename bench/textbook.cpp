// Plain implementations, as a textbook prints them: what the package is measured against.
#include <Rcpp.h>

#include <chrono>
#include <cmath>
#include <limits>
#include <vector>

#ifdef _OPENMP
#include <omp.h>
#endif

// [[Rcpp::plugins(openmp)]]

// Plain nested loops over rows that lie together. Ends after `rounds`, or when no row changes. Gives the rounds it took.
// [[Rcpp::export]]
int textbook_lloyd(Rcpp::NumericMatrix x, Rcpp::NumericMatrix start, int rounds) {
  const int n = x.nrow(), d = x.ncol(), k = start.nrow();
  std::vector<double> rows(static_cast<std::size_t>(n) * d), centres(static_cast<std::size_t>(k) * d);
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < d; ++j) rows[static_cast<std::size_t>(i) * d + j] = x(i, j);
  for (int g = 0; g < k; ++g)
    for (int j = 0; j < d; ++j) centres[static_cast<std::size_t>(g) * d + j] = start(g, j);
  std::vector<int> group(n, -1);
  std::vector<double> size(k), sum(centres.size());
  for (int round = 1; round <= rounds; ++round) {
    bool changed = false;
    for (int i = 0; i < n; ++i) {
      const double* row = &rows[static_cast<std::size_t>(i) * d];
      double best = std::numeric_limits<double>::infinity();
      int nearest = 0;
      for (int g = 0; g < k; ++g) {
        const double* centre = &centres[static_cast<std::size_t>(g) * d];
        double distance = 0.0;
        for (int j = 0; j < d; ++j) distance += (row[j] - centre[j]) * (row[j] - centre[j]);
        if (distance < best) {
          best = distance;
          nearest = g;
        }
      }
      if (nearest != group[i]) {
        group[i] = nearest;
        changed = true;
      }
    }
    if (!changed) return round;
    std::fill(size.begin(), size.end(), 0.0);
    std::fill(sum.begin(), sum.end(), 0.0);
    for (int i = 0; i < n; ++i) {
      size[group[i]] += 1.0;
      for (int j = 0; j < d; ++j) sum[static_cast<std::size_t>(group[i]) * d + j] += rows[static_cast<std::size_t>(i) * d + j];
    }
    for (int g = 0; g < k; ++g)
      if (size[g] > 0.0)
        for (int j = 0; j < d; ++j) centres[static_cast<std::size_t>(g) * d + j] = sum[static_cast<std::size_t>(g) * d + j] / size[g];
  }
  return rounds;
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

// --- the machine's limits

namespace {

#if defined(__GNUC__) && !defined(__clang__) && defined(__x86_64__)
#define FJORDLINE_PEAK(NAME, LANES, TARGET)                                        \
  TARGET double NAME(std::size_t rounds) {                                         \
    typedef double Lanes __attribute__((vector_size(LANES * 8)));                  \
    Lanes a0 = Lanes{} + 1, a1 = a0 + 1, a2 = a0 + 2, a3 = a0 + 3, a4 = a0 + 4, a5 = a0 + 5, a6 = a0 + 6, a7 = a0 + 7, \
          a8 = a0 + 8, a9 = a0 + 9;                                                \
    const Lanes m = Lanes{} + 0.999, s = Lanes{} + 0.001;                          \
    for (std::size_t i = 0; i < rounds; ++i) {                                     \
      a0 = a0 * m + s; a1 = a1 * m + s; a2 = a2 * m + s; a3 = a3 * m + s; a4 = a4 * m + s;  \
      a5 = a5 * m + s; a6 = a6 * m + s; a7 = a7 * m + s; a8 = a8 * m + s; a9 = a9 * m + s;  \
    }                                                                              \
    const Lanes all = a0 + a1 + a2 + a3 + a4 + a5 + a6 + a7 + a8 + a9;             \
    return all[0];                                                                 \
  }
FJORDLINE_PEAK(peak_two, 2, )
FJORDLINE_PEAK(peak_four, 4, __attribute__((target("avx2,fma"))))
FJORDLINE_PEAK(peak_eight, 8, __attribute__((target("avx512f,avx512dq,fma"))))
double (*best_peak(int& lanes))(std::size_t) {
  __builtin_cpu_init();
  if (__builtin_cpu_supports("avx512f") && __builtin_cpu_supports("avx512dq")) return lanes = 8, peak_eight;
  if (__builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma")) return lanes = 4, peak_four;
  return lanes = 2, peak_two;
}
#else
double peak_one(std::size_t rounds) {
  double a[10] = {1, 2, 3, 4, 5, 6, 7, 8, 9, 10};
  for (std::size_t i = 0; i < rounds; ++i)
    for (double& v : a) v = v * 0.999 + 0.001;
  return a[0] + a[9];
}
double (*best_peak(int& lanes))(std::size_t) { return lanes = 1, peak_one; }
#endif

double now() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

}  // namespace

// Multiply-adds a second (two operations each) with nothing in the way, on so many threads; in 1e9 operations.
// [[Rcpp::export]]
double peak_arithmetic(int threads) {
  int lanes = 1;
  double (*run)(std::size_t) = best_peak(lanes);
  const std::size_t rounds = 20000000;
  double best = 0.0, kept = 0.0;
  for (int times = 0; times < 4; ++times) {
    const double start = now();
#pragma omp parallel for num_threads(threads) reduction(+ : kept)
    for (int t = 0; t < threads; ++t) kept += run(rounds);
    best = std::max(best, threads * 20.0 * lanes * rounds / (now() - start) / 1e9);
  }
  return kept == 0.5 ? 0.0 : best;
}

// Bytes a second read from a table, in 1e9.
// [[Rcpp::export]]
double read_bandwidth(Rcpp::NumericMatrix x, int threads) {
  const double* values = x.begin();
  const long long count = x.size();
  double best = 0.0, kept = 0.0;
  for (int times = 0; times < 6; ++times) {
    const double start = now();
#pragma omp parallel for num_threads(threads) reduction(+ : kept) schedule(static)
    for (long long block = 0; block < count / 512; ++block) {
      double sum[16] = {};
      const double* from = values + block * 512;
      for (int i = 0; i < 512; i += 16)
        for (int l = 0; l < 16; ++l) sum[l] += from[i + l];
      for (double s : sum) kept += s;
    }
    best = std::max(best, 8.0 * count / (now() - start) / 1e9);
  }
  return kept == 0.5 ? 0.0 : best;
}
