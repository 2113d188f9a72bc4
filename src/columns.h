// What single columns look like: place, spread, shape, and how far they set rows apart.
#ifndef FJORDLINE_COLUMNS_H
#define FJORDLINE_COLUMNS_H

#include <cstddef>

namespace fjordline {

// The skewness is NaN below eight values and where all are equal.
struct ColumnShape {
  std::size_t count = 0, distinct = 0;
  double least, most, sd, lower, median, upper, skew, commonest_share, apart, dip;
};

// `values`: at least one, all finite; they are sorted in place.
ColumnShape column_shape(double* values, std::size_t count);

}  // namespace fjordline

#endif
