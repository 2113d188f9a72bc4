#include "density.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <tuple>

namespace fjordline {
namespace {

constexpr double kInfinite = std::numeric_limits<double>::infinity();

class Distance {
 public:
  Distance(const PairBlocks& pairs, std::size_t threads) : rows_(pairs.rows()), values_(rows_ * rows_) {
    in_parallel(pairs.tiles(), threads, [&](std::size_t t) {
      Lined block(kTile * kTile);
      for (std::size_t u = 0; u < pairs.tiles(); ++u) {
        pairs.block(t, u, block.data());
        for (std::size_t i = t * kTile; i < std::min(rows_, (t + 1) * kTile); ++i)
          for (std::size_t l = u * kTile; l < std::min(rows_, (u + 1) * kTile); ++l)
            values_[i * rows_ + l] = block[l % kTile * kTile + i % kTile] * pairs.unit();
      }
    });
  }
  double operator()(std::size_t i, std::size_t l) const { return values_[i * rows_ + l]; }

 private:
  std::size_t rows_;
  std::vector<double> values_;
};

// The distance at which the others of the group are as dense as they are around the row, in powers relative to the
// nearest: 0 beside a duplicate.
double core_distance(const Distance& d, std::size_t row, const std::vector<std::size_t>& members, double dimensions) {
  double nearest = kInfinite;
  for (std::size_t l : members)
    if (l != row) nearest = std::min(nearest, d(row, l));
  if (!(nearest > 0.0) || nearest == kInfinite) return 0.0;
  double sum = 0.0;
  for (std::size_t l : members)
    if (l != row) sum += std::exp(dimensions * (std::log(nearest) - std::log(d(row, l))));
  return nearest * std::pow(sum / static_cast<double>(members.size() - 1), -1.0 / dimensions);
}

// Edges are ordered by reachability, then distance, then rows: one tree is the smallest.
struct Edge {
  double reach, distance;
  std::size_t low, high;
  bool operator<(const Edge& o) const {
    return std::tie(reach, distance, low, high) < std::tie(o.reach, o.distance, o.low, o.high);
  }
};

class Validity {
 public:
  Validity(const Distance& d, const int* group, std::size_t rows, std::size_t groups, double dimensions)
      : d_(d), rows_(rows), members_(groups), core_(rows, 0.0), inner_(groups), sparse_(groups, 0.0) {
    for (std::size_t i = 0; i < rows; ++i)
      if (group[i] > 0) members_[static_cast<std::size_t>(group[i] - 1)].push_back(i);
    for (const auto& members : members_)
      for (std::size_t i : members) core_[i] = core_distance(d_, i, members, dimensions);
    for (std::size_t g = 0; g < groups; ++g) look_at_tree(g);
  }

  double value() const {
    double sum = 0.0;
    for (std::size_t g = 0; g < members_.size(); ++g) {
      if (members_[g].size() < 2) continue;
      double apart = kInfinite;
      for (std::size_t h = 0; h < members_.size(); ++h)
        if (h != g) apart = std::min(apart, separation(g, h));
      const double larger = std::max(apart, sparse_[g]);
      if (larger > 0.0) sum += static_cast<double>(members_[g].size()) * (apart - sparse_[g]) / larger;
    }
    return sum / static_cast<double>(rows_);
  }

 private:
  double reach(std::size_t i, std::size_t l) const { return std::max({core_[i], core_[l], d_(i, l)}); }

  Edge edge(std::size_t i, std::size_t l) const { return {reach(i, l), d_(i, l), std::min(i, l), std::max(i, l)}; }

  // The smallest spanning tree (Prim 1957): its inner rows, and the largest edge between them.
  void look_at_tree(std::size_t g) {
    std::vector<std::size_t> outside(members_[g]);
    std::vector<Edge> best(outside.size(), {kInfinite, kInfinite, rows_, rows_}), tree;
    std::vector<int> degree(rows_, 0);
    std::size_t at = 0;
    while (outside.size() > 1) {
      const std::size_t joined = outside[at];
      outside.erase(outside.begin() + static_cast<std::ptrdiff_t>(at));
      best.erase(best.begin() + static_cast<std::ptrdiff_t>(at));
      at = 0;
      for (std::size_t i = 0; i < outside.size(); ++i) {
        best[i] = std::min(best[i], edge(joined, outside[i]));
        if (best[i] < best[at]) at = i;
      }
      tree.push_back(best[at]);
      ++degree[best[at].low];
      ++degree[best[at].high];
    }
    for (std::size_t i : members_[g])
      if (degree[i] > 1) inner_[g].push_back(i);
    double inner = -1.0, any = 0.0;
    for (const Edge& e : tree) {
      any = std::max(any, e.reach);
      if (degree[e.low] > 1 && degree[e.high] > 1) inner = std::max(inner, e.reach);
    }
    sparse_[g] = inner >= 0.0 ? inner : any;
    if (inner_[g].empty()) inner_[g] = members_[g];
  }

  double separation(std::size_t g, std::size_t h) const {
    double least = kInfinite;
    for (std::size_t i : inner_[g])
      for (std::size_t l : inner_[h]) least = std::min(least, reach(i, l));
    return least;
  }

  const Distance& d_;
  std::size_t rows_;
  std::vector<std::vector<std::size_t>> members_;
  std::vector<double> core_;
  std::vector<std::vector<std::size_t>> inner_;  // rows with two edges or more in their group's tree
  std::vector<double> sparse_;
};

}  // namespace

bool density_validity(const PairBlocks& pairs, const Labelings& labelings, double dimensions, std::size_t threads,
                      const Stop& stop, std::vector<double>& out) {
  Watch watch(stop);
  const Distance distance(pairs, threads);
  out.assign(labelings.counts.size(), std::numeric_limits<double>::quiet_NaN());
  in_parallel(out.size(), threads, [&](std::size_t m) {
    const std::size_t k = static_cast<std::size_t>(labelings.counts[m]);
    if (watch.over(10000000) || k < 2) return;
    out[m] = Validity(distance, labelings.groups + m * pairs.rows(), pairs.rows(), k, dimensions).value();
  });
  return !watch.stopped();
}

}  // namespace fjordline
