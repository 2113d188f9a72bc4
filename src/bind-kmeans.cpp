#include "bind.h"
#include "kmeans.h"

// [[Rcpp::export(rng = false)]]
Rcpp::List kmeans_kernel(Rcpp::NumericMatrix x, int groups, std::string seeding, int restarts, int max_rounds,
                         double seed) {
  fjordline::KmeansSettings settings;
  settings.groups = groups;
  settings.seeding = seeding == "rows" ? fjordline::Seeding::rows : fjordline::Seeding::spread;
  settings.restarts = restarts;
  settings.max_rounds = max_rounds;
  settings.seed = static_cast<std::uint64_t>(seed);
  fjordline::KmeansFit fit = fjordline::kmeans(fjordline::view(x), settings, fjordline::interrupted);
  fjordline::raise_if(fit.stopped);
  Rcpp::IntegerVector group(fit.group.begin(), fit.group.end());
  return Rcpp::List::create(
      Rcpp::_["group"] = group + 1, Rcpp::_["centres"] = fjordline::to_r(fit.centres),
      Rcpp::_["scatter"] = Rcpp::wrap(fit.group_scatter), Rcpp::_["objective"] = fit.scatter,
      Rcpp::_["rounds"] = static_cast<int>(fit.rounds), Rcpp::_["converged"] = fit.converged,
      Rcpp::_["refilled"] = static_cast<int>(fit.refilled),
      Rcpp::_["restart_objective"] = Rcpp::wrap(fit.restart_scatter));
}

// [[Rcpp::export(rng = false)]]
Rcpp::List nearest_kernel(Rcpp::NumericMatrix x, Rcpp::NumericMatrix centres) {
  fjordline::Nearest nearest = fjordline::nearest_centres(fjordline::view(x), fjordline::view(centres));
  Rcpp::IntegerVector group(nearest.group.begin(), nearest.group.end());
  return Rcpp::List::create(Rcpp::_["group"] = group + 1, Rcpp::_["distance"] = Rcpp::wrap(nearest.distance));
}
