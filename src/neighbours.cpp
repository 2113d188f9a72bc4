#include "neighbours.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <utility>

namespace fjordline {

namespace {

constexpr std::size_t kTreeMostColumns = 15;
constexpr std::size_t kLeaf = 12;

using Found = std::pair<double, int>;  // squared distance, row: compared in this order, so that ties are settled

// The best few seen so far; the worst of them on top.
class Shortlist {
 public:
  explicit Shortlist(std::size_t count) : count_(count) { heap_.reserve(count + 1); }
  void clear() { heap_.clear(); }
  double worst() const {
    return heap_.size() < count_ ? std::numeric_limits<double>::infinity() : heap_.front().first;
  }
  void offer(double squared, int row) {
    const Found found{squared, row};
    if (heap_.size() == count_) {
      if (!(found < heap_.front())) return;
      std::pop_heap(heap_.begin(), heap_.end());
      heap_.pop_back();
    }
    heap_.push_back(found);
    std::push_heap(heap_.begin(), heap_.end());
  }
  void write(int* row, double* distance) {
    std::sort_heap(heap_.begin(), heap_.end());
    for (std::size_t r = 0; r < heap_.size(); ++r) {
      row[r] = heap_[r].second;
      distance[r] = std::sqrt(heap_[r].first);
    }
  }

 private:
  std::size_t count_;
  std::vector<Found> heap_;
};

// Rows halved again and again across their widest column. Node `at` has its children at 2 at + 1 and 2 at + 2.
class Tree {
 public:
  explicit Tree(const RowTable& x) : x_(x), order_(x.rows) {
    std::iota(order_.begin(), order_.end(), 0);
    build(0, 0, x.rows);
  }

  std::size_t query(const double* point, int self, Shortlist& best) const {
    std::size_t looked = 0;
    visit(0, point, self, best, looked);
    return looked;
  }

 private:
  struct Node {
    std::size_t from = 0, to = 0;
    std::size_t column = 0;
    double cut = 0.0;
    bool leaf = true;
  };

  std::size_t widest(std::size_t from, std::size_t to) const {
    std::size_t best = 0;
    double most = -1.0;
    for (std::size_t j = 0; j < x_.cols; ++j) {
      double low = std::numeric_limits<double>::infinity(), high = -low;
      for (std::size_t r = from; r < to; ++r) {
        const double v = x_.row(order_[r])[j];
        low = std::min(low, v);
        high = std::max(high, v);
      }
      if (high - low > most) {
        most = high - low;
        best = j;
      }
    }
    return most > 0.0 ? best : x_.cols;
  }

  void build(std::size_t at, std::size_t from, std::size_t to) {
    if (nodes_.size() <= at) nodes_.resize(at + 1);
    nodes_[at].from = from;
    nodes_[at].to = to;
    if (to - from <= kLeaf) return;
    const std::size_t column = widest(from, to);
    if (column == x_.cols) return;  // all rows equal
    const std::size_t middle = from + (to - from) / 2;
    const auto begin = order_.begin();
    std::nth_element(begin + static_cast<std::ptrdiff_t>(from), begin + static_cast<std::ptrdiff_t>(middle),
                     begin + static_cast<std::ptrdiff_t>(to), [&](std::size_t a, std::size_t b) {
                       return std::make_pair(x_.row(a)[column], a) < std::make_pair(x_.row(b)[column], b);
                     });
    nodes_[at].leaf = false;
    nodes_[at].column = column;
    nodes_[at].cut = x_.row(order_[middle])[column];
    build(2 * at + 1, from, middle);
    build(2 * at + 2, middle, to);
  }

  void visit(std::size_t at, const double* point, int self, Shortlist& best, std::size_t& looked) const {
    const Node& node = nodes_[at];
    if (node.leaf) {
      looked += node.to - node.from;
      for (std::size_t r = node.from; r < node.to; ++r) {
        const int row = static_cast<int>(order_[r]);
        if (row != self) best.offer(squared_distance(point, x_.row(order_[r]), x_.cols), row);
      }
      return;
    }
    const double side = point[node.column] - node.cut;
    const std::size_t near = side < 0.0 ? 2 * at + 1 : 2 * at + 2;
    const std::size_t far = side < 0.0 ? 2 * at + 2 : 2 * at + 1;
    visit(near, point, self, best, looked);
    if (side * side <= best.worst()) visit(far, point, self, best, looked);  // equal: a tie may lie there
  }

  const RowTable& x_;
  std::vector<std::size_t> order_;
  std::vector<Node> nodes_;
};

constexpr std::size_t kStretch = 256;  // rows searched for at a time

// Calls `keep` with every row and the shortlist of its nearest others.
template <typename Keep>
void for_all(const RowTable& x, std::size_t count, std::size_t threads, Watch& watch, const Keep& keep) {
  const bool by_tree = x.cols <= kTreeMostColumns && x.rows > 4 * kLeaf;
  const RowTable none;
  const Tree tree(by_tree ? x : none);
  in_parallel((x.rows + kStretch - 1) / kStretch, threads, [&](std::size_t s) {
    Shortlist best(count);
    for (std::size_t i = s * kStretch; i < std::min(x.rows, (s + 1) * kStretch); ++i) {
      best.clear();
      std::size_t looked = x.rows;
      if (by_tree) {
        looked = tree.query(x.row(i), static_cast<int>(i), best);
      } else {
        for (std::size_t l = 0; l < x.rows; ++l)
          if (l != i) best.offer(squared_distance(x.row(i), x.row(l), x.cols), static_cast<int>(l));
      }
      keep(i, best);
      if (watch.over(looked * x.cols)) return;
    }
  });
}

}  // namespace

Neighbours nearest_neighbours(const TableView& view, std::size_t count, std::size_t threads, Watch& watch) {
  const RowTable x = by_rows(view);
  Neighbours out;
  out.count = x.rows > 1 ? std::min(count, x.rows - 1) : 0;
  out.row.assign(x.rows * out.count, 0);
  out.distance.assign(x.rows * out.count, 0.0);
  if (out.count == 0) return out;
  for_all(x, out.count, threads, watch, [&](std::size_t i, Shortlist& best) {
    best.write(&out.row[i * out.count], &out.distance[i * out.count]);
  });
  return out;
}

std::vector<double> neighbour_distances(const TableView& view, std::size_t count, std::size_t threads, Watch& watch) {
  const RowTable x = by_rows(view);
  std::vector<double> out(x.rows, 0.0);
  if (x.rows < 2 || count == 0) return out;
  for_all(x, std::min(count, x.rows - 1), threads, watch,
          [&](std::size_t i, const Shortlist& best) { out[i] = std::sqrt(best.worst()); });
  return out;
}

}  // namespace fjordline
