// Groups of any density: the tree of single linkage under mutual reachability, pruned to the groups of some size, of
// which those that last longest are chosen. Campello, Moulavi & Sander (2013), doi:10.1007/978-3-642-37456-2_14;
// Campello, Moulavi, Zimek & Sander (2015), doi:10.1145/2733381.
#ifndef FJORDLINE_HDBSCAN_H
#define FJORDLINE_HDBSCAN_H

#include <vector>

#include "spanning-tree.h"

namespace fjordline {

// A branch of the branch tree: groups of min_size rows and more. Parents come before their children.
struct Branch {
  int parent = -1;
  int rows = 0;             // when it appears
  double birth = 0.0;       // the distance at which it appears; infinite for the root
  double end = 0.0;         // the distance at which it splits or falls apart
  double stability = 0.0;   // sum over its rows of the time they stay: 1 / distance when leaving less that at birth
  bool selected = false;
};

struct CondensedTree {
  std::vector<Branch> branches;
  std::vector<int> branch;      // of each row: the last one it was in
  std::vector<double> leaves;   // the distance at which it left that
  std::vector<int> group;       // number of the selected branch it belongs to, from 1 in the order of branches; 0: noise
  std::vector<double> hold; // 0 to 1: how long it stays, out of the longest of its group
};

// Edges of a spanning tree; all of one length are cut at once. Distances below the smallest positive one count as that.
CondensedTree condense(std::vector<Edge> edges, std::size_t rows, std::size_t min_size);

}  // namespace fjordline

#endif
