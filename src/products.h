// Products of a large symmetric matrix with a narrow one.
#ifndef FJORDLINE_PRODUCTS_H
#define FJORDLINE_PRODUCTS_H

#include <cstddef>

#include "parallel.h"
#include "table.h"

namespace fjordline {

// matrix * block into `out`, column-major; unfinished when the watch stops it. The matrix is read by columns, which are
// its rows.
void symmetric_product(const TableView& matrix, const TableView& block, std::size_t threads, Watch& watch,
                       double* out);

}  // namespace fjordline

#endif
