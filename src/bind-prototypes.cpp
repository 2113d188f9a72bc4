#include "bind.h"
#include "prototypes.h"

// levels: codes from 0, -1 for a level not known.
// [[Rcpp::export(rng = false)]]
Rcpp::List prototypes_kernel(Rcpp::NumericMatrix numbers, Rcpp::IntegerMatrix levels, std::vector<double> charge,
                             int groups, int restarts, int max_rounds, int threads, double seed) {
  fjordline::SearchSettings settings;
  settings.groups = groups;
  settings.restarts = restarts;
  settings.max_rounds = max_rounds;
  settings.threads = threads;
  settings.seed = static_cast<std::uint64_t>(seed);
  const fjordline::Levels codes{levels.begin(), static_cast<std::size_t>(levels.nrow()),
                                static_cast<std::size_t>(levels.ncol())};
  const fjordline::PrototypeFit fit =
      fjordline::mixed_prototypes(fjordline::view(numbers), codes, charge, settings, fjordline::interrupted);
  fjordline::raise_if(fit.stopped);
  Rcpp::IntegerVector group(fit.group.begin(), fit.group.end());
  Rcpp::IntegerMatrix modes(groups, levels.ncol());
  for (int g = 0; g < groups; ++g)
    for (int c = 0; c < levels.ncol(); ++c) modes(g, c) = fit.prototypes.modes[g * levels.ncol() + c];
  return Rcpp::List::create(Rcpp::_["group"] = fjordline::from_one(group),
                            Rcpp::_["means"] = fjordline::to_r(fit.prototypes.means),
                            Rcpp::_["modes"] = modes, Rcpp::_["objective"] = fit.objective,
                            Rcpp::_["rounds"] = static_cast<int>(fit.rounds),
                            Rcpp::_["refilled"] = static_cast<int>(fit.refilled),
                            Rcpp::_["converged"] = fit.converged, Rcpp::_["reached"] = Rcpp::wrap(fit.reached));
}
