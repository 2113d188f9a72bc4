#include "products.h"

#include <algorithm>

#include "tiles.h"

namespace fjordline {

namespace {

constexpr std::size_t kTilesATask = 4;

}  // namespace

void symmetric_product(const TableView& matrix, const TableView& block, std::size_t threads, Watch& watch,
                       double* out) {
  const std::size_t n = matrix.rows, wide = block.cols;
  RowTable columns(wide, n);
  std::copy(block.values, block.values + n * wide, columns.values.begin());
  CentreBlocks packed;
  packed.pack(columns, nullptr, wide, true);
  const std::size_t tiles = (n + kTile - 1) / kTile;
  in_parallel((tiles + kTilesATask - 1) / kTilesATask, threads, [&](std::size_t task) {
    Lined tile(n * kTile), value((wide + kBlock) * kTile);
    const double* rows[kTile];
    const std::size_t end = std::min(tiles, (task + 1) * kTilesATask);
    for (std::size_t t = task * kTilesATask; t < end && !watch.over(n * wide * kTile); ++t) {
      const std::size_t first = t * kTile, left = std::min(kTile, n - first);
      for (std::size_t r = 0; r < kTile; ++r) rows[r] = matrix.values + (first + std::min(r, left - 1)) * n;
      tile_kernels().turn(rows, n, tile.data());
      tile_kernels().products(tile.data(), n, packed, value.data());
      for (std::size_t g = 0; g < wide; ++g)
        std::copy(value.data() + g * kTile, value.data() + g * kTile + left, out + g * n + first);
    }
  });
}

}  // namespace fjordline
