#include "bind.h"
#include "medoids.h"
#include "metrics.h"

// `square`: `x` is a given dissimilarity matrix.
// [[Rcpp::export(rng = false)]]
Rcpp::List medoids_kernel(Rcpp::NumericMatrix x, bool square, std::string metric, int groups, int restarts,
                          int max_rounds, int threads, double seed) {
  const fjordline::TableView table = fjordline::view(x);
  const auto distances =
      square ? fjordline::given_distances(table) : fjordline::distances_of(table, fjordline::metric_of(metric), threads);
  fjordline::MedoidFit fit;
  const std::size_t without = distances->without_direction();
  if (without == table.rows) {
    fjordline::SearchSettings settings;
    settings.groups = groups;
    settings.restarts = restarts;
    settings.max_rounds = max_rounds;
    settings.threads = threads;
    settings.seed = static_cast<std::uint64_t>(seed);
    fit = fjordline::medoids(*distances, settings, fjordline::interrupted);
    fjordline::raise_if(fit.stopped);
  }
  Rcpp::IntegerVector medoid(fit.medoid.begin(), fit.medoid.end()), group(fit.group.begin(), fit.group.end());
  return Rcpp::List::create(Rcpp::_["medoid"] = fjordline::from_one(medoid),
                            Rcpp::_["group"] = fjordline::from_one(group),
                            Rcpp::_["objective"] = fit.objective, Rcpp::_["swaps"] = static_cast<double>(fit.swaps),
                            Rcpp::_["converged"] = fit.converged, Rcpp::_["reached"] = Rcpp::wrap(fit.reached),
                            Rcpp::_["without_direction"] = static_cast<double>(without) + 1.0);
}

// [[Rcpp::export(rng = false)]]
Rcpp::List nearest_kernel(Rcpp::NumericMatrix x, Rcpp::NumericMatrix centres, std::string metric, int threads) {
  const fjordline::Nearest nearest = fjordline::nearest_centres(fjordline::view(x), fjordline::by_rows(fjordline::view(centres)),
                                                                fjordline::metric_of(metric), threads);
  Rcpp::IntegerVector group(nearest.group.begin(), nearest.group.end());
  return Rcpp::List::create(Rcpp::_["group"] = fjordline::from_one(group),
                            Rcpp::_["distance"] = Rcpp::wrap(nearest.distance));
}
