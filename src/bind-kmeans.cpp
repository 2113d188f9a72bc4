#include "bind.h"
#include "kmeans.h"
#include "parallel.h"

namespace {

fjordline::Seeding seeding_of(const std::string& word) {
  using fjordline::Seeding;
  return fjordline::value_of<Seeding>("seeding", word, {{"spread", Seeding::spread}, {"rows", Seeding::rows},
                                                        {"partition", Seeding::partition},
                                                        {"splits", Seeding::splits}});
}

fjordline::Rounds rounds_of(const std::string& word) {
  using fjordline::Rounds;
  return fjordline::value_of<Rounds>("kind of rounds", word, {{"automatic", Rounds::automatic},
                                                              {"plain", Rounds::plain},
                                                              {"bounded", Rounds::bounded}});
}

// Batches are a search of their own, see bind-batches.cpp: where a search of all rows is asked for beside them it is
// the plain one.
fjordline::Search search_of(const std::string& word) {
  using fjordline::Search;
  return fjordline::value_of<Search>("search", word, {{"restarts", Search::restarts},
                                                      {"evolution", Search::evolution},
                                                      {"batches", Search::restarts}});
}

// how: metric, seeding, search, rounds, restarts, finished, max_rounds, threads, seed.
fjordline::KmeansSettings settings_of(const Rcpp::List& how) {
  fjordline::KmeansSettings settings;
  settings.metric = fjordline::metric_of(how["metric"]);
  settings.seeding = seeding_of(how["seeding"]);
  settings.search = search_of(how["search"]);
  settings.rounds = rounds_of(how["rounds"]);
  settings.restarts = Rcpp::as<int>(how["restarts"]);
  settings.finished = Rcpp::as<int>(how["finished"]);
  settings.max_rounds = Rcpp::as<int>(how["max_rounds"]);
  settings.threads = Rcpp::as<int>(how["threads"]);
  settings.seed = static_cast<std::uint64_t>(Rcpp::as<double>(how["seed"]));
  return settings;
}

}  // namespace

// [[Rcpp::export(rng = false)]]
int threads_kernel() { return static_cast<int>(fjordline::threads_available()); }

// [[Rcpp::export(rng = false)]]
Rcpp::List kmeans_kernel(Rcpp::NumericMatrix x, int groups, Rcpp::List how,
                         Rcpp::Nullable<Rcpp::NumericMatrix> start = R_NilValue,
                         Rcpp::Nullable<Rcpp::NumericVector> weight = R_NilValue) {
  fjordline::KmeansSettings settings = settings_of(how);
  settings.groups = groups;
  Rcpp::NumericMatrix given;
  fjordline::TableView start_view{};
  if (start.isNotNull()) {
    given = Rcpp::NumericMatrix(start);
    start_view = fjordline::view(given);
  }
  Rcpp::NumericVector weights;
  if (weight.isNotNull()) weights = Rcpp::NumericVector(weight);
  const fjordline::KmeansFit fit =
      fjordline::kmeans(fjordline::view(x), settings, start.isNotNull() ? &start_view : nullptr,
                        weight.isNotNull() ? weights.begin() : nullptr, fjordline::interrupted);
  fjordline::raise_if(fit.stopped);
  Rcpp::IntegerVector group(fit.group.begin(), fit.group.end());
  return Rcpp::List::create(
      Rcpp::_["group"] = fjordline::from_one(group), Rcpp::_["centres"] = fjordline::to_r(fit.centres),
      Rcpp::_["scatter"] = Rcpp::wrap(fit.group_scatter), Rcpp::_["objective"] = fit.objective,
      Rcpp::_["rounds"] = static_cast<int>(fit.rounds), Rcpp::_["transferred"] = static_cast<double>(fit.transferred),
      Rcpp::_["converged"] = fit.converged, Rcpp::_["refilled"] = static_cast<int>(fit.refilled),
      Rcpp::_["reached"] = Rcpp::wrap(fit.reached), Rcpp::_["distinct"] = static_cast<int>(fit.distinct),
      Rcpp::_["without_direction"] = static_cast<double>(fit.without_direction) + 1.0);
}

// [[Rcpp::export(rng = false)]]
Rcpp::NumericVector kmeans_scatter_kernel(Rcpp::NumericMatrix x, Rcpp::IntegerVector counts, Rcpp::List how) {
  const std::vector<double> out =
      fjordline::kmeans_scatter(fjordline::view(x), std::vector<std::size_t>(counts.begin(), counts.end()),
                                settings_of(how), fjordline::interrupted);
  fjordline::raise_if(static_cast<R_xlen_t>(out.size()) < counts.size());
  return Rcpp::wrap(out);
}

// Groups of all rows by fits to samples of them (a list of row numbers), each with its seed; NULL for a sample with too
// few different rows.
// [[Rcpp::export(rng = false)]]
Rcpp::List kmeans_by_samples_kernel(Rcpp::NumericMatrix x, Rcpp::List samples, Rcpp::NumericVector seeds, int groups,
                                    Rcpp::List how) {
  fjordline::KmeansSettings settings = settings_of(how);
  settings.groups = groups;
  std::vector<std::vector<int>> rows;
  for (R_xlen_t s = 0; s < samples.size(); ++s) {
    rows.push_back(Rcpp::as<std::vector<int>>(samples[s]));
    for (int& row : rows.back()) --row;
  }
  const std::vector<std::vector<int>> labels = fjordline::kmeans_by_samples(
      fjordline::view(x), rows, std::vector<std::uint64_t>(seeds.begin(), seeds.end()), settings, fjordline::interrupted);
  fjordline::raise_if(labels.size() < rows.size());
  Rcpp::List out(samples.size());
  for (std::size_t s = 0; s < labels.size(); ++s) {
    if (labels[s].empty()) continue;
    Rcpp::IntegerVector group(labels[s].begin(), labels[s].end());
    out[static_cast<R_xlen_t>(s)] = fjordline::from_one(group);
  }
  return out;
}

// [[Rcpp::export(rng = false)]]
Rcpp::List group_scatter_kernel(Rcpp::NumericMatrix x, Rcpp::IntegerVector group, int groups) {
  fjordline::check_labels(group, groups, x.nrow());
  const fjordline::GroupScatter out = fjordline::group_scatter(fjordline::view(x), group.begin(), groups);
  return Rcpp::List::create(Rcpp::_["means"] = fjordline::to_r(out.means), Rcpp::_["scatter"] = Rcpp::wrap(out.scatter));
}

// Different rows, counted up to `enough`.
// [[Rcpp::export(rng = false)]]
int distinct_kernel(Rcpp::NumericMatrix x, int enough, std::string metric) {
  const fjordline::Rows rows(fjordline::view(x), fjordline::metric_of(metric), nullptr, 1);
  return static_cast<int>(rows.distinct(enough));
}
