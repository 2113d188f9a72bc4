#include "bind.h"
#include "mixture-search.h"

namespace {

using fjordline::MixtureFit;
using fjordline::MixtureModel;

// form (0 spherical, 1 diagonal, 2 general), volume, shape, orientation, heavy tails
template <class Codes>
MixtureModel model_of(const Codes& code) {
  MixtureModel model;
  model.structure.form = static_cast<fjordline::Form>(static_cast<int>(code[0]));
  model.structure.volume = code[1] != 0;
  model.structure.shape = code[2] != 0;
  model.structure.orientation = code[3] != 0;
  model.tails = code[4] != 0 ? fjordline::Tails::heavy : fjordline::Tails::normal;
  return model;
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
  for (double& value : trace) value -= lost;
  for (double& value : reached) value -= lost;
  Rcpp::NumericMatrix chance(static_cast<int>(k), static_cast<int>(fit.chance.size() / k));
  for (int j = 0; j < chance.nrow(); ++j)
    for (int l = 0; l < chance.ncol(); ++l) chance(j, l) = fit.chance[j * chance.ncol() + l];
  return Rcpp::List::create(
      Rcpp::_["chance"] = chance, Rcpp::_["share"] = Rcpp::wrap(fit.share), Rcpp::_["mean"] = fjordline::to_r(means),
      Rcpp::_["covariance"] = covariance, Rcpp::_["freedom"] = fit.freedom, Rcpp::_["certainty"] = found.certainty,
      Rcpp::_["log_likelihood"] = fit.log_likelihood - lost, Rcpp::_["trace"] = trace,
      Rcpp::_["reached"] = reached, Rcpp::_["tried"] = static_cast<int>(found.tried),
      Rcpp::_["converged"] = fit.converged, Rcpp::_["floored"] = fit.floored, Rcpp::_["failed"] = fit.failed);
}

}  // namespace

// x: the numbers. levels: rows x categories, codes from 0; many: how many levels each category has.
// models: a row each, see model_of(). how: short_rounds, kept, max_rounds, exchanges, exchanged, far, moves, turns,
// moved, tolerance, floor, freedom, estimate_freedom, threads. starts: rows x partitions, from 1.
// [[Rcpp::export(rng = false)]]
Rcpp::List mixture_kernel(Rcpp::NumericMatrix x, Rcpp::IntegerMatrix levels, Rcpp::IntegerVector many,
                          Rcpp::IntegerMatrix models, int components, Rcpp::IntegerMatrix starts, Rcpp::List how) {
  fjordline::MixtureSearch search;
  search.short_rounds = Rcpp::as<int>(how["short_rounds"]);
  search.kept = Rcpp::as<int>(how["kept"]);
  search.max_rounds = Rcpp::as<int>(how["max_rounds"]);
  search.exchanges = Rcpp::as<int>(how["exchanges"]);
  search.moves = Rcpp::as<int>(how["moves"]);
  search.exchanged = Rcpp::as<int>(how["exchanged"]);
  search.far = Rcpp::as<double>(how["far"]);
  search.turns = Rcpp::as<int>(how["turns"]);
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
  fjordline::LevelPlaces places;
  for (int levels_of : many) places.add(levels_of);
  const fjordline::MixtureRows table(
      blocks, {levels.begin(), blocks.rows(), static_cast<std::size_t>(levels.ncol())}, places);
  std::vector<std::vector<int>> labels(starts.ncol());
  std::vector<const int*> begin;
  for (int s = 0; s < starts.ncol(); ++s) {
    for (int i = 0; i < starts.nrow(); ++i) labels[s].push_back(starts(i, s) - 1);
    begin.push_back(labels[s].data());
  }
  std::vector<MixtureModel> asked;
  for (int m = 0; m < models.nrow(); ++m) asked.push_back(model_of(models.row(m)));
  const std::vector<fjordline::MixtureFound> found =
      fjordline::search_mixtures(table, asked, components, begin, search, watch);
  fjordline::raise_if(watch.stopped());
  Rcpp::List out;
  for (const fjordline::MixtureFound& one : found) out.push_back(told(one, rows));
  return out;
}

// Log densities and Mahalanobis distances of rows, rows x components; covariance: one row per component.
// [[Rcpp::export(rng = false)]]
Rcpp::List mixture_place_kernel(Rcpp::NumericMatrix x, Rcpp::NumericVector share, Rcpp::NumericMatrix mean,
                                Rcpp::NumericMatrix covariance, Rcpp::IntegerVector code, double freedom, int threads) {
  const fjordline::Rows rows(fjordline::view(x), fjordline::Metric::euclidean, nullptr, threads);
  const fjordline::BlockTable blocks(rows, threads);
  MixtureFit fit(model_of(code), mean.nrow(), mean.ncol());
  if (mean.ncol() != x.ncol() || share.size() != mean.nrow() || covariance.nrow() != mean.nrow() ||
      static_cast<std::size_t>(covariance.ncol()) != fit.covariances.size())
    throw Rcpp::exception("the parts of a mixture do not fit together", false);
  const double unit = rows.squared_unit();
  const fjordline::RowTable means = rows.inward(fjordline::view(mean));
  fit.mean = means.values;
  fit.share.assign(share.begin(), share.end());
  fit.freedom = freedom;
  std::vector<double> values(fit.components * fit.covariances.size());
  for (std::size_t j = 0; j < fit.components; ++j)
    for (std::size_t v = 0; v < fit.covariances.size(); ++v)
      values[j * fit.covariances.size() + v] = covariance(static_cast<int>(j), static_cast<int>(v)) / unit;
  if (!fit.covariances.set(values.data())) throw Rcpp::exception("a covariance is not positive definite", false);
  Rcpp::NumericMatrix density(x.nrow(), mean.nrow()), distance(x.nrow(), mean.nrow());
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  fjordline::EmSettings settings;
  settings.threads = threads;
  const fjordline::MixtureRows table(blocks);
  fjordline::Em(table, settings, watch).log_densities(fit, density.begin(), distance.begin());
  const double lost = 0.5 * static_cast<double>(fit.cols) * std::log(unit);
  for (double& value : density) value -= lost;
  for (double& value : distance) value = std::sqrt(value);
  return Rcpp::List::create(Rcpp::_["density"] = density, Rcpp::_["distance"] = distance);
}
