#include "mixture-search.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace fjordline {
namespace {

// A fit without a collapsed component goes before one with; then the likelihood decides.
bool better(const MixtureFit& a, const MixtureFit& b) {
  if (a.failed != b.failed) return b.failed;
  if (a.floored != b.floored) return b.floored;
  return a.log_likelihood > b.log_likelihood;
}

bool same_optimum(const MixtureFit& a, const MixtureFit& b) {
  return a.floored == b.floored &&
         std::fabs(a.log_likelihood - b.log_likelihood) <= 1e-6 * std::max(1.0, std::fabs(b.log_likelihood));
}

// A component's rows in two: those that go, and what the log-likelihood gains by it.
struct Cut {
  std::vector<std::size_t> off;
  double gain = -HUGE_VAL;
};

// Across the axis of largest scatter of the rows, at their mean; the gain is that of two normal halves.
Cut cut_across(const BlockTable& rows, const std::vector<std::size_t>& own) {
  const std::size_t d = rows.cols();
  const double size = static_cast<double>(own.size());
  Cut out;
  Square about(d * d, 0.0), axes;
  std::vector<double> mean(d, 0.0), values;
  for (std::size_t i : own)
    for (std::size_t v = 0; v < d; ++v) mean[v] += rows.at(i, v) / size;
  for (std::size_t i : own)
    for (std::size_t r = 0; r < d; ++r)
      for (std::size_t c = 0; c <= r; ++c) about[r * d + c] += (rows.at(i, r) - mean[r]) * (rows.at(i, c) - mean[c]);
  for (std::size_t r = 0; r < d; ++r)
    for (std::size_t c = 0; c < r; ++c) about[c * d + r] = about[r * d + c];
  if (d == 0 || !eigen(about.data(), d, values, &axes)) return out;
  double apart_sum[2] = {0.0, 0.0}, many[2] = {0.0, 0.0}, squares = 0.0;
  for (std::size_t i : own) {
    double score = 0.0;
    for (std::size_t v = 0; v < d; ++v) score += axes[v] * (rows.at(i, v) - mean[v]);
    if (score > 0.0) out.off.push_back(i);
    apart_sum[score > 0.0] += score;
    many[score > 0.0] += 1.0;
    squares += score * score;
  }
  if (many[0] < 2.0 || many[1] < 2.0 || !(squares > 0.0)) return out;
  const double left = squares - apart_sum[0] * apart_sum[0] / many[0] - apart_sum[1] * apart_sum[1] / many[1];
  out.gain = 0.5 * size * std::log(squares / std::max(left, 1e-12 * squares));
  return out;
}

// Sum over the categories of count * log(count / rows).
double level_likelihood(const std::vector<double>& count, const LevelPlaces& places) {
  double out = 0.0;
  for (std::size_t c = 0; c < places.categories(); ++c) {
    double all = 0.0;
    for (std::size_t l = places.begin[c]; l < places.begin[c + 1]; ++l) all += count[l];
    for (std::size_t l = places.begin[c]; l < places.begin[c + 1]; ++l)
      if (count[l] > 0.0) out += count[l] * std::log(count[l] / all);
  }
  return out;
}

// By whether a row has the commonest level of a category: the category by which the others gain most. What that
// category itself gains by being cut is no evidence.
Cut cut_by_level(const Levels& levels, const LevelPlaces& places, const std::vector<std::size_t>& own) {
  Cut out;
  std::vector<double> whole(places.all(), 0.0);
  for (std::size_t c = 0; c < places.categories(); ++c)
    for (std::size_t i : own)
      if (levels.at(i, c) >= 0) whole[places.begin[c] + levels.at(i, c)] += 1.0;
  const auto without = [&](std::vector<double> count, std::size_t c) {
    std::fill(count.begin() + places.begin[c], count.begin() + places.begin[c + 1], 0.0);
    return level_likelihood(count, places);
  };
  for (std::size_t c = 0; c < places.categories(); ++c) {
    const auto from = whole.begin() + static_cast<std::ptrdiff_t>(places.begin[c]);
    const int common = static_cast<int>(
        std::max_element(from, whole.begin() + static_cast<std::ptrdiff_t>(places.begin[c + 1])) - from);
    std::vector<double> off(places.all(), 0.0), stay(whole);
    std::vector<std::size_t> gone;
    for (std::size_t i : own) {
      if (levels.at(i, c) == common) continue;
      gone.push_back(i);
      for (std::size_t o = 0; o < places.categories(); ++o)
        if (levels.at(i, o) >= 0) off[places.begin[o] + levels.at(i, o)] += 1.0;
    }
    if (gone.size() < 2 || own.size() - gone.size() < 2) continue;
    for (std::size_t l = 0; l < places.all(); ++l) stay[l] -= off[l];
    const double gain = without(off, c) + without(stay, c) - without(whole, c);
    if (gain > out.gain) out = {gone, gain};
  }
  return out;
}

Cut best_cut(const BlockTable& rows, const Levels& levels, const LevelPlaces& places,
             const std::vector<std::size_t>& own) {
  if (own.size() < 4) return {};
  Cut across = cut_across(rows, own), by_level = cut_by_level(levels, places, own);
  return across.gain >= by_level.gain ? across : by_level;
}

// The search for one model.
class Climber {
 public:
  Climber(const MixtureRows& rows, const MixtureModel& model, std::size_t components, const MixtureSearch& how,
          Watch& watch)
      : how_(how), watch_(watch), table_(rows), em_(rows, how.em, watch), model_(model), components_(components),
        found_{empty(), {}, 0, 0.0} {
    found_.fit.failed = true;
  }

