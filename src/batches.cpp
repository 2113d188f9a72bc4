#include "batches.h"

#include <algorithm>

namespace fjordline {

void batch_pass(const TableView& x, Metric metric, std::size_t batch_rows, RowTable& centres,
                std::vector<double>& mass) {
  const bool sphere = metric != Metric::euclidean;
  const std::size_t cols = x.cols, k = centres.rows;
  const std::size_t batches = (x.rows + batch_rows - 1) / batch_rows;
  Lined tile(cols * kTile, 0.0);
  std::vector<double> points(kTile * cols);
  std::vector<double> sum(k * cols), count(k);
  alignas(64) double best[kTile];
  alignas(64) double second[kTile];
  int which[kTile];
  for (std::size_t b = 0; b < batches; ++b) {
    RowTable aim = centres;
    if (sphere)
      for (std::size_t g = 0; g < k; ++g) to_direction(aim.row(g), cols, Metric::cosine);
    CentreBlocks blocks;
    blocks.pack(aim, nullptr, k, true);
    std::fill(sum.begin(), sum.end(), 0.0);
    std::fill(count.begin(), count.end(), 0.0);
    for (std::size_t from = b; from < x.rows; from += kTile * batches) {
      std::size_t full = 0;
      for (std::size_t i = from; i < x.rows && full < kTile; i += batches, ++full) {
        double* point = points.data() + full * cols;
        for (std::size_t j = 0; j < cols; ++j) point[j] = x.at(i, j);
        if (sphere) to_direction(point, cols, metric);
        for (std::size_t j = 0; j < cols; ++j) tile[j * kTile + full] = point[j];
      }
      tile_kernels().nearest_exact(tile.data(), cols, blocks, best, second, which);
      for (std::size_t r = 0; r < full; ++r) {
        const std::size_t g = static_cast<std::size_t>(which[r]);
        count[g] += 1.0;
        for (std::size_t j = 0; j < cols; ++j) sum[g * cols + j] += points[r * cols + j];
      }
    }
    for (std::size_t g = 0; g < k; ++g) {
      if (count[g] == 0.0) continue;
      mass[g] += count[g];
      for (std::size_t j = 0; j < cols; ++j) {
        double& centre = centres.row(g)[j];
        centre += (sum[g * cols + j] - count[g] * centre) / mass[g];
      }
    }
  }
}

}  // namespace fjordline
