#include "bind.h"
#include "lines.h"

// `so_far`: records, whether the open line is filled, whether a quote is open.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector records_kernel(Rcpp::RawVector bytes, Rcpp::NumericVector so_far) {
  fjordline::LineCount now{so_far[0], so_far[1] != 0, so_far[2] != 0};
  now = fjordline::count_records(bytes.begin(), static_cast<std::size_t>(bytes.size()), now);
  return Rcpp::NumericVector::create(now.records, now.filled ? 1 : 0, now.quoted ? 1 : 0);
}
