#include "bind.h"
#include "fuzzy.h"

// [[Rcpp::export(rng = false)]]
Rcpp::List fuzzy_kernel(Rcpp::NumericMatrix x, int groups, double fuzziness, int restarts, int max_rounds,
                        double tolerance, int threads, double seed) {
  fjordline::FuzzySettings settings;
  settings.groups = groups;
  settings.fuzziness = fuzziness;
  settings.restarts = restarts;
  settings.max_rounds = max_rounds;
  settings.tolerance = tolerance;
  settings.threads = threads;
  settings.seed = static_cast<std::uint64_t>(seed);
  const fjordline::FuzzyFit fit = fjordline::fuzzy_means(fjordline::view(x), settings, fjordline::interrupted);
  fjordline::raise_if(fit.stopped);
  return Rcpp::List::create(Rcpp::_["centres"] = fjordline::to_r(fit.centres), Rcpp::_["objective"] = fit.objective,
                            Rcpp::_["rounds"] = static_cast<int>(fit.rounds), Rcpp::_["converged"] = fit.converged,
                            Rcpp::_["reached"] = Rcpp::wrap(fit.reached),
                            Rcpp::_["distinct"] = static_cast<int>(fit.distinct));
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix memberships_kernel(Rcpp::NumericMatrix x, Rcpp::NumericMatrix centres, double fuzziness,
                                       int threads) {
  const std::vector<double> out =
      fjordline::memberships(fjordline::view(x), fjordline::view(centres), fuzziness, threads);
  return Rcpp::NumericMatrix(x.nrow(), centres.nrow(), out.begin());
}
