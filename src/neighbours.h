// The nearest other rows of every row, exactly.
#ifndef FJORDLINE_NEIGHBOURS_H
#define FJORDLINE_NEIGHBOURS_H

#include <vector>

#include "parallel.h"
#include "table.h"

namespace fjordline {

struct Neighbours {
  std::size_t count = 0;         // how many a row; at most rows - 1
  std::vector<int> row;          // rows x count, nearest first, numbered from 0
  std::vector<double> distance;  // Euclidean, in the same places
};

// Equal distances go to the row with the lower number. A tree (Bentley 1975) in low dimension, all pairs above.
Neighbours nearest_neighbours(const TableView& x, std::size_t count, std::size_t threads, Watch& watch);

// The distance to the last of them alone: memory of the table, whatever the count.
std::vector<double> neighbour_distances(const TableView& x, std::size_t count, std::size_t threads, Watch& watch);

}  // namespace fjordline

#endif
