#include "bind.h"
#include "neighbours.h"

// [[Rcpp::export(rng = false)]]
Rcpp::List neighbours_kernel(Rcpp::NumericMatrix x, int count) {
  fjordline::Neighbours found =
      fjordline::nearest_neighbours(fjordline::view(x), static_cast<std::size_t>(count), fjordline::interrupted);
  fjordline::raise_if(found.stopped);
  const int kept = static_cast<int>(found.count);
  Rcpp::IntegerMatrix row(kept, x.nrow(), found.row.begin());
  Rcpp::NumericMatrix distance(kept, x.nrow(), found.distance.begin());
  return Rcpp::List::create(Rcpp::_["row"] = row + 1, Rcpp::_["distance"] = distance);
}
