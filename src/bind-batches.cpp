#include "batches.h"
#include "bind.h"

// Centres and their masses after one pass over `x` in batches.
// [[Rcpp::export(rng = false)]]
Rcpp::List batches_kernel(Rcpp::NumericMatrix x, Rcpp::NumericMatrix centres, std::vector<double> mass,
                          std::string metric, int batch_rows) {
  fjordline::RowTable moved = fjordline::by_rows(fjordline::view(centres));
  fjordline::batch_pass(fjordline::view(x), fjordline::metric_of(metric), batch_rows, moved, mass);
  return Rcpp::List::create(Rcpp::_["centres"] = fjordline::to_r(moved), Rcpp::_["mass"] = Rcpp::wrap(mass));
}
