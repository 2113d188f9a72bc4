// Distances under every metric the methods offer, and the nearest of some points.
#ifndef FJORDLINE_METRICS_H
#define FJORDLINE_METRICS_H

#include <cstddef>
#include <memory>
#include <vector>

#include "rows.h"
#include "table.h"

namespace fjordline {

// From one row to all rows of a table, without keeping them. euclidean, manhattan, chebyshev: distances; cosine,
// correlation: 1 less the cosine or correlation.
class Distances {
 public:
  virtual ~Distances() = default;
  virtual std::size_t rows() const = 0;
  virtual void from(std::size_t row, double* out) const = 0;
  // The first row without a direction; rows() when there is none.
  virtual std::size_t without_direction() const { return rows(); }
};

std::unique_ptr<Distances> distances_of(const TableView& x, Metric metric, std::size_t threads);
std::unique_ptr<Distances> given_distances(const TableView& square);

struct Nearest {
  std::vector<int> group;        // 0-based; ties go to the lower number
  std::vector<double> distance;
};

Nearest nearest_centres(const TableView& x, RowTable centres, Metric metric, std::size_t threads);

}  // namespace fjordline

#endif
