#include "bind.h"
#include "deals.h"

// Labels from 1.
// [[Rcpp::export(rng = false)]]
std::vector<double> dealt_pairs_kernel(Rcpp::IntegerVector group, Rcpp::IntegerVector classes, int groups, int many,
                                       int deals, int from, double seed) {
  fjordline::check_labels(group, groups, classes.size());
  fjordline::check_labels(classes, many, group.size());
  const auto from_zero = [](const Rcpp::IntegerVector& labels) {
    std::vector<int> out;
    for (int label : labels) {
      if (label < 1) throw Rcpp::exception("a kernel was given a row without a label", false);
      out.push_back(label - 1);
    }
    return out;
  };
  const std::vector<int> a = from_zero(group), b = from_zero(classes);
  return fjordline::dealt_pairs({a.data(), b.data(), a.size(), static_cast<std::size_t>(groups),
                                 static_cast<std::size_t>(many)},
                                deals, from, static_cast<std::uint64_t>(seed));
}
