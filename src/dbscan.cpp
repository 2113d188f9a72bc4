#include "dbscan.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "box-tree.h"
#include "spanning-tree.h"

namespace fjordline {
namespace {

constexpr std::size_t kStretch = 1024;  // rows searched by one thread at a time

// The largest square whose root is within the radius.
double square_of(double radius) {
  double square = radius * radius;
  while (std::sqrt(std::nextafter(square, HUGE_VAL)) <= radius) square = std::nextafter(square, HUGE_VAL);
  while (std::sqrt(square) > radius) square = std::nextafter(square, 0.0);
  return square;
}

// Rows of a node within the square of a point, counted up to `enough`.
std::size_t count_within(const BoxTree& tree, int at, const double* point, double square, std::size_t enough) {
  const BoxTree::Node& node = tree.node(at);
  if (tree.least(at, point) > square) return 0;
  if (tree.most(at, point) <= square) return node.rows();
  std::size_t out = 0;
  if (node.leaf()) {
    for (std::size_t place = node.from; place < node.to; ++place) out += tree.apart(tree.point(place), point) <= square;
    return out;
  }
  out = count_within(tree, node.left, point, square, enough);
  return out >= enough ? out : out + count_within(tree, node.right, point, square, enough - out);
}

struct Hit {
  double square;
  int row;
  bool operator<(const Hit& o) const { return square < o.square || (square == o.square && row < o.row); }
};

template <class Counts>
void nearest_in(const BoxTree& tree, int at, const double* point, const Counts& counts, Hit& best) {
  const BoxTree::Node& node = tree.node(at);
  if (node.leaf()) {
    for (std::size_t place = node.from; place < node.to; ++place)
      if (counts(place)) best = std::min(best, Hit{tree.apart(tree.point(place), point), tree.row(place)});
    return;
  }
  int near = node.left, far = node.right;
  double to_near = tree.least(near, point), to_far = tree.least(far, point);
  if (to_far < to_near) {
    std::swap(near, far);
    std::swap(to_near, to_far);
  }
  if (to_near <= best.square) nearest_in(tree, near, point, counts, best);
  if (to_far <= best.square) nearest_in(tree, far, point, counts, best);
}

// Joins core rows within the radius, node against node; what is one group already, or all within reach, is not looked
// at row by row.
class Connection {
 public:
  Connection(const BoxTree& tree, const std::vector<char>& core, double square, Joined& joined, Watch& watch)
      : tree_(tree), core_(core), square_(square), joined_(joined), watch_(watch), first_(tree.nodes(), -1),
        one_(tree.nodes(), 0) {
    for (int at = static_cast<int>(tree.nodes()) - 1; at >= 0; --at) {  // children come after their parents
      const BoxTree::Node& node = tree.node(at);
      if (node.leaf()) {
        for (std::size_t place = node.from; place < node.to && first_[at] < 0; ++place)
          if (core_[place]) first_[at] = static_cast<int>(place);
      } else {
        first_[at] = first_[node.left] >= 0 ? first_[node.left] : first_[node.right];
      }
    }
  }

  void within(int at) {
    if (first_[at] < 0 || watch_.over(64)) return;
    if (one_group(at)) return;
    if (tree_.most(at, at) <= square_) return join_all(at);
    const BoxTree::Node& node = tree_.node(at);
    if (node.leaf()) return join_rows(node, node);
    within(node.left);
    within(node.right);
    between(node.left, node.right);
  }

 private:
  void between(int a, int b) {
    if (first_[a] < 0 || first_[b] < 0 || tree_.least(a, b) > square_ || watch_.over(64)) return;
    if (one_group(a) && one_group(b) && group(first_[a]) == group(first_[b])) return;
    if (tree_.most(a, b) <= square_) {
      join_all(a);
      join_all(b);
      join(first_[a], first_[b]);
      return;
    }
    const BoxTree::Node& left = tree_.node(a);
    const BoxTree::Node& right = tree_.node(b);
    if (left.leaf() && right.leaf()) return join_rows(left, right);
    if (right.leaf() || (!left.leaf() && left.rows() >= right.rows())) {
      between(left.left, b);
      between(left.right, b);
    } else {
      between(a, right.left);
      between(a, right.right);
    }
  }

  // All core rows of the node are in one group; once so, always so.
  bool one_group(int at) {
    if (one_[at]) return true;
    const BoxTree::Node& node = tree_.node(at);
    bool one = true;
    if (node.leaf()) {
      for (std::size_t place = node.from; place < node.to && one; ++place)
        if (core_[place]) one = group(place) == group(first_[at]);
    } else {
      for (int child : {node.left, node.right})
        if (first_[child] >= 0) one = one && one_[child] && group(first_[child]) == group(first_[at]);
    }
    one_[at] = one;
    return one;
  }

