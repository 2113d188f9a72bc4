#include "bind.h"
#include "silhouette.h"

// [[Rcpp::export(rng = false)]]
Rcpp::List silhouette_kernel(Rcpp::NumericMatrix x, Rcpp::IntegerMatrix groups, std::vector<int> counts) {
  fjordline::Silhouettes fit =
      fjordline::silhouettes(fjordline::view(x), groups.begin(), counts, fjordline::interrupted);
  fjordline::raise_if(fit.stopped);
  Rcpp::NumericMatrix width(x.nrow(), groups.ncol(), fit.width.begin());
  Rcpp::IntegerMatrix neighbour(x.nrow(), groups.ncol(), fit.neighbour.begin());
  return Rcpp::List::create(Rcpp::_["width"] = width, Rcpp::_["neighbour"] = neighbour);
}
