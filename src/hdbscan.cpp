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

}  // namespace

CondensedTree condense(std::vector<Edge> edges, std::size_t rows, std::size_t min_size) {
  double least = std::numeric_limits<double>::infinity();
  for (const Edge& e : edges)
    if (e.length > 0.0) least = std::min(least, e.length);
  if (!std::isfinite(least)) least = 1.0;
  for (Edge& e : edges) e.length = std::max(e.length, least);
  std::sort(edges.begin(), edges.end());
  const std::vector<MergeNode> nodes = merge_nodes(edges, rows);

  CondensedTree out;
  out.branch.assign(rows, 0);
  out.leaves.assign(rows, 0.0);
  const int root = static_cast<int>(nodes.size()) - 1;
  Branch first;
  first.rows = static_cast<int>(rows);
  first.birth = std::numeric_limits<double>::infinity();
  out.branches.push_back(first);
  const auto time = [](double distance) { return 1.0 / distance; };
  // Every row below a node leaves a branch.
  const auto leave = [&](int node, int branch, double distance) {
    std::vector<int> below{node};
    while (!below.empty()) {
      const int at = below.back();
      below.pop_back();
      if (nodes[at].parts.empty()) {
        out.branch[at] = branch;
        out.leaves[at] = distance;
      }
      below.insert(below.end(), nodes[at].parts.begin(), nodes[at].parts.end());
    }
    Branch& own = out.branches[branch];
    own.stability += nodes[node].size * (time(distance) - time(own.birth));
    own.end = distance;
  };
  std::vector<std::pair<int, int>> open{{root, 0}};  // node, branch
  while (!open.empty()) {
    const auto [node, branch] = open.back();
    open.pop_back();
    const MergeNode& here = nodes[node];
    if (here.parts.empty()) {  // a table of one row
      leave(node, branch, least);
      continue;
    }
    std::vector<int> large;
    for (int part : here.parts)
      if (nodes[part].size >= static_cast<int>(min_size)) large.push_back(part);
    if (large.empty()) {
      leave(node, branch, here.height);
      continue;
    }
    for (int part : here.parts) {
      const bool small = nodes[part].size < static_cast<int>(min_size);
      if (small) {
        leave(part, branch, here.height);
      } else if (large.size() == 1) {
        open.push_back({part, branch});
      } else {
        Branch& own = out.branches[branch];
        own.stability += nodes[part].size * (time(here.height) - time(own.birth));
        own.end = here.height;
        Branch child;
        child.parent = branch;
        child.rows = nodes[part].size;
        child.birth = here.height;
        open.push_back({part, static_cast<int>(out.branches.size())});
        out.branches.push_back(child);
      }
    }
  }

  // From the leaves up: a branch stays whole unless its parts last longer together. The root is one group only where it
  // has no parts.
  const int many = static_cast<int>(out.branches.size());
  std::vector<double> best(many, 0.0), parts(many, 0.0);
  std::vector<char> has_parts(many, 0);
  for (int b = many - 1; b >= 0; --b) {
    Branch& own = out.branches[b];
    own.selected = b > 0 ? !has_parts[b] || own.stability >= parts[b] : !has_parts[b];
    best[b] = own.selected ? own.stability : parts[b];
    if (own.parent >= 0) {
      parts[own.parent] += best[b];
      has_parts[own.parent] = 1;
    }
  }
  std::vector<int> number(many, 0);  // of the selected branch at or above
  int next = 0;
  for (int b = 0; b < many; ++b) {
    Branch& own = out.branches[b];
    const int above = own.parent >= 0 ? number[own.parent] : 0;
    if (above > 0) own.selected = false;
    number[b] = above > 0 ? above : (own.selected ? ++next : 0);
  }
  out.group.assign(rows, 0);
  out.strength.assign(rows, 0.0);
  std::vector<double> longest(next + 1, 0.0);
  for (std::size_t i = 0; i < rows; ++i) {
    out.group[i] = number[out.branch[i]];
    longest[out.group[i]] = std::max(longest[out.group[i]], time(out.leaves[i]));
  }
  for (std::size_t i = 0; i < rows; ++i)
    if (out.group[i] > 0) out.strength[i] = time(out.leaves[i]) / longest[out.group[i]];
  return out;
}

}  // namespace fjordline
