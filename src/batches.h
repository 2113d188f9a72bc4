// k-means by small batches (Sculley 2010), for tables too long to be gone through many times.
#ifndef FJORDLINE_BATCHES_H
#define FJORDLINE_BATCHES_H

#include <vector>

#include "rows.h"
#include "table.h"

namespace fjordline {

// One pass: batch b takes every B-th row from the b-th on, so that a sorted table does no harm. Each centre moves to
// the mean of all it was ever given; `mass` is how much that is. Under cosine and correlation `centres` are means of
// directions.
void batch_pass(const TableView& x, Metric metric, std::size_t batch_rows, RowTable& centres,
                std::vector<double>& mass);

}  // namespace fjordline

#endif
