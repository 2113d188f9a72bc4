#include "evolution.h"

#include <algorithm>
#include <cmath>

#include "stream.h"

namespace fjordline {
namespace {

constexpr std::size_t kFewest = 10, kMost = 20;  // partitions in the population, as in the paper
constexpr std::size_t kBrood = 4;                // children bred from the same population, whatever the threads
constexpr std::size_t kLooked = 100;             // rows among which a far one is drawn

struct Member {
  RowTable centres;
  double objective = 0.0;
};

// Nearest pairs first: which centre of b goes with each centre of a.
std::vector<std::size_t> matched(const RowTable& a, const RowTable& b) {
  const std::size_t k = a.rows;
  struct Pair {
    double gap;
    std::size_t a, b;
  };
  std::vector<Pair> pairs;
  pairs.reserve(k * k);
  for (std::size_t g = 0; g < k; ++g)
    for (std::size_t h = 0; h < k; ++h) pairs.push_back({squared_distance(a.row(g), b.row(h), a.cols), g, h});
  std::sort(pairs.begin(), pairs.end(), [](const Pair& p, const Pair& q) {
    return p.gap != q.gap ? p.gap < q.gap : p.a != q.a ? p.a < q.a : p.b < q.b;
  });
  std::vector<std::size_t> match(k, k);
  std::vector<bool> taken(k, false);
  for (const Pair& pair : pairs) {
    if (match[pair.a] != k || taken[pair.b]) continue;
    match[pair.a] = pair.b;
    taken[pair.b] = true;
  }
  return match;
}

std::size_t tournament(const std::vector<Member>& population, Stream& stream) {
  const std::size_t a = stream.below(population.size()), b = stream.below(population.size());
  return population[a].objective <= population[b].objective ? a : b;
}

// A row drawn with probability proportional to its squared distance from the nearest centre but one.
std::size_t far_row(const Rows& rows, const RowTable& centres, std::size_t without, Stream& stream) {
  std::vector<double> one(rows.cols()), weight(kLooked);
  std::vector<std::size_t> row(kLooked);
  double sum = 0.0;
  for (std::size_t l = 0; l < kLooked; ++l) {
    row[l] = stream.below(rows.count());
    const double* point = rows.row(row[l], one.data());
    double nearest = -1.0;
    for (std::size_t g = 0; g < centres.rows; ++g) {
      if (g == without) continue;
      const double distance = squared_distance(point, centres.row(g), rows.cols());
      if (nearest < 0.0 || distance < nearest) nearest = distance;
    }
    weight[l] = nearest * rows.weight(row[l]);
    sum += weight[l];
  }
  double left = stream.uniform() * sum;
  for (std::size_t l = 0; l + 1 < kLooked; ++l) {
    left -= weight[l];
    if (left < 0.0) return row[l];
  }
  return row[kLooked - 1];
}

RowTable child(const Rows& rows, const std::vector<Member>& population, Stream& stream) {
  const RowTable& mother = population[tournament(population, stream)].centres;
  const RowTable& father = population[tournament(population, stream)].centres;
  const std::vector<std::size_t> match = matched(mother, father);
  RowTable centres(mother.rows, mother.cols);
  for (std::size_t g = 0; g < mother.rows; ++g) {
    const double* from = stream.uniform() < 0.5 ? mother.row(g) : father.row(match[g]);
    std::copy(from, from + mother.cols, centres.row(g));
  }
  const std::size_t moved = stream.below(centres.rows);
  std::vector<double> one(rows.cols());
  const double* point = rows.row(far_row(rows, centres, moved, stream), one.data());
  std::copy(point, point + rows.cols(), centres.row(moved));
  return centres;
}

// Sorted by objective, one of each kind, no more than the fewest once the most is exceeded.
void survive(std::vector<Member>& population) {
  std::stable_sort(population.begin(), population.end(),
                   [](const Member& a, const Member& b) { return a.objective < b.objective; });
  if (population.size() <= kMost) return;
  std::vector<Member> kept;
  for (Member& member : population) {
    if (kept.size() == kFewest) break;
    if (!kept.empty() && member.objective <= kept.back().objective * (1.0 + 1e-9)) continue;
    kept.push_back(std::move(member));
  }
  population = std::move(kept);
}

}  // namespace

std::unique_ptr<Descent> evolve(const Rows& rows, const KmeansSettings& settings, Watch& watch,
                                std::vector<double>& reached, std::size_t& refilled) {
  const DescentSettings descent{settings.max_rounds, settings.threads, settings.rounds};
  const bool small = rows.count() * rows.cols() * settings.groups < 4000000;
  const DescentSettings alone{settings.max_rounds, 1, settings.rounds};
  const std::size_t founders = std::min(kFewest, std::max<std::size_t>(2, settings.restarts / 4));
  std::vector<Member> population;
  std::unique_ptr<Descent> best;
  for (std::size_t from = 0; from < settings.restarts && !watch.stopped(); from += kBrood) {
    const std::size_t many = std::min(kBrood, settings.restarts - from);
    std::vector<std::unique_ptr<Descent>> brood(many);
    in_parallel(many, small ? settings.threads : 1, [&](std::size_t r) {
      if (watch.over(1000)) return;
      Stream stream(settings.seed, {settings.groups, from + r});
      RowTable centres = from + r < founders || population.empty()
                             ? seeds(rows, settings.groups, settings.seeding, stream, small ? 1 : settings.threads, watch)
                             : child(rows, population, stream);
      if (watch.stopped()) return;
      brood[r].reset(new Descent(rows, small ? alone : descent, watch, std::move(centres)));
      brood[r]->go();
    });
    if (watch.stopped()) break;
    for (auto& one : brood) {
      reached.push_back(one->objective());
      refilled += one->refilled();
      population.push_back({one->centres(), one->objective()});
      if (!best || one->objective() < best->objective()) best = std::move(one);
    }
    survive(population);
  }
  return best;
}

}  // namespace fjordline
