#include <algorithm>
#include <atomic>
#include <cmath>
#include <limits>
#include <utility>

#include "box-tree.h"
#include "rows.h"
#include "spanning-tree.h"

namespace fjordline {
namespace {

constexpr double kInfinite = std::numeric_limits<double>::infinity();
constexpr std::size_t kStretch = 1024;  // rows searched for at a time

BoxTree scaled_tree(const TableView& x, std::size_t threads, double* unit) {
  const Rows rows(x, Metric::euclidean, nullptr, threads);
  *unit = std::sqrt(rows.squared_unit());
  std::vector<double> values(x.rows * x.cols), scratch(x.cols);
  for (std::size_t i = 0; i < x.rows; ++i) {
    const double* row = rows.row(i, scratch.data());
    for (std::size_t j = 0; j < x.cols; ++j) values[j * x.rows + i] = row[j];
  }
  return BoxTree({values.data(), x.rows, x.cols});
}

// Lengths are squared, in the units of Rows.
class Rounds {
 public:
  Rounds(const TableView& x, const double* core, std::size_t threads, Watch& watch)
      : tree_(scaled_tree(x, threads, &unit_)), threads_(threads), watch_(watch), joined_(x.rows), label_(x.rows),
        part_(x.rows), node_part_(tree_.nodes()), shortest_(x.rows, kNone), beyond_(x.rows, -1.0),
        best_(x.rows, kNone), limit_(x.rows), last_(tree_.nodes()) {
    if (core) take_cores(x.rows, core);
    for (std::size_t n = 0; n < tree_.nodes(); ++n) last_[n] = collapse(tree_.node(static_cast<int>(n)));
  }

  std::vector<Edge> run() {
    std::vector<Edge> out = std::move(equal_);
    const std::size_t rows = tree_.rows();
    while (out.size() + 1 < rows) {
      label();
      search_all();
      if (watch_.stopped()) break;
      take(out);
    }
    return out;
  }

 private:
  static constexpr Edge kNone{kInfinite, -1, -1};

  void take_cores(std::size_t rows, const double* core) {
    for (std::size_t at = 0; at < rows; ++at) core_.push_back(std::pow(core[tree_.row(at)] / unit_, 2));
    node_core_.assign(tree_.nodes(), kInfinite);
    for (std::size_t n = tree_.nodes(); n-- > 0;) {
      const BoxTree::Node& node = tree_.node(static_cast<int>(n));
      for (std::size_t at = node.from; node.leaf() && at < node.to; ++at)
        node_core_[n] = std::min(node_core_[n], core_[at]);
      if (!node.leaf()) node_core_[n] = std::min(node_core_[node.left], node_core_[node.right]);
    }
  }

  // Equal rows at no distance go to the first of them, which from then on stands for all: of equal edges its are the
  // first. Gives the end of the rows of a leaf that are looked at.
  std::size_t collapse(const BoxTree::Node& node) {
    if (!node.leaf() || node.rows() < 2 || tree_.apart(tree_.point(node.from), tree_.point(node.to - 1)) > 0.0)
      return node.to;
    for (std::size_t at = node.from; at < node.to; ++at)
      if (tree_.apart(tree_.point(node.from), tree_.point(at)) > 0.0 || (!core_.empty() && core_[at] > 0.0))
        return node.to;
    for (std::size_t at = node.from + 1; at < node.to; ++at) {
      joined_.join(joined_.lowest(tree_.row(node.from)), tree_.row(at));
      equal_.push_back({0.0, tree_.row(node.from), tree_.row(at)});
      beyond_[at] = kInfinite;  // never searched for
    }
    return node.from + 1;
  }

  // Which part every row is in, and every box whose rows are all in one; -1 where they are not.
  void label() {
    for (std::size_t at = 0; at < part_.size(); ++at)
      label_[tree_.row(at)] = part_[at] = joined_.lowest(tree_.row(at));
    for (std::size_t n = tree_.nodes(); n-- > 0;) {
      const BoxTree::Node& node = tree_.node(static_cast<int>(n));
      if (!node.leaf()) {
        node_part_[n] = node_part_[node.left] == node_part_[node.right] ? node_part_[node.left] : -1;
        continue;
      }
      node_part_[n] = part_[node.from];
      for (std::size_t at = node.from + 1; at < node.to; ++at)
        if (part_[at] != node_part_[n]) node_part_[n] = -1;
    }
  }

