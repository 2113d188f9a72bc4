#include "spanning-tree.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "rows.h"

namespace fjordline {
namespace {

constexpr double kInfinite = std::numeric_limits<double>::infinity();
constexpr std::size_t kWorthSharing = 1000000;  // steps below which one thread is as fast, and no other is waited for
constexpr double kRounding = std::numeric_limits<float>::epsilon();

Edge edge_of(double length, int a, int b) { return {length, std::min(a, b), std::max(a, b)}; }

// The rows outside the tree, kept together at the front of the tiles, and the shortest edge of each into the tree. In
// single precision most rows are found too far from the row that joins; only the others are measured.
class Outside {
 public:
  Outside(const TableView& x, const double* core, std::size_t threads)
      : kernels_(tile_kernels()), cols_(x.cols), threads_(threads), left_(x.rows), row_(x.rows),
        nearest_(x.rows, kInfinite), joins_(x.rows, 0), point_(x.cols), brief_point_(x.cols) {
    const Rows rows(x, Metric::euclidean, nullptr, threads);
    unit_ = std::sqrt(rows.squared_unit());
    const std::size_t tiles = (x.rows + kTile - 1) / kTile;
    tiles_.assign(tiles * kTile * cols_, 0.0);
    std::vector<double> scratch(cols_);
    double largest = 0.0;
    for (std::size_t i = 0; i < x.rows; ++i) {
      const double* values = rows.row(i, scratch.data());
      for (std::size_t j = 0; j < cols_; ++j) {
        cell(i, j) = values[j];
        largest = std::max(largest, std::fabs(values[j]));
      }
    }
    brief_tiles_.assign(tiles_.begin(), tiles_.end());
    // What two rows lose by rounding to single precision, and their distance by adding up.
    slack_ = largest * std::sqrt(static_cast<double>(cols_)) * 2.0 * kRounding;
    allowed_ = 1.0 + static_cast<double>(cols_ + 8) * kRounding;
    reach_.assign(tiles * kTile, -1.0f);
    std::fill(reach_.begin(), reach_.begin() + x.rows, std::numeric_limits<float>::infinity());
    shortest_.resize(tiles);
    for (std::size_t t = 0; t < tiles; ++t) shortest_[t] = t * kTile;
    least_.assign(tiles, kInfinite);
    std::iota(row_.begin(), row_.end(), 0);
    for (std::size_t i = 0; core && i < x.rows; ++i) core_.push_back(core[i] / unit_ * (core[i] / unit_));
  }

  // Takes the row at a place out; its distances then renew the others' edges. Gives the place of the shortest edge.
  std::size_t take(std::size_t at) {
    const int joined = row_[at];
    const double own = core_.empty() ? 0.0 : core_[at];
    drop(at);
    const std::size_t tiles = (left_ + kTile - 1) / kTile;
    const std::size_t parts = left_ * cols_ < kWorthSharing ? 1 : std::min(threads_, tiles);
    std::vector<std::size_t> best(parts);
    in_parallel(parts, threads_, [&](std::size_t p) {
      best[p] = renew(tiles * p / parts, tiles * (p + 1) / parts, joined, own);
    });
    for (std::size_t p = 1; p < parts; ++p)
      if (squared(best[p]) < squared(best[0])) best[0] = best[p];
    return best[0];
  }

  std::size_t left() const { return left_; }
  Edge edge(std::size_t at) const { return edge_of(unit_ * std::sqrt(nearest_[at]), joins_[at], row_[at]); }

 private:
  Edge squared(std::size_t at) const { return edge_of(nearest_[at], joins_[at], row_[at]); }
  double& cell(std::size_t i, std::size_t j) { return tiles_[i / kTile * kTile * cols_ + j * kTile + i % kTile]; }
  float& brief_cell(std::size_t i, std::size_t j) {
    return brief_tiles_[i / kTile * kTile * cols_ + j * kTile + i % kTile];
  }

  // The last row takes the place of the one that joins.
  void drop(std::size_t at) {
    --left_;
    for (std::size_t j = 0; j < cols_; ++j) {
      point_[j] = cell(at, j);
      brief_point_[j] = brief_cell(at, j);
      cell(at, j) = cell(left_, j);
      brief_cell(at, j) = brief_cell(left_, j);
    }
    row_[at] = row_[left_];
    nearest_[at] = nearest_[left_];
    joins_[at] = joins_[left_];
    reach_[at] = reach_[left_];
    reach_[left_] = -1.0f;
    if (!core_.empty()) core_[at] = core_[left_];
    find_shortest(at / kTile);
    find_shortest(left_ / kTile);
  }