  // Short runs: how many are to come, one of them (several at a time), and the best first; those that are kept go on
  // for as many rounds more.
  void expect(std::size_t runs) {
    runs_.assign(runs, empty());
    found_.tried += runs;
  }
  void run(std::size_t which, const int* start, std::size_t rounds) {
    runs_[which] = Em(table_, how_.em, watch_).from_labels(model_, start, components_, rounds, goal(how_.em.tolerance));
  }
  void run_on(std::size_t which, std::size_t rounds) {
    MixtureFit& run = runs_[which];
    if (!run.failed && !run.hopeless && !run.converged)
      Em(table_, how_.em, watch_).onward(run, rounds, goal(how_.em.tolerance));
  }
  void rank() { std::stable_sort(runs_.begin(), runs_.end(), better); }
  std::size_t keep(std::size_t most) {
    if (runs_.size() > most) runs_.erase(runs_.begin() + static_cast<std::ptrdiff_t>(most), runs_.end());
    return runs_.size();
  }

  // The best of the short runs to their end, or until they are known not to beat what is there.
  bool go_on(std::size_t kept, double tolerance) {
    bool gained = false;
    std::size_t taken = 0;
    for (std::size_t r = 0; r < runs_.size() && taken < kept && !runs_[r].failed; ++r) {
      if (runs_[r].hopeless || (r > 0 && same_optimum(runs_[r], runs_[r - 1]))) continue;
      ++taken;
      gained = take(runs_[r], tolerance) || gained;
    }
    runs_.clear();
    return gained;
  }

  // The best run to the tolerance that was asked for.
  void settle() {
    MixtureFit& fit = found_.fit;
    if (fit.failed) return;
    const double before = fit.log_likelihood;
    em_.onward(fit, how_.max_rounds, {how_.em.tolerance});
    for (double& each : found_.reached)
      if (each == before) each = fit.log_likelihood;
  }

  // What is reached so far, be it by a short run.
  const MixtureFit& best_so_far() const { return runs_.empty() ? found_.fit : runs_[0]; }

  bool movable() const { return components_ > 1 && !found_.fit.failed; }
  // Partitions after one component has given up its rows to the others, and another was cut in two across its longest
  // axis: those first where the merged lie closest, and the split is needed most.
  std::vector<std::vector<int>> moved() const;

  // Groups numbered as they appear, so that equal partitions are equal.
  std::vector<int> labels() const {
    std::vector<int> out = em_.labels(found_.fit), number(components_, -1);
    int next = 0;
    for (int& g : out) {
      if (number[g] < 0) number[g] = next++;
      g = number[g];
    }
    return out;
  }
  const BlockTable& rows() const { return em_.rows(); }
  double certainty() const { return em_.certainty(found_.fit); }
  MixtureFound& found() { return found_; }
  double bic() const {
    return found_.fit.failed || found_.fit.floored
               ? HUGE_VAL
               : mixture_criterion(found_.fit, std::log(static_cast<double>(rows().rows())), how_.em.estimate_freedom);
  }

