#include "blocks.h"

#include <algorithm>

#include "parallel.h"

namespace fjordline {

BlockTable::BlockTable(const Rows& rows, std::size_t threads)
    : rows_(rows.count()), cols_(rows.cols()), values_(blocks() * kBlockRows * cols_) {
  in_parallel(blocks(), threads, [&](std::size_t block) {
    std::vector<double> scratch(cols_);
    double* to = values_.data() + block * kBlockRows * cols_;
    for (std::size_t i = 0; i < padded(block); ++i) {
      const double* row = rows.row(std::min(first(block) + i, rows_ - 1), scratch.data());
      for (std::size_t j = 0; j < cols_; ++j) to[j * kBlockRows + i] = row[j];
    }
  });
}

std::size_t BlockTable::rows_in(std::size_t block) const { return std::min(kBlockRows, rows_ - first(block)); }

std::size_t BlockTable::padded(std::size_t block) const { return (rows_in(block) + kTile - 1) / kTile * kTile; }

void pack_triangle(const double* triangle, std::size_t cols, Lined& out) {
  out.clear();
  for (std::size_t band = 0; band < cols; band += 4) {
    const std::size_t end = std::min(band + 4, cols);
    for (std::size_t j = 0; j < end; ++j)
      for (std::size_t r = band; r < end; ++r) out.push_back(j <= r ? triangle[r * cols + j] : 0.0);
  }
}

}  // namespace fjordline
