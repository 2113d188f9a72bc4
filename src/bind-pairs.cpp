#include "bind.h"
#include "density.h"
#include "pairs.h"

namespace {

fjordline::PairBlocks blocks_of(const Rcpp::NumericMatrix& x, const std::string& metric, int threads) {
  if (metric == "given") return fjordline::PairBlocks(fjordline::view(x));
  return fjordline::PairBlocks(fjordline::view(x), fjordline::metric_of(metric), threads);
}

// A labelling a column, with its number of groups.
void check_columns(Rcpp::IntegerMatrix groups, const std::vector<int>& counts, R_xlen_t rows) {
  if (counts.size() != static_cast<std::size_t>(groups.ncol()))
    throw Rcpp::exception("a kernel was given other counts than labellings", false);
  for (int m = 0; m < groups.ncol(); ++m) fjordline::check_labels(groups.column(m), counts[m], rows);
}

}  // namespace

// [[Rcpp::export(rng = false)]]
Rcpp::List pair_sums_kernel(Rcpp::NumericMatrix x, Rcpp::IntegerMatrix groups, std::vector<int> counts,
                            std::string metric, int threads) {
  check_columns(groups, counts, x.nrow());
  std::vector<fjordline::PairSums> fit;
  fjordline::raise_if(!fjordline::pair_sums(blocks_of(x, metric, threads), {groups.begin(), counts}, threads,
                                            fjordline::interrupted, fit));
  Rcpp::NumericMatrix width(x.nrow(), groups.ncol());
  Rcpp::IntegerMatrix neighbour(x.nrow(), groups.ncol());
  Rcpp::List between(groups.ncol());
  for (int m = 0; m < groups.ncol(); ++m) {
    std::copy(fit[m].width.begin(), fit[m].width.end(), width.column(m).begin());
    std::copy(fit[m].neighbour.begin(), fit[m].neighbour.end(), neighbour.column(m).begin());
    between[m] = Rcpp::NumericMatrix(counts[m], counts[m], fit[m].between.begin());
  }
  return Rcpp::List::create(Rcpp::_["width"] = width, Rcpp::_["neighbour"] = neighbour, Rcpp::_["between"] = between);
}

// Columns: smallest distance between groups, largest within one.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix pair_ends_kernel(Rcpp::NumericMatrix x, Rcpp::IntegerMatrix groups, std::vector<int> counts,
                                     std::string metric, int threads) {
  check_columns(groups, counts, x.nrow());
  std::vector<fjordline::PairEnds> fit;
  fjordline::raise_if(!fjordline::pair_ends(blocks_of(x, metric, threads), {groups.begin(), counts}, threads,
                                            fjordline::interrupted, fit));
  Rcpp::NumericMatrix out(groups.ncol(), 2);
  for (int m = 0; m < groups.ncol(); ++m) {
    out(m, 0) = fit[m].between;
    out(m, 1) = fit[m].within;
  }
  return out;
}

// [[Rcpp::export(rng = false)]]
Rcpp::DataFrame pair_order_kernel(Rcpp::NumericMatrix x, Rcpp::IntegerMatrix groups, std::vector<int> counts,
                                  std::string metric, int threads) {
  check_columns(groups, counts, x.nrow());
  std::vector<fjordline::PairOrder> fit;
  fjordline::raise_if(!fjordline::pair_order(blocks_of(x, metric, threads), {groups.begin(), counts}, threads,
                                             fjordline::interrupted, fit));
  const auto column = [&](double fjordline::PairOrder::*field) {
    Rcpp::NumericVector out(fit.size());
    for (std::size_t m = 0; m < fit.size(); ++m) out[m] = fit[m].*field;
    return out;
  };
  return Rcpp::DataFrame::create(
      Rcpp::_["within"] = column(&fjordline::PairOrder::within),
      Rcpp::_["smallest"] = column(&fjordline::PairOrder::smallest),
      Rcpp::_["largest"] = column(&fjordline::PairOrder::largest),
      Rcpp::_["concordant"] = column(&fjordline::PairOrder::concordant),
      Rcpp::_["discordant"] = column(&fjordline::PairOrder::discordant),
      Rcpp::_["correlation"] = column(&fjordline::PairOrder::correlation));
}

// [[Rcpp::export(rng = false)]]
std::vector<double> density_kernel(Rcpp::NumericMatrix x, Rcpp::IntegerMatrix groups, std::vector<int> counts,
                                   std::string metric, double dimensions, int threads) {
  check_columns(groups, counts, x.nrow());
  std::vector<double> out;
  fjordline::raise_if(!fjordline::density_validity(blocks_of(x, metric, threads), {groups.begin(), counts}, dimensions,
                                                   threads, fjordline::interrupted, out));
  return out;
}