  void find_shortest(std::size_t tile) {
    const std::size_t end = std::min(left_, (tile + 1) * kTile);
    if (end <= tile * kTile) return;
    std::size_t best = tile * kTile;
    for (std::size_t i = best + 1; i < end; ++i)
      if (nearest_[i] <= nearest_[best] && squared(i) < squared(best)) best = i;
    shortest_[tile] = best;
    least_[tile] = nearest_[best];
  }

  // Renews the edges of some tiles; gives the place of the shortest.
  std::size_t renew(std::size_t from, std::size_t to, int joined, double own) {
    for (std::size_t t = from; t < to; ++t) {
      t += kernels_.beyond(brief_tiles_.data() + t * kTile * cols_, to - t, cols_, brief_point_.data(),
                           reach_.data() + t * kTile);
      if (t < to) measure(t, joined, own);
    }
    std::size_t best = from;
    for (std::size_t t = from + 1; t < to; ++t)
      if (least_[t] <= least_[best] && squared(shortest_[t]) < squared(shortest_[best])) best = t;
    return shortest_[best];
  }

  void measure(std::size_t tile, int joined, double own) {
    alignas(64) double away[kTile];
    kernels_.distance_to(tiles_.data() + tile * kTile * cols_, cols_, point_.data(), away);
    for (std::size_t i = tile * kTile; i < std::min(left_, (tile + 1) * kTile); ++i) {
      double length = away[i % kTile];
      if (!core_.empty()) length = std::max({length, own, core_[i]});
      if (length > nearest_[i] || !(edge_of(length, joined, row_[i]) < squared(i))) continue;
      nearest_[i] = length;
      joins_[i] = joined;
      const double reach = (std::sqrt(length) + slack_) * allowed_;
      reach_[i] = static_cast<float>(reach * reach) * kSafe;
      if (length > least_[tile] || (i != shortest_[tile] && !(squared(i) < squared(shortest_[tile])))) continue;
      shortest_[tile] = i;
      least_[tile] = length;
    }
  }

  const TileKernels& kernels_;
  std::size_t cols_, threads_, left_;
  std::vector<int> row_;
  std::vector<double> nearest_;  // squared lengths, in the units of Rows
  std::vector<int> joins_;       // the row in the tree at the other end
  std::vector<double> point_, core_;
  Lined tiles_;
  std::vector<float> brief_point_, reach_;  // squared, in single precision: farther rows have no shorter edge
  std::vector<float, LineAllocator<float>> brief_tiles_;
  std::vector<std::size_t> shortest_;       // of each tile: the place of its shortest edge,
  std::vector<double> least_;               // and its length
  double slack_ = 0.0, allowed_ = 1.0;
  double unit_ = 1.0;
};

// As measured: with every column more boxes are faster only in tables about twice as long.
bool boxes_pay(const TableView& x) {
  return x.cols <= 2 ? x.rows >= 500 : x.cols <= 10 && x.rows >= std::size_t{5000} << (x.cols - 3);
}

}  // namespace

std::vector<Edge> spanning_tree(const TableView& x, const double* core, std::size_t threads, Watch& watch) {
  const bool boxes = boxes_pay(x);
  return (boxes ? spanning_tree_by_boxes : spanning_tree_by_rows)(x, core, threads, watch);
}

std::vector<Edge> spanning_tree_by_rows(const TableView& x, const double* core, std::size_t threads, Watch& watch) {
  std::vector<Edge> out;
  Outside outside(x, core, threads);
  std::size_t at = 0;
  while (outside.left() > 1) {
    if (watch.over(outside.left() * x.cols)) break;
    at = outside.take(at);
    out.push_back(outside.edge(at));
  }
  return out;
}

std::vector<Edge> spanning_tree(const PairBlocks& pairs, const double* core, Watch& watch) {
  const std::size_t n = pairs.rows();
  std::vector<Edge> edge(n, {kInfinite, 0, 0}), out;
  std::vector<char> inside(n, 0);
  Lined block(kTile * kTile);
  std::size_t at = 0;
  for (std::size_t joined = 1; joined < n; ++joined) {
    if (watch.over(n * kTile)) break;
    inside[at] = 1;
    std::size_t best = n;
    for (std::size_t t = 0; t < pairs.tiles(); ++t) {
      pairs.block(t, at / kTile, block.data());
      for (std::size_t i = t * kTile; i < std::min(n, (t + 1) * kTile); ++i) {
        if (inside[i]) continue;
        double length = block[at % kTile * kTile + i % kTile] * pairs.unit();
        if (core) length = std::max({length, core[at], core[i]});
        edge[i] = std::min(edge[i], edge_of(length, static_cast<int>(at), static_cast<int>(i)));
        if (best == n || edge[i] < edge[best]) best = i;
      }
    }
    out.push_back(edge[best]);
    at = best;
  }
  return out;
}

}  // namespace fjordline
