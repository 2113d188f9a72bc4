// The rows to be grouped, once more in memory, as the kernels like them: shifted to their middle and scaled by a power
// of two (offsets and tiny or huge units cost no digits), on the unit sphere where the metric asks for that.
#ifndef FJORDLINE_ROWS_H
#define FJORDLINE_ROWS_H

#include <cstddef>
#include <vector>

#include "table.h"
#include "tiles.h"

namespace fjordline {

// cosine: rows of length one. correlation: the row's own mean taken off first. Sums and largest of the differences by
// column (manhattan, chebyshev) have no means, so k-means does not offer them.
enum class Metric { euclidean, cosine, correlation, manhattan, chebyshev };

// Shifts and scales a point to its direction; false when it has none.
bool to_direction(double* point, std::size_t cols, Metric metric);

class Rows {
 public:
  // `weight`: one a row, or null for ones.
  Rows(const TableView& x, Metric metric, const double* weight, std::size_t threads);

  std::size_t count() const { return count_; }
  std::size_t cols() const { return cols_; }
  bool on_sphere() const { return metric_ == Metric::cosine || metric_ == Metric::correlation; }
  double weight(std::size_t i) const { return weight_ ? weight_[i] : 1.0; }
  bool weighted() const { return weight_ != nullptr; }
  // The first row that has no direction (all zero, or constant under correlation); count() when there is none.
  std::size_t without_direction() const { return without_direction_; }
  // Bound on the rounding of a score computed from products, in squared units.
  double rounding() const { return rounding_; }

  std::size_t tiles() const { return (count_ + kTile - 1) / kTile; }
  // Whether tiles lie one behind the other in memory.
  bool in_tiles() const { return in_tiles_; }
  // Sixteen rows from `first`, a multiple of sixteen; past the end the last row is repeated.
  const double* tile(std::size_t first, double* scratch) const {
    return in_tiles_ ? values_.data() + first * cols_ : turned(first, scratch);
  }
  // Their squared lengths, where tiles lie in memory.
  const double* lengths(std::size_t first) const { return lengths_.data() + first; }
  // Sum over the rows of the weight times the squared length.
  double total() const { return total_; }
  // `listed` rows, at most sixteen, the last one repeated.
  void gather(const int* list, std::size_t listed, double* scratch) const;
  // One row; in `scratch` where it does not lie together.
  const double* row(std::size_t i, double* scratch) const;

  // Different rows of positive weight, counted up to `enough`.
  std::size_t distinct(std::size_t enough) const;

  // From and to the units of the table. Centres on the sphere are directions and stay as they are.
  RowTable inward(const TableView& points) const;
  void outward(RowTable& points) const;
  double squared_unit() const { return unit_ * unit_; }  // one squared unit here, in those of the table

 private:
  double fill(const TableView& x, std::size_t threads);
  void to_sphere();
  const double* turned(std::size_t first, double* scratch) const;
  double* cell(std::size_t i, std::size_t j) {
    return values_.data() + (in_tiles_ ? i / kTile * kTile * cols_ + j * kTile + i % kTile : i * cols_ + j);
  }

  std::size_t count_;
  std::size_t cols_;
  Metric metric_;
  const double* weight_;
  bool in_tiles_;  // narrow tables are kept as tiles, the others row after row
  Lined values_, lengths_;
  std::vector<double> middle_;
  double unit_ = 1.0;
  double rounding_ = 0.0, total_ = 0.0;
  std::size_t without_direction_;
};

}  // namespace fjordline

#endif
