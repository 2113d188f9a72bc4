#include "bind.h"
#include "donors.h"

// [[Rcpp::export(rng = false)]]
Rcpp::IntegerMatrix donors_kernel(Rcpp::NumericMatrix rows, Rcpp::NumericMatrix donors, std::vector<double> weight,
                                  std::vector<int> code, int count) {
  fjordline::NearestDonors found = fjordline::nearest_donors(fjordline::view_with_gaps(rows),
                                                             fjordline::view_with_gaps(donors), weight,
                                                             code, static_cast<std::size_t>(count),
                                                             fjordline::interrupted);
  fjordline::raise_if(found.stopped);
  Rcpp::IntegerMatrix out(count, rows.nrow(), found.donor.begin());
  return out;
}
