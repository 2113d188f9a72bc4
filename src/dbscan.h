// Groups of rows that lie close together: Ester, Kriegel, Sander & Xu (1996), KDD, 226-231. Exact.
#ifndef FJORDLINE_DBSCAN_H
#define FJORDLINE_DBSCAN_H

#include <vector>

#include "parallel.h"
#include "table.h"

namespace fjordline {

struct DbscanFit {
  std::vector<int> group;   // from 1, by the lowest core row; 0: noise
  std::vector<char> core;   // has min_rows rows within the radius, itself included
};

// Core rows within the radius of each other share a group; other rows within the radius of a core row join the nearest,
// the lowest of equals.
DbscanFit dbscan(const TableView& x, double radius, std::size_t min_rows, std::size_t threads, Watch& watch);

// Every row to the group of the nearest of the given core rows, 0 beyond the radius; and its distance to that row.
struct NearestCore {
  std::vector<int> core;         // place in `cores`, the lowest of equals
  std::vector<double> distance;
};

NearestCore nearest_core(const TableView& x, const TableView& cores, std::size_t threads, Watch& watch);

}  // namespace fjordline

#endif
