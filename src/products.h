// Products of matrices: a large symmetric one with a narrow one, and the columns of two tables.
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

// The products of every column of one table with every column of another of as many rows: left.cols x right.cols into
// `out`, column-major and zero before. `same`: both are one table, and half the work is done. The same bits for any
// number of threads; unfinished when the watch stops it.
void column_products(const TableView& left, const TableView& right, bool same, std::size_t threads, Watch& watch,
                     double* out);

}  // namespace fjordline

#endif
