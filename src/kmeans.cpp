#include "kmeans.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>
#include <numeric>

#include "evolution.h"
#include "metrics.h"
#include "stream.h"

namespace fjordline {
namespace {

// Below this many steps a round is too short to be shared; restarts are shared instead, as many at a time as cost
// little memory.
constexpr std::size_t kShareRounds = 4000000;
constexpr std::size_t kFewRows = 20000;
// Below this many steps a round, of all restarts together, starting threads takes longer than the work.
constexpr std::size_t kShareAny = 50000;
// Rounds after which restarts are compared, where only the best go on.
constexpr std::size_t kFirstRounds = 4;

struct Best {
  std::unique_ptr<Descent> descent;
  std::vector<double> reached;
  std::size_t refilled = 0;

  void offer(std::unique_ptr<Descent> one) {
    reached.push_back(one->objective());
    refilled += one->refilled();
    if (!descent || one->objective() < descent->objective()) descent = std::move(one);
  }
};

bool some_go_on(const KmeansSettings& settings) {
  return settings.finished > 0 && settings.finished < settings.restarts;
}

// One restart, to its end or begun only. Its random numbers follow from the count and its number alone.
std::unique_ptr<Descent> descend(const Rows& rows, const KmeansSettings& settings, const DescentSettings& how,
                                 std::size_t groups, std::size_t number, const RowTable* start, Watch& watch) {
  Stream stream(settings.seed, {groups, number});
  RowTable centres = start ? *start : seeds(rows, groups, settings.seeding, stream, how.threads, watch);
  if (watch.stopped()) return nullptr;
  std::unique_ptr<Descent> out(new Descent(rows, how, watch, std::move(centres)));
  if (some_go_on(settings)) out->begin(kFirstRounds);
  else out->go();
  return out;
}

// Of the restarts that were begun those that are best so far; of equals the first.
using Begun = std::vector<std::unique_ptr<Descent>>;
Begun best_begun(Begun begun, std::size_t many) {
  std::stable_sort(begun.begin(), begun.end(), [](const std::unique_ptr<Descent>& a, const std::unique_ptr<Descent>& b) {
    return a->about_objective() < b->about_objective();
  });
  begun.resize(std::min(many, begun.size()));
  return begun;
}

// Restarts are shared among threads where the table is small, the rows of each where it is large.
void restart(const Rows& rows, const KmeansSettings& settings, const RowTable* start, Watch& watch, Best& best) {
  const bool share_restarts = rows.count() * rows.cols() * settings.groups < kShareRounds;
  DescentSettings descent{settings.max_rounds, share_restarts ? 1 : settings.threads, settings.rounds};
  const std::size_t many_at_once = std::max<std::size_t>(rows.count() > kFewRows ? 8 : 32, settings.threads);
  const std::size_t restarts = start ? 1 : settings.restarts;
  // where only the best go on, all are compared: how many there are at a time must not matter
  const std::size_t wave = some_go_on(settings) ? restarts : share_restarts ? many_at_once : 1;
  const std::size_t threads = share_restarts ? settings.threads : 1;
  for (std::size_t from = 0; from < restarts && !watch.stopped(); from += wave) {
    const std::size_t many = std::min(wave, restarts - from);
    Begun ran(many);
    in_parallel(many, threads, [&](std::size_t r) {
      if (watch.over(1000)) return;
      ran[r] = descend(rows, settings, descent, settings.groups, from + r, start, watch);
    });
    if (watch.stopped()) return;
    if (some_go_on(settings)) {
      ran = best_begun(std::move(ran), settings.finished);
      in_parallel(ran.size(), threads, [&](std::size_t r) { ran[r]->go(); });
      if (watch.stopped()) return;
    }
    for (auto& one : ran) best.offer(std::move(one));
  }
}

// Means of the table's own numbers, each column about a value of the group: what shifting to the middle of the table
// rounded away comes back.
void exact_means(const TableView& x, const double* weight, KmeansFit& fit, std::size_t threads) {
  const std::size_t k = fit.centres.rows;
  std::vector<std::size_t> member(k, 0);
  std::vector<double> mass(k, 0.0);
  for (std::size_t i = x.rows; i-- > 0;) {
    member[fit.group[i]] = i;
    mass[fit.group[i]] += weight ? weight[i] : 1.0;
  }
  in_parallel(x.cols, x.rows > 10000 ? threads : 1, [&](std::size_t j) {
    const double* column = x.values + j * x.rows;
    const int* group = fit.group.data();
    std::vector<double> near(k), off(k, 0.0);
    for (std::size_t g = 0; g < k; ++g) near[g] = column[member[g]];
    if (weight) {
      for (std::size_t i = 0; i < x.rows; ++i) off[group[i]] += weight[i] * (column[i] - near[group[i]]);
    } else {
      for (std::size_t i = 0; i < x.rows; ++i) off[group[i]] += column[i] - near[group[i]];
    }
    for (std::size_t g = 0; g < k; ++g)
      if (mass[g] > 0.0) fit.centres.row(g)[j] = near[g] + off[g] / mass[g];
  });
}

KmeansSettings without_threads_if_small(const TableView& x, KmeansSettings settings, std::size_t centres) {
  if (x.rows * x.cols * centres * settings.restarts < kShareAny) settings.threads = 1;
  return settings;
}

}  // namespace

KmeansFit kmeans(const TableView& x, const KmeansSettings& asked, const TableView* start, const double* weight,
                 const Stop& stop) {
  const KmeansSettings settings = without_threads_if_small(x, asked, asked.groups);
  KmeansFit fit;
  const Rows rows(x, settings.metric, weight, settings.threads);
  fit.without_direction = rows.without_direction();
  fit.distinct = rows.distinct(settings.groups);
  if (fit.distinct < settings.groups || fit.without_direction < x.rows) return fit;

  Watch watch(stop);
  Best best;
  if (settings.search == Search::evolution && !start && settings.groups > 1) {
    best.descent = evolve(rows, settings, watch, best.reached, best.refilled);
  } else {
    RowTable given;
    if (start) given = rows.inward(*start);
    restart(rows, settings, start ? &given : nullptr, watch, best);
  }
  if (watch.stopped()) {
    fit.stopped = true;
    return fit;
  }
  Descent& won = *best.descent;
  if (!won.measure()) {
    fit.stopped = true;
    return fit;
  }
  fit.group = won.group();
  fit.centres = won.centres();
  rows.outward(fit.centres);
  if (!rows.on_sphere()) exact_means(x, weight, fit, settings.threads);
  fit.group_scatter = won.scatter();
  const double unit = rows.squared_unit();
  for (double& s : fit.group_scatter) s *= rows.on_sphere() ? 0.5 : unit;
  fit.objective = won.objective() * unit;
  fit.rounds = won.rounds();
  fit.transferred = won.transferred();
  fit.refilled = best.refilled;
  fit.converged = won.converged();
  fit.reached = best.reached;
  for (double& w : fit.reached) w *= unit;
  return fit;
}

std::vector<double> kmeans_scatter(const TableView& x, const std::vector<std::size_t>& counts,
                                   const KmeansSettings& asked, const Stop& stop) {
  const KmeansSettings settings =
      without_threads_if_small(x, asked, std::accumulate(counts.begin(), counts.end(), std::size_t{0}));
  const Rows rows(x, settings.metric, nullptr, settings.threads);
  const std::size_t largest = counts.empty() ? 0 : *std::max_element(counts.begin(), counts.end());
  if (rows.distinct(largest) < largest)
    return std::vector<double>(counts.size(), std::numeric_limits<double>::quiet_NaN());
  const DescentSettings how{settings.max_rounds, 1, settings.rounds};
  const std::size_t restarts = settings.restarts, tasks = counts.size() * restarts;
  std::vector<double> out(counts.size(), HUGE_VAL);
  std::vector<Begun> begun(counts.size());
  for (Begun& one : begun) one.resize(some_go_on(settings) ? restarts : 0);
  std::vector<double> reached(tasks, HUGE_VAL);
  Watch watch(stop);
  in_parallel(tasks, settings.threads, [&](std::size_t t) {
    if (watch.over(1000)) return;
    const std::size_t task = tasks - 1 - t;  // the largest counts take longest: first, so that threads end together
    auto one = descend(rows, settings, how, counts[task / restarts], task % restarts, nullptr, watch);
    if (!one) return;
    if (some_go_on(settings)) begun[task / restarts][task % restarts] = std::move(one);
    else reached[task] = one->objective();
  });
  if (watch.stopped()) return {};
  if (some_go_on(settings)) {
    for (Begun& one : begun) one = best_begun(std::move(one), settings.finished);
    const std::size_t left = counts.size() * settings.finished;
    in_parallel(left, settings.threads, [&](std::size_t t) {
      const std::size_t task = left - 1 - t, m = task / settings.finished, r = task % settings.finished;
      begun[m][r]->go();
      reached[m * restarts + r] = begun[m][r]->objective();
    });
    if (watch.stopped()) return {};
  }
  for (std::size_t m = 0; m < counts.size(); ++m) {
    const auto first = reached.begin() + static_cast<std::ptrdiff_t>(m * restarts);
    out[m] = *std::min_element(first, first + static_cast<std::ptrdiff_t>(restarts)) * rows.squared_unit();
  }
  return out;
}

std::vector<std::vector<int>> kmeans_by_samples(const TableView& x, const std::vector<std::vector<int>>& samples,
                                                const std::vector<std::uint64_t>& seeds, const KmeansSettings& asked,
                                                const Stop& stop) {
  Watch watch(stop);
  const Stop stopped = [&] { return watch.stopped(); };  // only one thread may ask the user
  std::vector<std::vector<int>> out(samples.size());
  in_parallel(samples.size(), asked.threads, [&](std::size_t s) {
    const std::vector<int>& rows = samples[s];
    if (watch.over(asked.restarts * rows.size() * x.cols * asked.groups)) return;
    std::vector<double> values(rows.size() * x.cols);
    for (std::size_t j = 0; j < x.cols; ++j)
      for (std::size_t i = 0; i < rows.size(); ++i) values[j * rows.size() + i] = x.at(rows[i], j);
    KmeansSettings settings = asked;
    settings.seed = seeds[s];
    settings.threads = 1;
    const KmeansFit fit = kmeans({values.data(), rows.size(), x.cols}, settings, nullptr, nullptr, stopped);
    if (fit.stopped || fit.distinct < settings.groups) return;
    out[s] = nearest_centres(x, fit.centres, settings.metric, 1).group;
  });
  if (watch.stopped()) out.clear();
  return out;
}

GroupScatter group_scatter(const TableView& x, const int* group, std::size_t groups) {
  GroupScatter out{RowTable(groups, x.cols), std::vector<double>(groups, 0.0)};
  if (x.rows == 0) return out;
  std::vector<double> size(groups, 0.0);
  for (std::size_t i = 0; i < x.rows; ++i)
    if (group[i] > 0) size[group[i] - 1] += 1.0;
  std::vector<double> sum(groups), squares(groups);
  for (std::size_t j = 0; j < x.cols; ++j) {
    // About a value of the column first: large offsets cost no digits.
    const double near = x.at(0, j);
    std::fill(sum.begin(), sum.end(), 0.0);
    std::fill(squares.begin(), squares.end(), 0.0);
    for (std::size_t i = 0; i < x.rows; ++i)
      if (group[i] > 0) sum[group[i] - 1] += x.at(i, j) - near;
    for (std::size_t g = 0; g < groups; ++g) sum[g] /= size[g];
    for (std::size_t i = 0; i < x.rows; ++i) {
      if (group[i] == 0) continue;
      const double gap = x.at(i, j) - near - sum[group[i] - 1];
      squares[group[i] - 1] += gap * gap;
    }
    for (std::size_t g = 0; g < groups; ++g) {
      out.means.row(g)[j] = near + sum[g];
      out.scatter[g] += squares[g];
    }
  }
  return out;
}

}  // namespace fjordline
