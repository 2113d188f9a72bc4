#include "linkage.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <queue>
#include <tuple>

#include "linkage-matrix.h"
#include "rows.h"
#include "spanning-tree.h"

namespace fjordline {
namespace {

constexpr double kInfinite = std::numeric_limits<double>::infinity();
constexpr std::size_t kFewPairs = 16;  // rounds of all mutual pairs go on while one in so many groups is merged

// Groups stand in places in the order of their lowest rows. A space tells the nearest group of a place, and merges two
// places into the lower one; `apart` is what the join compares, `height` what is told.
//
// Mutual nearest neighbours can be merged in any order where no merge brings the merged closer to a third than the
// nearer part was (Bruynooghe 1977), which holds for all joins but centroid and median: rounds that merge all mutual
// pairs at once, then chains of nearest neighbours (Benzecri 1982) where rounds find few pairs.

// --- from centres

class CentreSpace {
 public:
  CentreSpace(const TableView& x, Join join, std::size_t threads, Watch& watch)
      : kernels_(tile_kernels()), join_(join), cols_(x.cols), threads_(threads), watch_(watch), count_(x.rows),
        lowest_(x.rows), size_(x.rows, 1.0), nearest_(x.rows), stale_(x.rows, 1) {
    const Rows rows(x, Metric::euclidean, nullptr, threads);
    unit_ = rows.squared_unit();
    tiles_.assign((count_ + kTile - 1) / kTile * kTile * cols_, 0.0);
    add_.assign((count_ + kTile - 1) / kTile * kTile, std::nan(""));
    std::vector<double> scratch(cols_);
    for (std::size_t i = 0; i < count_; ++i) {
      const double* values = rows.row(i, scratch.data());
      for (std::size_t j = 0; j < cols_; ++j) cell(i, j) = values[j];
      add_[i] = 0.5;
    }
    std::iota(lowest_.begin(), lowest_.end(), 0);
  }

  std::size_t count() const { return count_; }
  int lowest(std::size_t at) const { return lowest_[at]; }
  bool alive(std::size_t at) const { return !std::isnan(add_[at]); }
  double height(double apart) const { return std::sqrt(apart * unit_); }
  const std::vector<Nearest>& nearest() const { return nearest_; }

  // The nearest of every place that lost its own.
  void renew() {
    std::vector<int> asked;
    for (std::size_t i = 0; i < count_; ++i)
      if (stale_[i]) asked.push_back(static_cast<int>(i));
    const std::size_t batches = (asked.size() + kTile - 1) / kTile;
    in_parallel(batches, threads_, [&](std::size_t b) {
      if (watch_.over(count_ * cols_ * kTile)) return;
      const std::size_t first = b * kTile, many = std::min(kTile, asked.size() - first);
      Lined tile(kTile * cols_);
      alignas(64) double block[kTile * kTile], add[kTile], best[kTile];
      alignas(64) long long own[kTile], which[kTile];
      for (std::size_t r = 0; r < kTile; ++r) {
        const std::size_t at = asked[first + std::min(r, many - 1)];
        for (std::size_t j = 0; j < cols_; ++j) tile[j * kTile + r] = cell(at, j);
        add[r] = add_[at];
        own[r] = static_cast<long long>(at);
        best[r] = kInfinite;
        which[r] = -1;
      }
      for (std::size_t from = 0; from < count_; from += kTile) {
        kernels_.pairs[0](tile.data(), tiles_.data() + from * cols_, cols_, block);
        kernels_.least(block, add, add_.data() + from, own, static_cast<long long>(from), best, which);
      }
      for (std::size_t r = 0; r < many; ++r) {
        nearest_[own[r]] = {best[r], static_cast<int>(which[r])};
        stale_[own[r]] = 0;
      }
    });
  }

  Nearest nearest_of(std::size_t at) {
    std::fill(stale_.begin(), stale_.end(), 0);
    stale_[at] = 1;
    renew();
    return nearest_[at];
  }

  double between(std::size_t i, std::size_t l) {
    double sum = 0.0;
    for (std::size_t j = 0; j < cols_; ++j) {
      const double gap = cell(i, j) - cell(l, j);
      sum += gap * gap;
    }
    return sum / (add_[i] + add_[l]);
  }

  // Into the lower place; the higher one is dead.
  void merge(std::size_t low, std::size_t high) {
    const double all = size_[low] + size_[high];
    const double share = join_ == Join::median ? 0.5 : size_[high] / all;
    for (std::size_t j = 0; j < cols_; ++j) cell(low, j) += share * (cell(high, j) - cell(low, j));
    size_[low] = all;
    if (join_ == Join::ward) add_[low] = 0.5 / all;
    add_[high] = std::nan("");
  }