  // Only where all are within the radius of a row outside, or of each other.
  void join_all(int at) {
    if (first_[at] < 0 || one_[at]) return;
    const BoxTree::Node& node = tree_.node(at);
    if (tree_.most(at, at) > square_) return within(at);
    for (std::size_t place = node.from; place < node.to; ++place)
      if (core_[place]) join(place, first_[at]);
    one_[at] = 1;
  }

  void join_rows(const BoxTree::Node& left, const BoxTree::Node& right) {
    for (std::size_t p = left.from; p < left.to; ++p) {
      if (!core_[p]) continue;
      for (std::size_t q = right.from; q < right.to; ++q)
        if (core_[q] && group(p) != group(q) && tree_.apart(tree_.point(p), tree_.point(q)) <= square_) join(p, q);
    }
  }

  int group(std::size_t place) { return joined_.lowest(tree_.row(place)); }
  void join(std::size_t p, std::size_t q) {
    const int a = group(p), b = group(q);
    if (a != b) joined_.join(a, b);
  }

  const BoxTree& tree_;
  const std::vector<char>& core_;  // by place
  double square_;
  Joined& joined_;
  Watch& watch_;
  std::vector<int> first_;         // of each node: place of its first core row; -1: none
  std::vector<char> one_;
};

}  // namespace

DbscanFit dbscan(const TableView& x, double radius, std::size_t min_rows, std::size_t threads, Watch& watch) {
  const double square = square_of(radius);
  const BoxTree tree(x);
  const std::size_t n = x.rows, stretches = (n + kStretch - 1) / kStretch;
  std::vector<char> core(n, 0);
  in_parallel(stretches, threads, [&](std::size_t s) {
    for (std::size_t place = s * kStretch; place < std::min(n, (s + 1) * kStretch); ++place) {
      if (watch.over(64)) return;
      core[place] = count_within(tree, 0, tree.point(place), square, min_rows) >= min_rows;
    }
  });
  Joined joined(n);
  if (!watch.stopped()) Connection(tree, core, square, joined, watch).within(0);
  DbscanFit out{std::vector<int>(n, 0), std::vector<char>(n, 0)};
  std::vector<int> place_of(n, 0);
  for (std::size_t place = 0; place < n; ++place) {
    out.core[tree.row(place)] = core[place];
    place_of[tree.row(place)] = static_cast<int>(place);
  }
  // A group's number is that of its lowest core row, which only its root knows as the lowest of the joined.
  std::vector<int> number(n, 0);
  int next = 0;
  for (std::size_t i = 0; i < n; ++i) {
    if (!out.core[i]) continue;
    int& own = number[joined.lowest(static_cast<int>(i))];
    if (own == 0) own = ++next;
    out.group[i] = own;
  }
  in_parallel(stretches, threads, [&](std::size_t s) {
    for (std::size_t i = s * kStretch; i < std::min(n, (s + 1) * kStretch); ++i) {
      if (out.core[i] || watch.over(64)) continue;
      Hit best{std::nextafter(square, HUGE_VAL), std::numeric_limits<int>::max()};
      nearest_in(tree, 0, tree.point(place_of[i]), [&](std::size_t place) { return core[place] != 0; }, best);
      if (best.square <= square) out.group[i] = -(best.row + 1);
    }
  });
  for (int& g : out.group)
    if (g < 0) g = out.group[-g - 1];
  return out;
}

NearestCore nearest_core(const TableView& x, const TableView& cores, std::size_t threads, Watch& watch) {
  const BoxTree tree(cores);
  NearestCore out{std::vector<int>(x.rows, 0), std::vector<double>(x.rows, 0.0)};
  in_parallel((x.rows + kStretch - 1) / kStretch, threads, [&](std::size_t s) {
    std::vector<double> point(x.cols);
    for (std::size_t i = s * kStretch; i < std::min(x.rows, (s + 1) * kStretch); ++i) {
      if (watch.over(64)) return;
      for (std::size_t j = 0; j < x.cols; ++j) point[j] = x.at(i, j);
      Hit best{HUGE_VAL, std::numeric_limits<int>::max()};
      nearest_in(tree, 0, point.data(), [](std::size_t) { return true; }, best);
      out.core[i] = best.row;
      out.distance[i] = std::sqrt(best.square);
    }
  });
  return out;
}

}  // namespace fjordline
