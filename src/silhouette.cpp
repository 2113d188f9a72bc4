#include "silhouette.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace fjordline {
namespace {

// Sums of distances from every row to every group of every labeling: rows x (all groups together).
struct DistanceSums {
  std::vector<std::size_t> start;  // where a labeling's groups begin in a row of `sum`
  std::size_t width = 0;
  std::vector<double> sum;
};

bool add_pairs(const RowTable& x, const int* groups, const std::vector<int>& counts, DistanceSums& sums,
               const Stop& stop) {
  Patience patience(stop);
  const std::size_t n = x.rows;
  for (std::size_t i = 0; i + 1 < n; ++i) {
    double* to_i = sums.sum.data() + i * sums.width;
    for (std::size_t l = i + 1; l < n; ++l) {
      const double distance = std::sqrt(squared_distance(x.row(i), x.row(l), x.cols));
      double* to_l = sums.sum.data() + l * sums.width;
      for (std::size_t m = 0; m < counts.size(); ++m) {
        const int gi = groups[m * n + i];
        const int gl = groups[m * n + l];
        if (gi == 0 || gl == 0) continue;
        to_i[sums.start[m] + gl - 1] += distance;
        to_l[sums.start[m] + gi - 1] += distance;
      }
    }
    if (patience.over((n - i) * (x.cols + counts.size()))) return false;
  }
  return true;
}

}  // namespace

Silhouettes silhouettes(const TableView& x, const int* groups, const std::vector<int>& counts, const Stop& stop) {
  const std::size_t n = x.rows;
  DistanceSums sums;
  for (int k : counts) {
    sums.start.push_back(sums.width);
    sums.width += static_cast<std::size_t>(k);
  }
  sums.sum.assign(n * sums.width, 0.0);

  Silhouettes out;
  out.width.assign(n * counts.size(), std::numeric_limits<double>::quiet_NaN());
  out.neighbour.assign(n * counts.size(), 0);
  if (!add_pairs(by_rows(x), groups, counts, sums, stop)) {
    out.stopped = true;
    return out;
  }

  for (std::size_t m = 0; m < counts.size(); ++m) {
    const int* group = groups + m * n;
    std::vector<double> sizes(counts[m], 0.0);
    for (std::size_t i = 0; i < n; ++i)
      if (group[i] > 0) sizes[group[i] - 1] += 1.0;
    for (std::size_t i = 0; i < n; ++i) {
      if (group[i] == 0 || counts[m] < 2) continue;
      const double* row = sums.sum.data() + i * sums.width + sums.start[m];
      double nearest = std::numeric_limits<double>::infinity();
      for (int g = 0; g < counts[m]; ++g) {
        if (g == group[i] - 1 || sizes[g] == 0.0) continue;
        const double mean = row[g] / sizes[g];
        if (mean < nearest) {
          nearest = mean;
          out.neighbour[m * n + i] = g + 1;
        }
      }
      if (out.neighbour[m * n + i] == 0) continue;
      const double own_size = sizes[group[i] - 1];
      const double own = own_size > 1.0 ? row[group[i] - 1] / (own_size - 1.0) : 0.0;
      const double larger = std::max(own, nearest);
      out.width[m * n + i] = own_size > 1.0 && larger > 0.0 ? (nearest - own) / larger : 0.0;
    }
  }
  return out;
}

}  // namespace fjordline