  // Merges pairs of places at once and closes the gaps.
  void merge_all(const std::vector<std::pair<int, int>>& pairs) {
    std::vector<int> moved(count_, -1);
    for (const auto& pair : pairs) merge(pair.first, pair.second);
    std::size_t to = 0;
    for (std::size_t at = 0; at < count_; ++at) {
      if (!alive(at)) continue;
      moved[at] = static_cast<int>(to);
      for (std::size_t j = 0; j < cols_; ++j) cell(to, j) = cell(at, j);
      lowest_[to] = lowest_[at];
      size_[to] = size_[at];
      add_[to] = add_[at];
      nearest_[to] = nearest_[at];
      ++to;
    }
    std::vector<char> touched(count_, 0);
    for (const auto& pair : pairs) touched[pair.first] = touched[pair.second] = 1;
    std::vector<char> stale(to, 0);
    for (std::size_t at = 0; at < count_; ++at)
      if (moved[at] >= 0) stale[moved[at]] = touched[at] || touched[nearest_[moved[at]].group];
    for (std::size_t at = 0; at < to; ++at)
      if (!stale[at]) nearest_[at].group = moved[nearest_[at].group];
    for (std::size_t at = to; at < count_; ++at) add_[at] = std::nan("");
    stale_.assign(to, 0);
    std::copy(stale.begin(), stale.end(), stale_.begin());
    count_ = to;
  }

 private:
  double& cell(std::size_t i, std::size_t j) { return tiles_[i / kTile * kTile * cols_ + j * kTile + i % kTile]; }

