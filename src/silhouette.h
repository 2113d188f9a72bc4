#ifndef FJORDLINE_SILHOUETTE_H
#define FJORDLINE_SILHOUETTE_H

#include <vector>

#include "table.h"

namespace fjordline {

struct Silhouettes {
  std::vector<double> width;   // rows x labelings, column-major; NaN where undefined
  std::vector<int> neighbour;  // the nearest other group, 1-based; 0 where there is none
  bool stopped = false;
};

// Rousseeuw (1987) for several labelings of the same rows in one pass over the distances.
// `groups` is rows x labelings, column-major, numbered 1..counts[m]; 0 leaves a row out.
Silhouettes silhouettes(const TableView& x, const int* groups, const std::vector<int>& counts, const Stop& stop);

}  // namespace fjordline

#endif
