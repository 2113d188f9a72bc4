// Groups around rows of the table: the sum of distances to the nearest of k medoids is made small by swapping a medoid
// for another row. For one candidate, what removing each of the k medoids would cost is summed up in a single pass over
// the rows (Schubert & Rousseeuw 2021, doi:10.1016/j.is.2021.101804).
#ifndef FJORDLINE_MEDOIDS_H
#define FJORDLINE_MEDOIDS_H

#include <cstdint>
#include <vector>

#include "metrics.h"
#include "parallel.h"
#include "search.h"

namespace fjordline {

struct MedoidFit {
  std::vector<int> medoid;       // rows, 0-based
  std::vector<int> group;
  double objective = 0.0;        // sum of distances
  std::size_t swaps = 0;
  bool converged = false;        // no swap lowers the objective
  std::vector<double> reached;
  bool stopped = false;
};

MedoidFit medoids(const Distances& distances, const SearchSettings& settings, const Stop& stop);

}  // namespace fjordline

#endif
