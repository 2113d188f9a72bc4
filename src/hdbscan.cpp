#include "hdbscan.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace fjordline {
namespace {

// Of the whole tree of merges: rows are the nodes below `rows`. Equal lengths are one node.
struct MergeNode {
  double height = 0.0;
  int size = 1;
  std::vector<int> parts;
};

std::vector<MergeNode> merge_nodes(const std::vector<Edge>& edges, std::size_t rows) {
  std::vector<MergeNode> nodes(rows);
  Joined joined(rows);
  std::vector<int> node_of(rows);  // by lowest row
  for (std::size_t i = 0; i < rows; ++i) node_of[i] = static_cast<int>(i);
  for (std::size_t e = 0; e < edges.size();) {
    const double height = edges[e].length;
    std::vector<int> touched;
    std::vector<std::pair<int, int>> grown;  // lowest row before, and its node
    std::size_t end = e;
    for (; end < edges.size() && edges[end].length == height; ++end)
      for (int row : {edges[end].low, edges[end].high}) touched.push_back(joined.lowest(row));
    std::sort(touched.begin(), touched.end());
    touched.erase(std::unique(touched.begin(), touched.end()), touched.end());
    for (int lowest : touched) grown.push_back({lowest, node_of[lowest]});
    for (; e < end; ++e) {
      const int a = joined.lowest(edges[e].low), b = joined.lowest(edges[e].high);
      if (a != b) joined.join(a, b);
    }
    for (const auto& [before, node] : grown) {
      const int lowest = joined.lowest(before);
      if (before == lowest) {
        nodes.push_back({height, 0, {}});
        node_of[lowest] = static_cast<int>(nodes.size()) - 1;
      }
      MergeNode& whole = nodes[node_of[lowest]];
      whole.parts.push_back(node);
      whole.size += nodes[node].size;
    }
  }
  return nodes;
}

// Lengths of nothing would make densities infinite: they count as the least there is.
double raise_least(std::vector<Edge>& edges) {
  double least = std::numeric_limits<double>::infinity();
  for (const Edge& e : edges)
    if (e.length > 0.0) least = std::min(least, e.length);
  if (!std::isfinite(least)) least = 1.0;
  for (Edge& e : edges) e.length = std::max(e.length, least);
  return least;
}

double time_of(double distance) { return 1.0 / distance; }

// Goes down the tree of merges: parts of fewer than `min_size` rows leave a branch, two and more large ones end it.
class Condensing {
 public:
  Condensing(const std::vector<MergeNode>& nodes, std::size_t rows, std::size_t min_size)
      : nodes_(nodes), min_size_(static_cast<int>(min_size)) {
    out_.branch.assign(rows, 0);
    out_.leaves.assign(rows, 0.0);
  }

  CondensedTree go(double least) {
    Branch whole;
    whole.rows = static_cast<int>(out_.branch.size());
    whole.birth = std::numeric_limits<double>::infinity();
    out_.branches.push_back(whole);
    open_ = {{static_cast<int>(nodes_.size()) - 1, 0}};
    while (!open_.empty()) {
      const auto [node, branch] = open_.back();
      open_.pop_back();
      take_apart(node, branch, least);
    }
    return std::move(out_);
  }

 private:
  bool large(int node) const { return nodes_[node].size >= min_size_; }

  void take_apart(int node, int branch, double least) {
    const MergeNode& here = nodes_[node];
    if (here.parts.empty()) {  // a table of one row
      leave(node, branch, least);
      return;
    }
    const auto many = std::count_if(here.parts.begin(), here.parts.end(), [this](int part) { return large(part); });
    if (many == 0) {
      leave(node, branch, here.height);
      return;
    }
    for (int part : here.parts) {
      if (!large(part)) leave(part, branch, here.height);
      else if (many == 1) open_.push_back({part, branch});
      else split_off(part, branch, here.height);
    }
  }

  // Every row below a node leaves a branch.
  void leave(int node, int branch, double distance) {
    std::vector<int> below{node};
    while (!below.empty()) {
      const int at = below.back();
      below.pop_back();
      if (nodes_[at].parts.empty()) {
        out_.branch[at] = branch;
        out_.leaves[at] = distance;
      }
      below.insert(below.end(), nodes_[at].parts.begin(), nodes_[at].parts.end());
    }
    lose(node, branch, distance);
  }

  void split_off(int node, int branch, double distance) {
    lose(node, branch, distance);
    Branch child;
    child.parent = branch;
    child.rows = nodes_[node].size;
    child.birth = distance;
    open_.push_back({node, static_cast<int>(out_.branches.size())});
    out_.branches.push_back(child);
  }

  void lose(int node, int branch, double distance) {
    Branch& own = out_.branches[branch];
    own.stability += nodes_[node].size * (time_of(distance) - time_of(own.birth));
    own.end = distance;
  }

  const std::vector<MergeNode>& nodes_;
  const int min_size_;
  CondensedTree out_;
  std::vector<std::pair<int, int>> open_;  // node, branch
};

// From the leaves up: a branch stays whole unless its parts last longer together. The root is one group only where it
// has no parts.
void select_lasting(std::vector<Branch>& branches) {
  std::vector<double> parts(branches.size(), 0.0);
  std::vector<char> has_parts(branches.size(), 0);
  for (std::size_t b = branches.size(); b-- > 0;) {
    Branch& own = branches[b];
    own.selected = b > 0 ? !has_parts[b] || own.stability >= parts[b] : !has_parts[b];
    if (own.parent >= 0) {
      parts[own.parent] += own.selected ? own.stability : parts[b];
      has_parts[own.parent] = 1;
    }
  }
}

// The number of the selected branch at or above each branch; below one none is selected.
std::vector<int> number_selected(std::vector<Branch>& branches, int& groups) {
  std::vector<int> number(branches.size(), 0);
  groups = 0;
  for (std::size_t b = 0; b < branches.size(); ++b) {
    Branch& own = branches[b];
    const int above = own.parent >= 0 ? number[own.parent] : 0;
    if (above > 0) own.selected = false;
    number[b] = above > 0 ? above : (own.selected ? ++groups : 0);
  }
  return number;
}

void label_rows(CondensedTree& tree) {
  int groups = 0;
  const std::vector<int> number = number_selected(tree.branches, groups);
  const std::size_t rows = tree.branch.size();
  tree.group.assign(rows, 0);
  tree.hold.assign(rows, 0.0);
  std::vector<double> longest(groups + 1, 0.0);
  for (std::size_t i = 0; i < rows; ++i) {
    tree.group[i] = number[tree.branch[i]];
    longest[tree.group[i]] = std::max(longest[tree.group[i]], time_of(tree.leaves[i]));
  }
  for (std::size_t i = 0; i < rows; ++i)
    if (tree.group[i] > 0) tree.hold[i] = time_of(tree.leaves[i]) / longest[tree.group[i]];
}

}  // namespace

CondensedTree condense(std::vector<Edge> edges, std::size_t rows, std::size_t min_size) {
  const double least = raise_least(edges);
  std::sort(edges.begin(), edges.end());
  const std::vector<MergeNode> nodes = merge_nodes(edges, rows);
  CondensedTree tree = Condensing(nodes, rows, min_size).go(least);
  select_lasting(tree.branches);
  label_rows(tree);
  return tree;
}

}  // namespace fjordline
