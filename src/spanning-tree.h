// The minimal spanning tree of the rows: row by row (Prim 1957), or, in long tables of few columns, by rounds in which
// every part takes its shortest edge, found in a tree of boxes (Boruvka 1926; March, Ram & Gray 2010,
// doi:10.1145/1835804.1835882). Edges are ordered by length, then by the rows' numbers, so that there is one such tree.
#ifndef FJORDLINE_SPANNING_TREE_H
#define FJORDLINE_SPANNING_TREE_H

#include <tuple>
#include <vector>

#include "pairs.h"
#include "parallel.h"
#include "table.h"

namespace fjordline {

struct Edge {
  double length;
  int low, high;  // rows
  bool operator<(const Edge& o) const { return std::tie(length, low, high) < std::tie(o.length, o.low, o.high); }
};

// Under Euclidean distances, which are not kept: memory grows with the table. `core`: null, or a distance a row below
// which it is not near to any other (mutual reachability, Campello et al. 2013). In no particular order; fewer than
// rows - 1 edges when stopped.
std::vector<Edge> spanning_tree(const TableView& x, const double* core, std::size_t threads, Watch& watch);

// The two ways, between which the first chooses.
std::vector<Edge> spanning_tree_by_rows(const TableView& x, const double* core, std::size_t threads, Watch& watch);
std::vector<Edge> spanning_tree_by_boxes(const TableView& x, const double* core, std::size_t threads, Watch& watch);

// Under any metric, or of given dissimilarities.
std::vector<Edge> spanning_tree(const PairBlocks& pairs, const double* core, Watch& watch);

// Groups of rows that are joined one by one; each is known by its lowest row.
class Joined {
 public:
  explicit Joined(std::size_t rows) : parent_(rows), size_(rows, 1) {
    for (std::size_t i = 0; i < rows; ++i) parent_[i] = static_cast<int>(i);
  }
  int lowest(int row) {
    while (parent_[row] != row) row = parent_[row] = parent_[parent_[row]];
    return row;
  }
  int size(int lowest) const { return size_[lowest]; }
  // Of two lowest rows; gives the lower.
  int join(int a, int b) {
    if (b < a) std::swap(a, b);
    parent_[b] = a;
    size_[a] += size_[b];
    return a;
  }

 private:
  std::vector<int> parent_, size_;
};

}  // namespace fjordline

#endif
