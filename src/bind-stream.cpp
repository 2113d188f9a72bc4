#include "bind.h"
#include "stream.h"

// A seed of at most 31 bits that depends on `seed` and the coordinates alone.
// [[Rcpp::export(rng = false)]]
double seed_kernel(double seed, std::vector<double> coordinates) {
  std::uint64_t state = fjordline::seed_at(static_cast<std::uint64_t>(seed), {});
  for (double c : coordinates) state = fjordline::seed_at(state, {static_cast<std::uint64_t>(c)});
  return static_cast<double>(state >> 33);
}

// `many` different row numbers out of `rows`, in ascending order.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector draw_kernel(double rows, double many, double seed) {
  const std::vector<int> drawn = fjordline::drawn_rows(static_cast<std::size_t>(rows), static_cast<std::size_t>(many),
                                                       static_cast<std::uint64_t>(seed));
  Rcpp::IntegerVector out(drawn.begin(), drawn.end());
  return fjordline::from_one(out);
}

// A number in [0, 1) for each row from `first` on (counted from 0), which depends on the seed and the row alone.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector row_keys_kernel(double first, double rows, double seed) {
  const std::uint64_t start = static_cast<std::uint64_t>(first);
  const std::uint64_t base = fjordline::seed_at(static_cast<std::uint64_t>(seed), {77});
  Rcpp::NumericVector out(static_cast<R_xlen_t>(rows));
  for (R_xlen_t i = 0; i < out.size(); ++i)
    out[i] = static_cast<double>(fjordline::mixed(base ^ (start + static_cast<std::uint64_t>(i))) >> 11) * 0x1.0p-53;
  return out;
}