 private:
  std::vector<Cut> cuts(const std::vector<int>& component) const;
  MixtureFit empty() const { return MixtureFit(model_, components_, rows().cols(), table_.places.all()); }
  EmGoal goal(double tolerance) const {
    const bool there = !found_.fit.failed && !found_.fit.floored;
    return {tolerance, there ? found_.fit.log_likelihood : -HUGE_VAL};
  }
  bool take(MixtureFit& run, double tolerance) {
    em_.onward(run, how_.max_rounds, goal(tolerance));
    if (run.failed) return false;
    found_.reached.push_back(run.log_likelihood);
    const bool gain = !run.hopeless && better(run, found_.fit) && !same_optimum(run, found_.fit);
    if (gain || (found_.fit.failed)) found_.fit = run;
    return gain;
  }

  const MixtureSearch& how_;
  Watch& watch_;
  const MixtureRows& table_;
  Em em_;
  MixtureModel model_;
  std::size_t components_;
  MixtureFound found_;
  std::vector<MixtureFit> runs_;
};

// The likeliest and the second likeliest component of every row, and what each component's rows lose by the second.
struct TwoLikeliest {
  std::vector<int> first, second;
  std::vector<double> loss;
};

TwoLikeliest two_likeliest(const std::vector<double>& density, std::size_t n, std::size_t k) {
  TwoLikeliest out{std::vector<int>(n, 0), std::vector<int>(n, 0), std::vector<double>(k, 0.0)};
  for (std::size_t i = 0; i < n; ++i) {
    int &first = out.first[i], &second = out.second[i];
    double best = -HUGE_VAL, next = -HUGE_VAL;
    for (std::size_t j = 0; j < k; ++j) {
      const double own = density[j * n + i];
      if (own > best) {
        next = best;
        second = first;
        best = own;
        first = static_cast<int>(j);
      } else if (own > next) {
        next = own;
        second = static_cast<int>(j);
      }
    }
  }
  for (std::size_t i = 0; i < n; ++i)
    out.loss[out.first[i]] += density[out.first[i] * n + i] - density[out.second[i] * n + i];
  return out;
}

std::vector<Cut> Climber::cuts(const std::vector<int>& component) const {
  std::vector<std::vector<std::size_t>> own(components_);
  for (std::size_t i = 0; i < component.size(); ++i) own[component[i]].push_back(i);
  std::vector<Cut> out;
  for (const auto& rows : own) out.push_back(best_cut(em_.rows(), em_.levels(), em_.places(), rows));
  return out;
}

// One component lost and another cut, the least loss against the largest gain first.
struct Exchange {
  double cost;
  int lost, cut;
};

std::vector<Exchange> exchanges(const std::vector<double>& loss, const std::vector<Cut>& cuts, std::size_t most) {
  std::vector<Exchange> out;
  const int k = static_cast<int>(loss.size());
  for (int lost = 0; lost < k; ++lost)
    for (int cut = 0; cut < k; ++cut)
      if (lost != cut && std::isfinite(cuts[cut].gain)) out.push_back({loss[lost] - cuts[cut].gain, lost, cut});
  std::stable_sort(out.begin(), out.end(), [](const Exchange& a, const Exchange& b) { return a.cost < b.cost; });
  out.resize(std::min(out.size(), most));
  return out;
}

std::vector<std::vector<int>> Climber::moved() const {
  const std::size_t k = components_, n = em_.rows().rows();
  std::vector<double> density(n * k), apart(n * k);
  em_.log_densities(found_.fit, density.data(), apart.data());
  const TwoLikeliest likeliest = two_likeliest(density, n, k);
  const std::vector<Cut> cut = cuts(likeliest.first);
  std::vector<std::vector<int>> out;
  for (const Exchange& one : exchanges(likeliest.loss, cut, how_.moves)) {
    std::vector<int> label(likeliest.first);
    for (std::size_t i = 0; i < n; ++i)
      if (likeliest.first[i] == one.lost) label[i] = likeliest.second[i];
    for (std::size_t i : cut[one.cut].off) label[i] = one.lost;
    out.push_back(std::move(label));
  }
  return out;
}

// Runs are compared before they have settled: only what was found in the end is brought to the tolerance asked for, and
// not that of models far behind.
double brisk(const MixtureSearch& how) { return std::max(how.em.tolerance, 1e-6); }
double hasty(const MixtureSearch& how) { return std::max(how.em.tolerance, 1e-5); }

// Models so far behind the best, by BIC and by AIC, that better starts would not bring them to the front.
std::vector<char> far_behind(const std::vector<Climber>& climbers, double share, const MixtureSearch& how) {
  std::vector<char> out(climbers.size(), 0);
  for (bool heavily : {false, true}) {
    std::vector<double> value;
    for (const Climber& c : climbers) {
      const MixtureFit& fit = c.best_so_far();
      const double rows = static_cast<double>(c.rows().rows());
      value.push_back(fit.failed || fit.floored
                          ? HUGE_VAL
                          : mixture_criterion(fit, heavily ? std::log(rows) : 2.0, how.em.estimate_freedom));
    }
    const double best = *std::min_element(value.begin(), value.end());
    for (std::size_t m = 0; m < value.size(); ++m) {
      const double rows = static_cast<double>(climbers[m].rows().rows());
      out[m] += std::isfinite(value[m]) && value[m] - best > std::max(share * rows, 50.0);
    }
  }
  for (char& is : out) is = is == 2;
  return out;
}

// Short runs of some climbers from starts of their own, all at once: few rounds first, after which the best go on
// (successive halving, Jamieson & Talwalkar 2016).
void run_shortly(std::vector<Climber>& climbers, const std::vector<std::size_t>& which,
                 const std::vector<std::vector<const int*>>& starts, std::size_t kept, const MixtureSearch& how,
                 std::size_t threads) {
  struct Run {
    std::size_t climber, number;
    const int* start;
  };
  const std::size_t first = std::min(how.first_rounds, how.short_rounds);
  std::vector<Run> runs;
  for (std::size_t w = 0; w < which.size(); ++w) {
    climbers[which[w]].expect(starts[w].size());
    for (std::size_t s = 0; s < starts[w].size(); ++s) runs.push_back({which[w], s, starts[w][s]});
  }
  in_parallel(runs.size(), threads, [&](std::size_t r) {
    climbers[runs[r].climber].run(runs[r].number, runs[r].start, first);
  });
  runs.clear();
  for (std::size_t w = 0; w < which.size(); ++w) {
    climbers[which[w]].rank();
    const std::size_t left = climbers[which[w]].keep(kept);
    for (std::size_t s = 0; s < left; ++s) runs.push_back({which[w], s, nullptr});
  }
  in_parallel(runs.size(), threads, [&](std::size_t r) {
    climbers[runs[r].climber].run_on(runs[r].number, how.short_rounds - first);
  });
  for (std::size_t m : which) climbers[m].rank();
}

std::vector<const int*> pointers(const std::vector<std::vector<int>>& labels) {
  std::vector<const int*> out;
  for (const std::vector<int>& one : labels) out.push_back(one.data());
  return out;
}

// Merges and splits, as long as one gains; marks the climbers that gained.
void move(std::vector<Climber>& climbers, std::vector<std::size_t> which, const MixtureSearch& how, std::size_t threads,
          std::vector<char>& changed) {
  const auto stuck = [&](std::size_t m) { return !climbers[m].movable(); };
  which.erase(std::remove_if(which.begin(), which.end(), stuck), which.end());
  for (std::size_t turn = 0; turn < how.turns && !which.empty(); ++turn) {
    std::vector<std::vector<std::vector<int>>> cuts(which.size());
    in_parallel(which.size(), threads, [&](std::size_t w) { cuts[w] = climbers[which[w]].moved(); });
    std::vector<std::vector<const int*>> starts;
    for (const auto& each : cuts) starts.push_back(pointers(each));
    run_shortly(climbers, which, starts, 4, how, threads);
    std::vector<char> gained(which.size(), 0);
    in_parallel(which.size(), threads, [&](std::size_t w) { gained[w] = climbers[which[w]].go_on(1, brisk(how)); });
    std::vector<std::size_t> again;
    for (std::size_t w = 0; w < which.size(); ++w) {
      if (!gained[w]) continue;
      changed[which[w]] = 1;
      again.push_back(which[w]);
    }
    which = again;
  }
}

}  // namespace

