#include "bind.h"
#include "linkage.h"

namespace {

fjordline::Join join_of(const std::string& word) {
  using fjordline::Join;
  return fjordline::value_of<Join>("join", word, {{"ward", Join::ward}, {"single", Join::single},
                                                  {"complete", Join::complete}, {"average", Join::average},
                                                  {"weighted", Join::weighted}, {"centroid", Join::centroid},
                                                  {"median", Join::median}});
}

}  // namespace

// x: rows, or with `given` a square matrix of dissimilarities. Lowest rows from 1.
// [[Rcpp::export(rng = false)]]
Rcpp::List linkage_kernel(Rcpp::NumericMatrix x, bool given, std::string metric, std::string join, bool brief,
                          int threads) {
  using fjordline::Join;
  const Join how = join_of(join);
  const fjordline::TableView view = fjordline::view(x);
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  const bool plain = !given && metric == "euclidean";
  const bool by_centres = how == Join::ward || how == Join::centroid || how == Join::median;
  fjordline::Merges merges;
  if (plain && how == Join::single) {
    merges = fjordline::link_single(view, threads, watch);
  } else if (plain && by_centres) {
    merges = fjordline::link_centres(view, how, threads, watch);
  } else {
    const fjordline::PairBlocks pairs = given ? fjordline::PairBlocks(view)
                                              : fjordline::PairBlocks(view, fjordline::metric_of(metric), threads);
    merges = how == Join::single ? fjordline::link_single(pairs, watch)
                                 : fjordline::link_matrix(pairs, how, brief, threads, watch);
  }
  fjordline::raise_if(watch.stopped());
  Rcpp::NumericVector height(merges.size());
  Rcpp::IntegerVector low(merges.size()), high(merges.size()), rows(merges.size());
  for (std::size_t m = 0; m < merges.size(); ++m) {
    height[m] = merges[m].height;
    low[m] = merges[m].low + 1;
    high[m] = merges[m].high + 1;
    rows[m] = merges[m].rows;
  }
  return Rcpp::List::create(Rcpp::_["low"] = low, Rcpp::_["high"] = high, Rcpp::_["height"] = height,
                            Rcpp::_["rows"] = rows);
}

// Groups after the first rows - count merges, numbered by their lowest rows.
// [[Rcpp::export(rng = false)]]
Rcpp::IntegerVector cut_kernel(Rcpp::IntegerVector low, Rcpp::IntegerVector high, int rows, int count) {
  fjordline::Merges merges;
  for (R_xlen_t m = 0; m < low.size(); ++m) merges.push_back({0.0, low[m] - 1, high[m] - 1});
  return Rcpp::wrap(fjordline::cut_tree(merges, rows, count));
}
