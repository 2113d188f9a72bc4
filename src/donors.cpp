#include "donors.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace fjordline {

NearestDonors nearest_donors(const TableView& rows, const TableView& donors, const std::vector<double>& weight,
                             const std::vector<int>& code, std::size_t count, const Stop& stop) {
  NearestDonors out;
  const RowTable pool = by_rows(donors);
  const std::size_t kept = std::min(count, pool.rows);
  out.donor.assign(rows.rows * count, -1);
  std::vector<std::pair<double, int>> near(pool.rows);
  std::vector<std::size_t> known;
  Patience patience(stop);
  for (std::size_t i = 0; i < rows.rows; ++i) {
    known.clear();
    for (std::size_t j = 0; j < rows.cols; ++j)
      if (!std::isnan(rows.at(i, j))) known.push_back(j);
    if (known.empty()) continue;
    for (std::size_t d = 0; d < pool.rows; ++d) {
      const double* other = pool.row(d);
      double sum = 0.0;
      for (std::size_t j : known) {
        const double gap = rows.at(i, j) - other[j];
        sum += weight[j] * (code[j] ? (gap != 0.0 ? 1.0 : 0.0) : gap * gap);
      }
      near[d] = {sum, static_cast<int>(d)};
    }
    std::partial_sort(near.begin(), near.begin() + static_cast<std::ptrdiff_t>(kept), near.end());
    for (std::size_t r = 0; r < kept; ++r) out.donor[i * count + r] = near[r].second;
    if (patience.over(pool.rows * known.size())) {
      out.stopped = true;
      return out;
    }
  }
  return out;
}

}  // namespace fjordline
