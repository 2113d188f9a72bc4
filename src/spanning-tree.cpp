#include "spanning-tree.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "rows.h"

namespace fjordline {
namespace {

constexpr double kInfinite = std::numeric_limits<double>::infinity();
constexpr std::size_t kWorthSharing = 50000;  // steps below which one thread is faster

Edge edge_of(double length, int a, int b) { return {length, std::min(a, b), std::max(a, b)}; }

// The rows outside the tree, kept together at the front of the tiles, and the shortest edge of each into the tree.
class Outside {
 public:
  Outside(const TableView& x, const double* core, std::size_t threads)
      : kernels_(tile_kernels()), cols_(x.cols), threads_(threads), left_(x.rows), row_(x.rows),
        nearest_(x.rows, kInfinite), joins_(x.rows, 0), point_(x.cols) {
    const Rows rows(x, Metric::euclidean, nullptr, threads);
    unit_ = std::sqrt(rows.squared_unit());
    tiles_.assign((x.rows + kTile - 1) / kTile * kTile * cols_, 0.0);
    std::vector<double> scratch(cols_);
    for (std::size_t i = 0; i < x.rows; ++i) {
      const double* values = rows.row(i, scratch.data());
      for (std::size_t j = 0; j < cols_; ++j) cell(i, j) = values[j];
    }
    std::iota(row_.begin(), row_.end(), 0);
    for (std::size_t i = 0; core && i < x.rows; ++i) core_.push_back(core[i] / unit_ * (core[i] / unit_));
  }

  // Takes the row at a place out; its distances then renew the others' edges. Gives the place of the shortest edge.
  std::size_t take(std::size_t at) {
    const int joined = row_[at];
    const double own = core_.empty() ? 0.0 : core_[at];
    --left_;
    for (std::size_t j = 0; j < cols_; ++j) {
      point_[j] = cell(at, j);
      cell(at, j) = cell(left_, j);
    }
    row_[at] = row_[left_];
    nearest_[at] = nearest_[left_];
    joins_[at] = joins_[left_];
    if (!core_.empty()) core_[at] = core_[left_];
    const std::size_t tiles = (left_ + kTile - 1) / kTile;
    const std::size_t parts = left_ * cols_ < kWorthSharing ? 1 : std::min(threads_, tiles);
    std::vector<std::size_t> best(std::max<std::size_t>(parts, 1), left_);
    in_parallel(parts, threads_, [&](std::size_t p) {
      best[p] = renew(tiles * p / parts * kTile, std::min(left_, tiles * (p + 1) / parts * kTile), joined, own);
    });
    for (std::size_t p = 1; p < parts; ++p)
      if (best[p] < left_ && squared(best[p]) < squared(best[0])) best[0] = best[p];
    return best[0];
  }

  std::size_t left() const { return left_; }
  Edge edge(std::size_t at) const { return edge_of(unit_ * std::sqrt(nearest_[at]), joins_[at], row_[at]); }

 private:
  Edge squared(std::size_t at) const { return edge_of(nearest_[at], joins_[at], row_[at]); }
  double& cell(std::size_t i, std::size_t j) { return tiles_[i / kTile * kTile * cols_ + j * kTile + i % kTile]; }

  std::size_t renew(std::size_t from, std::size_t to, int joined, double own) {
    alignas(64) double away[kTile];
    std::size_t best = from;
    for (std::size_t first = from; first < to; first += kTile) {
      kernels_.distance_to(tiles_.data() + first * cols_, cols_, point_.data(), away);
      const std::size_t end = std::min(to, first + kTile);
      for (std::size_t i = first; i < end; ++i) {
        const double length = core_.empty() ? away[i - first] : std::max({away[i - first], own, core_[i]});
        if (length < nearest_[i] || (length == nearest_[i] && edge_of(length, joined, row_[i]) < squared(i))) {
          nearest_[i] = length;
          joins_[i] = joined;
        }
        if (nearest_[i] < nearest_[best] || (nearest_[i] == nearest_[best] && squared(i) < squared(best))) best = i;
      }
    }
    return best;
  }

  const TileKernels& kernels_;
  std::size_t cols_, threads_, left_;
  std::vector<int> row_;
  std::vector<double> nearest_;  // squared lengths, in the units of Rows
  std::vector<int> joins_;       // the row in the tree at the other end
  std::vector<double> point_, core_;
  Lined tiles_;
  double unit_ = 1.0;
};

}  // namespace

std::vector<Edge> spanning_tree(const TableView& x, const double* core, std::size_t threads, Watch& watch) {
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