  const TileKernels& kernels_;
  Join join_;
  std::size_t cols_, threads_;
  Watch& watch_;
  std::size_t count_;
  std::vector<int> lowest_;
  std::vector<double> size_;
  Lined tiles_, add_;  // two groups are their squared distance over the sum of `add` apart; not a number where dead
  std::vector<Nearest> nearest_;
  std::vector<char> stale_;
  double unit_ = 1.0;
};

// --- the order of merges

template <class Space>
void merge_rounds(Space& space, Merges& out, Watch& watch) {
  while (space.count() > 1) {
    space.renew();
    if (watch.stopped()) return;
    const std::vector<Nearest>& nearest = space.nearest();
    std::vector<std::pair<int, int>> pairs;
    std::size_t living = 0;
    for (std::size_t i = 0; i < space.count(); ++i) {
      living += space.alive(i);
      const int other = nearest[i].group;
      if (other > static_cast<int>(i) && nearest[other].group == static_cast<int>(i))
        pairs.push_back({static_cast<int>(i), other});
    }
    if (pairs.empty() || pairs.size() * kFewPairs < living) return;
    for (const auto& pair : pairs)
      out.push_back({space.height(nearest[pair.first].apart), space.lowest(pair.first), space.lowest(pair.second)});
    space.merge_all(pairs);
  }
}

template <class Space>
void merge_chains(Space& space, Merges& out, Watch& watch) {
  std::size_t left = 0, start = 0;
  for (std::size_t i = 0; i < space.count(); ++i) left += space.alive(i);
  std::vector<int> chain;
  while (left > 1) {
    if (watch.over(space.count())) return;
    if (chain.empty()) {
      while (!space.alive(start)) ++start;
      chain.push_back(static_cast<int>(start));
    }
    const Nearest next = space.nearest_of(chain.back());
    if (watch.stopped()) return;
    if (chain.size() < 2 || next.group != chain[chain.size() - 2]) {
      chain.push_back(next.group);
      continue;
    }
    const int a = std::min(chain.back(), next.group), b = std::max(chain.back(), next.group);
    chain.resize(chain.size() - 2);
    out.push_back({space.height(next.apart), space.lowest(a), space.lowest(b)});
    space.merge(a, b);
    --left;
  }
}

// The closest pair of all, again and again: for joins that may bring the merged closer to a third.
template <class Space>
void merge_closest(Space& space, Merges& out, Watch& watch) {
  space.renew();
  const std::size_t n = space.count();
  std::vector<Nearest> nearest(space.nearest());
  for (std::size_t left = n; left > 1; --left) {
    if (watch.over(n) || watch.stopped()) return;
    int best = -1;
    for (std::size_t i = 0; i < n; ++i)
      if (space.alive(i) && (best < 0 || nearest[i].apart < nearest[best].apart)) best = static_cast<int>(i);
    const int a = std::min(best, nearest[best].group), b = std::max(best, nearest[best].group);
    out.push_back({space.height(nearest[best].apart), space.lowest(a), space.lowest(b)});
    space.merge(a, b);
    if (left == 2) return;
    for (std::size_t i = 0; i < n; ++i) {
      if (!space.alive(i) || static_cast<int>(i) == a) continue;
      if (nearest[i].group == a || nearest[i].group == b) {
        nearest[i] = space.nearest_of(i);
      } else {
        const double apart = space.between(i, a);
        if (apart < nearest[i].apart || (apart == nearest[i].apart && a < nearest[i].group)) nearest[i] = {apart, a};
      }
    }
    nearest[a] = space.nearest_of(a);
  }
}

// In the order of heights, equal ones by row numbers, a merge never before those it is made of.
Merges ordered(Merges merges, std::size_t rows) {
  const std::size_t many = merges.size();
  std::vector<int> last(rows, -1), next(many, -1), waits(many, 0);
  std::vector<double> reached(rows, 0.0);
  for (std::size_t m = 0; m < many; ++m) {
    Merge& one = merges[m];
    // What rounding takes off a height below that of its parts is given back.
    one.height = std::max({one.height, reached[one.low], reached[one.high]});
    reached[one.low] = one.height;
    for (int part : {last[one.low], last[one.high]}) {
      if (part < 0) continue;
      next[part] = static_cast<int>(m);
      ++waits[m];
    }
    last[one.low] = static_cast<int>(m);
  }
  const auto later = [&](int a, int b) {
    return std::tie(merges[a].height, merges[a].low, merges[a].high) >
           std::tie(merges[b].height, merges[b].low, merges[b].high);
  };
  std::priority_queue<int, std::vector<int>, decltype(later)> ready(later);
  for (std::size_t m = 0; m < many; ++m)
    if (waits[m] == 0) ready.push(static_cast<int>(m));
  Merges out;
  while (!ready.empty()) {
    const int m = ready.top();
    ready.pop();
    out.push_back(merges[m]);
    if (next[m] >= 0 && --waits[next[m]] == 0) ready.push(next[m]);
  }
  return out;
}

Merges counted(Merges merges, std::size_t rows) {
  std::vector<int> size(rows, 1);
  for (Merge& m : merges) m.rows = size[m.low] += size[m.high];
  return merges;
}

template <class Space>
Merges linked(Space& space, Join join, std::size_t rows, Watch& watch) {
  Merges out;
  if (join == Join::centroid || join == Join::median) {
    merge_closest(space, out, watch);
    return counted(std::move(out), rows);
  }
  merge_rounds(space, out, watch);
  if (!watch.stopped()) merge_chains(space, out, watch);
  return counted(ordered(std::move(out), rows), rows);
}

Merges merges_of(std::vector<Edge> edges, std::size_t rows) {
  std::sort(edges.begin(), edges.end());
  Joined groups(rows);
  Merges out;
  for (const Edge& edge : edges) {
    const int a = groups.lowest(edge.low), b = groups.lowest(edge.high);
    out.push_back({edge.length, std::min(a, b), std::max(a, b)});
    groups.join(a, b);
  }
  return counted(std::move(out), rows);
}

}  // namespace

Merges link_centres(const TableView& x, Join join, std::size_t threads, Watch& watch) {
  CentreSpace space(x, join, threads, watch);
  return linked(space, join, x.rows, watch);
}

Merges link_single(const TableView& x, std::size_t threads, Watch& watch) {
  return merges_of(spanning_tree(x, nullptr, threads, watch), x.rows);
}

Merges link_single(const PairBlocks& pairs, Watch& watch) {
  return merges_of(spanning_tree(pairs, nullptr, watch), pairs.rows());
}

namespace {

template <class Combine>
Merges from_matrix(const PairBlocks& pairs, Join join, bool squared, bool brief, std::size_t threads, Watch& watch) {
  if (brief) {
    MatrixSpace<float, Combine> space(pairs, squared, threads, watch);
    return linked(space, join, pairs.rows(), watch);
  }
  MatrixSpace<double, Combine> space(pairs, squared, threads, watch);
  return linked(space, join, pairs.rows(), watch);
}

}  // namespace

Merges link_matrix(const PairBlocks& pairs, Join join, bool brief, std::size_t threads, Watch& watch) {
  switch (join) {
    case Join::complete: return from_matrix<LargestOf>(pairs, join, false, brief, threads, watch);
    case Join::weighted: return from_matrix<MeanOfParts>(pairs, join, false, brief, threads, watch);
    case Join::ward: return from_matrix<Growth>(pairs, join, true, brief, threads, watch);
    case Join::centroid: return from_matrix<FromMean>(pairs, join, true, brief, threads, watch);
    case Join::median: return from_matrix<FromMiddle>(pairs, join, true, brief, threads, watch);
    default: return from_matrix<MeanOfRows>(pairs, join, false, brief, threads, watch);
  }
}

std::vector<int> cut_tree(const Merges& merges, std::size_t rows, std::size_t count) {
  Joined groups(rows);
  for (std::size_t m = 0; m + count < rows && m < merges.size(); ++m)
    groups.join(groups.lowest(merges[m].low), groups.lowest(merges[m].high));
  std::vector<int> number(rows, 0), out(rows);
  int next = 0;
  for (std::size_t i = 0; i < rows; ++i) {
    int& n = number[groups.lowest(static_cast<int>(i))];
    if (n == 0) n = ++next;
    out[i] = n;
  }
  return out;
}

}  // namespace fjordline