std::size_t mixture_parameters(const MixtureModel& model, std::size_t k, std::size_t d, bool estimated_freedom) {
  return k - 1 + k * d + covariance_parameters(model.structure, k, d) +
         (model.tails == Tails::heavy && estimated_freedom ? 1 : 0);
}

double mixture_criterion(const MixtureFit& fit, double charge, bool estimated_freedom) {
  return -2.0 * fit.log_likelihood +
         charge * static_cast<double>(mixture_parameters(fit.model, fit.components, fit.cols, estimated_freedom));
}

std::vector<MixtureFound> search_mixtures(const MixtureRows& rows, const std::vector<MixtureModel>& models,
                                          std::size_t components, const std::vector<const int*>& starts,
                                          const MixtureSearch& how, Watch& watch) {
  // Small tables: a thread a model. Large ones: all threads on each, unless starting them takes longer than a round.
  const std::size_t work = rows.numbers.rows() * (rows.numbers.cols() + rows.levels.cols) * components;
  const bool by_model = models.size() > 1 && work < 2000000;
  MixtureSearch each = how;
  each.em.threads = by_model || work < 200000 ? 1 : how.threads;
  std::vector<Climber> climbers;
  for (const MixtureModel& model : models) climbers.emplace_back(rows, model, components, each, watch);
  const std::size_t threads = by_model ? how.threads : 1, many = models.size();
  std::vector<std::size_t> every(many);
  std::iota(every.begin(), every.end(), 0);
  run_shortly(climbers, every, std::vector<std::vector<const int*>>(many, starts), how.kept, how, threads);
  std::vector<char> far = far_behind(climbers, 2.0 * how.far, how);
  in_parallel(many, threads, [&](std::size_t m) {
    climbers[m].go_on(far[m] ? 1 : how.kept, far[m] ? hasty(how) : brisk(how));
  });
  far = far_behind(climbers, how.far, how);
  std::vector<char> changed(many, 1);
  const auto by_bic = [&] {
    std::vector<std::size_t> order = every;
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return climbers[a].bic() < climbers[b].bic(); });
    return order;
  };
  // Groups found by one model are tried as starts of the others: the different ones of the best models that have moved.
  const auto exchange = [&](std::size_t for_far) {
    std::vector<std::vector<int>> label;
    for (std::size_t m : by_bic()) {
      if (!changed[m] || climbers[m].found().fit.failed || label.size() == how.exchanged) continue;
      std::vector<int> own = climbers[m].labels();
      if (std::find(label.begin(), label.end(), own) == label.end()) label.push_back(std::move(own));
    }
    std::vector<std::vector<const int*>> begin(many, pointers(label));
    for (std::size_t m = 0; m < many; ++m)
      if (far[m]) begin[m].resize(std::min(for_far, begin[m].size()));
    run_shortly(climbers, every, begin, 2, how, threads);
    in_parallel(many, threads, [&](std::size_t m) {
      changed[m] = climbers[m].go_on(far[m] ? 1 : 2, far[m] ? hasty(how) : brisk(how));
    });
    far = far_behind(climbers, how.far, how);
  };
  if (components > 1 && many > 1 && how.exchanges > 0) exchange(how.far_exchanged);
  std::vector<std::size_t> best = by_bic();
  best.resize(std::min(many, how.moved));
  move(climbers, best, how, threads, changed);
  for (std::size_t round = 1; components > 1 && many > 1 && round < how.exchanges; ++round) {
    if (std::count(changed.begin(), changed.end(), 1) == 0) break;
    exchange(0);
  }
  far = far_behind(climbers, how.far, how);
  in_parallel(many, threads, [&](std::size_t m) {
    if (!far[m]) climbers[m].settle();
  });
  std::vector<MixtureFound> out;
  for (Climber& c : climbers) {
    if (!c.found().fit.failed) c.found().certainty = c.certainty();
    out.push_back(std::move(c.found()));
  }
  return out;
}

}  // namespace fjordline
