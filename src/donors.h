// The complete rows nearest to a row with gaps, by the columns it has.
#ifndef FJORDLINE_DONORS_H
#define FJORDLINE_DONORS_H

#include <vector>

#include "table.h"

namespace fjordline {

struct NearestDonors {
  std::vector<int> donor;  // rows x count, row after row; numbered from 0, -1 where there are too few
  bool stopped = false;
};

// `rows` may hold NaN, `donors` may not. A column counts `weight` times its squared difference, or, where `code` is
// true, `weight` where the two values differ. Equal distances go to the donor that comes first.
NearestDonors nearest_donors(const TableView& rows, const TableView& donors, const std::vector<double>& weight,
                             const std::vector<int>& code, std::size_t count, const Stop& stop);

}  // namespace fjordline

#endif