  // Edges found before are still the shortest of their row where they lead to another part. For the other rows the
  // search goes as far as the shortest of their part so far: in which order threads come to it changes the work, not
  // the outcome.
  void search_all() {
    for (std::atomic<double>& limit : limit_) limit.store(kInfinite, std::memory_order_relaxed);
    for (std::size_t at = 0; at < part_.size(); ++at) {
      if (leads_out(at)) lower_limit(part_[at], shortest_[at].length);
    }
    const std::size_t rows = part_.size();
    in_parallel((rows + kStretch - 1) / kStretch, threads_, [&](std::size_t s) {
      for (std::size_t at = s * kStretch; at < std::min(rows, (s + 1) * kStretch); ++at) {
        if (leads_out(at) || beyond_[at] >= limit_[part_[at]].load(std::memory_order_relaxed)) continue;
        if (watch_.over(1000)) return;
        search(at);
      }
    });
  }

  bool leads_out(std::size_t at) const {
    const Edge& edge = shortest_[at];
    return edge.low >= 0 && label_[edge.low] != label_[edge.high];
  }

  void lower_limit(int part, double length) {
    std::atomic<double>& limit = limit_[part];
    double now = limit.load(std::memory_order_relaxed);
    while (length < now && !limit.compare_exchange_weak(now, length, std::memory_order_relaxed)) {}
  }

  void search(std::size_t at) {
    shortest_[at] = kNone;
    double reach = limit_[part_[at]].load(std::memory_order_relaxed);
    look_in(0, at, shortest_[at], reach);
    if (shortest_[at].low < 0) beyond_[at] = reach;
    else lower_limit(part_[at], reach);
  }

  double least(int n, std::size_t at) const {
    const double box = tree_.least(n, tree_.point(at));
    return core_.empty() ? box : std::max({box, core_[at], node_core_[n]});
  }

  // Boxes as near as `reach` are looked into: of equal edges the first counts.
  void look_in(int n, std::size_t at, Edge& found, double& reach) const {
    if (node_part_[n] == part_[at]) return;
    const BoxTree::Node& node = tree_.node(n);
    if (node.leaf()) {
      for (std::size_t other = node.from; other < last_[n]; ++other) {
        if (part_[other] == part_[at]) continue;
        double length = tree_.apart(tree_.point(at), tree_.point(other));
        if (!core_.empty()) length = std::max({length, core_[at], core_[other]});
        if (length > reach) continue;
        const Edge edge{length, std::min(tree_.row(at), tree_.row(other)), std::max(tree_.row(at), tree_.row(other))};
        if (edge < found) found = edge;
        reach = length;
        if (length <= (core_.empty() ? 0.0 : core_[at])) return;  // none is shorter, and of equal ones the first counts
      }
      return;
    }
    std::pair<double, int> near{least(node.left, at), node.left}, far{least(node.right, at), node.right};
    if (far < near) std::swap(near, far);
    if (near.first <= reach) look_in(near.second, at, found, reach);
    if (far.first <= reach) look_in(far.second, at, found, reach);
  }

  // The shortest edge out of every part.
  void take(std::vector<Edge>& out) {
    for (std::size_t at = 0; at < part_.size(); ++at) {
      Edge& best = best_[part_[at]];
      if (leads_out(at) && shortest_[at] < best) best = shortest_[at];
    }
    for (Edge& best : best_) {
      if (best.low < 0) continue;
      const int a = joined_.lowest(best.low), b = joined_.lowest(best.high);
      if (a != b) {
        joined_.join(a, b);
        out.push_back({unit_ * std::sqrt(best.length), best.low, best.high});
      }
      best = kNone;
    }
  }

  double unit_ = 1.0;
  BoxTree tree_;
  std::size_t threads_;
  Watch& watch_;
  Joined joined_;
  std::vector<int> label_, part_, node_part_;  // the part of every row, place and box
  std::vector<Edge> shortest_;                 // of each place the shortest edge to another part, where known
  std::vector<double> beyond_;                 // where it is not: no edge is this short
  std::vector<Edge> best_;                     // of each part, by its lowest row
  std::vector<std::atomic<double>> limit_;
  std::vector<std::size_t> last_;              // of each leaf: the end of the rows that are looked at
  std::vector<Edge> equal_;
  std::vector<double> core_, node_core_;
};

}  // namespace

std::vector<Edge> spanning_tree_by_boxes(const TableView& x, const double* core, std::size_t threads, Watch& watch) {
  return Rounds(x, core, threads, watch).run();
}

}  // namespace fjordline
