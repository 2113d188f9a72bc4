#include "bind.h"
#include "mixture-search.h"

namespace {

using fjordline::MixtureFit;
using fjordline::MixtureModel;

// A row a model: form (0 spherical, 1 diagonal, 2 general), volume, shape, orientation, heavy tails.
std::vector<MixtureModel> models_of(const Rcpp::IntegerMatrix& words) {
  std::vector<MixtureModel> out;
  for (int m = 0; m < words.nrow(); ++m) {
    MixtureModel model;
    model.structure.form = static_cast<fjordline::Form>(words(m, 0));
    model.structure.volume = words(m, 1) != 0;
    model.structure.shape = words(m, 2) != 0;
    model.structure.orientation = words(m, 3) != 0;
    model.tails = words(m, 4) != 0 ? fjordline::Tails::heavy : fjordline::Tails::normal;
    out.push_back(model);
  }
  return out;
}

// Back to the units of the table: rows were shifted and scaled.
Rcpp::List told(const fjordline::MixtureFound& found, const fjordline::Rows& rows) {
  const MixtureFit& fit = found.fit;
  const std::size_t k = fit.components, d = fit.cols;
  const double unit = rows.squared_unit();
  const double lost = static_cast<double>(rows.count()) * static_cast<double>(d) * 0.5 * std::log(unit);
  fjordline::RowTable means(k, d);
  std::copy(fit.mean.begin(), fit.mean.end(), means.values.begin());
  rows.outward(means);
  Rcpp::NumericMatrix covariance(static_cast<int>(k), static_cast<int>(fit.covariances.size()));
  for (std::size_t j = 0; j < k; ++j)
    for (std::size_t v = 0; v < fit.covariances.size(); ++v) covariance(j, v) = unit * fit.covariances.of(j)[v];
  Rcpp::NumericVector trace(fit.trace.begin(), fit.trace.end()), reached(found.reached.begin(), found.reached.end());
  return Rcpp::List::create(
      Rcpp::_["share"] = Rcpp::wrap(fit.share), Rcpp::_["mean"] = fjordline::to_r(means),
      Rcpp::_["covariance"] = covariance, Rcpp::_["freedom"] = fit.freedom,
      Rcpp::_["log_likelihood"] = fit.log_likelihood - lost, Rcpp::_["trace"] = trace - lost,
      Rcpp::_["reached"] = reached - lost, Rcpp::_["tried"] = static_cast<int>(found.tried),
      Rcpp::_["converged"] = fit.converged, Rcpp::_["floored"] = fit.floored, Rcpp::_["failed"] = fit.failed);
}

}  // namespace

// how: short_rounds, kept, max_rounds, exchanges, moves, moved, tolerance, floor, freedom, estimate_freedom, threads.
// starts: rows x partitions, from 1.
// [[Rcpp::export(rng = false)]]
Rcpp::List mixture_kernel(Rcpp::NumericMatrix x, Rcpp::IntegerMatrix models, int components, Rcpp::IntegerMatrix starts,
                          Rcpp::List how) {
  fjordline::MixtureSearch search;
  search.short_rounds = Rcpp::as<int>(how["short_rounds"]);
  search.kept = Rcpp::as<int>(how["kept"]);
  search.max_rounds = Rcpp::as<int>(how["max_rounds"]);
  search.exchanges = Rcpp::as<int>(how["exchanges"]);
  search.moves = Rcpp::as<int>(how["moves"]);
  search.moved = Rcpp::as<int>(how["moved"]);
  search.threads = Rcpp::as<int>(how["threads"]);
  search.em.tolerance = Rcpp::as<double>(how["tolerance"]);
  search.em.floor = Rcpp::as<double>(how["floor"]);
  search.em.freedom = Rcpp::as<double>(how["freedom"]);
  search.em.estimate_freedom = Rcpp::as<bool>(how["estimate_freedom"]);
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  const fjordline::Rows rows(fjordline::view(x), fjordline::Metric::euclidean, nullptr, search.threads);
  const fjordline::BlockTable blocks(rows, search.threads);
  std::vector<std::vector<int>> labels(starts.ncol());
  std::vector<const int*> begin;
  for (int s = 0; s < starts.ncol(); ++s) {
    for (int i = 0; i < starts.nrow(); ++i) labels[s].push_back(starts(i, s) - 1);
    begin.push_back(labels[s].data());
  }
  const std::vector<fjordline::MixtureFound> found =
      fjordline::search_mixtures(blocks, models_of(models), components, begin, search, watch);
  fjordline::raise_if(watch.stopped());
  Rcpp::List out;
  for (const fjordline::MixtureFound& one : found) out.push_back(told(one, rows));
  return out;
}
