#include "bind.h"
#include "neighbours.h"

// [[Rcpp::export(rng = false)]]
Rcpp::List neighbours_kernel(Rcpp::NumericMatrix x, int count, int threads) {
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  fjordline::Neighbours found = fjordline::nearest_neighbours(fjordline::view(x), count, threads, watch);
  fjordline::raise_if(watch.stopped());
  const int kept = static_cast<int>(found.count);
  Rcpp::IntegerMatrix row(kept, x.nrow(), found.row.begin());
  Rcpp::NumericMatrix distance(kept, x.nrow(), found.distance.begin());
  return Rcpp::List::create(Rcpp::_["row"] = fjordline::from_one(row), Rcpp::_["distance"] = distance);
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector neighbour_distance_kernel(Rcpp::NumericMatrix x, int count, int threads) {
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  const std::vector<double> out = fjordline::neighbour_distances(fjordline::view(x), count, threads, watch);
  fjordline::raise_if(watch.stopped());
  return Rcpp::wrap(out);
}
