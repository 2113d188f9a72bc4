// Groups joined two by two, from single rows to one: the whole tree of merges.
//
// Equal merges: the pair with the lowest row numbers first, a group being known by its lowest row; under single linkage
// the two rows that meet. A total order of the pairs, so that the tree does not depend on how it is found.
#ifndef FJORDLINE_LINKAGE_H
#define FJORDLINE_LINKAGE_H

#include <string>
#include <vector>

#include "pairs.h"
#include "parallel.h"
#include "table.h"

namespace fjordline {

enum class Join { single, complete, average, weighted, ward, centroid, median };

struct Merge {
  double height;
  int low, high;  // the lowest rows of the two groups
  int rows = 0;   // in both together
};

// In the order of their heights; centroid and median may step down now and then. Fewer than rows - 1 when stopped.
using Merges = std::vector<Merge>;

// Ward, centroid and median under Euclidean distances, from the groups' centres: no distance is kept.
Merges link_centres(const TableView& x, Join join, std::size_t threads, Watch& watch);

Merges link_single(const TableView& x, std::size_t threads, Watch& watch);
Merges link_single(const PairBlocks& pairs, Watch& watch);

// Every join but single, from all distances kept in one matrix: double precision, or single with `brief`.
Merges link_matrix(const PairBlocks& pairs, Join join, bool brief, std::size_t threads, Watch& watch);

// The groups, numbered from 1 by their lowest rows, after the first `rows - count` merges.
std::vector<int> cut_tree(const Merges& merges, std::size_t rows, std::size_t count);

}  // namespace fjordline

#endif
