#include "products.h"

#include <algorithm>

#include "tiles.h"

namespace fjordline {

namespace {

constexpr std::size_t kTilesATask = 4;
constexpr std::size_t kPanel = 64;       // columns packed together
constexpr std::size_t kStretch = 512;    // rows at a time: a tile of them stays in the cache

// Some columns of a stretch of rows, packed.
CentreBlocks panel_of(const TableView& table, std::size_t from, std::size_t wide, std::size_t first,
                      std::size_t rows) {
  RowTable columns(wide, rows);
  for (std::size_t c = 0; c < wide; ++c) {
    const double* column = table.values + (from + c) * table.rows + first;
    std::copy(column, column + rows, columns.values.begin() + c * rows);
  }
  CentreBlocks packed;
  packed.pack(columns, nullptr, wide, true);
  return packed;
}

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

void column_products(const TableView& left, const TableView& right, bool same, std::size_t threads, Watch& watch,
                     double* out) {
  const std::size_t n = left.rows, down = left.cols, across = right.cols;
  const std::size_t tiles = (down + kTile - 1) / kTile, panels = (across + kPanel - 1) / kPanel;
  std::vector<CentreBlocks> packed(panels);
  for (std::size_t first = 0; first < n && !watch.stopped(); first += kStretch) {
    const std::size_t rows = std::min(kStretch, n - first);
    in_parallel(panels, threads, [&](std::size_t p) {
      packed[p] = panel_of(right, p * kPanel, std::min(kPanel, across - p * kPanel), first, rows);
    });
    in_parallel(tiles, threads, [&](std::size_t t) {
      Lined tile(rows * kTile), value((kPanel + kBlock) * kTile);
      const double* column[kTile];
      const std::size_t from = t * kTile, inside = std::min(kTile, down - from);
      for (std::size_t c = 0; c < kTile; ++c)
        column[c] = left.values + (from + std::min(c, inside - 1)) * n + first;
      tile_kernels().turn(column, rows, tile.data());
      for (std::size_t p = 0; p < panels && !(same && p * kPanel >= from + kTile); ++p) {
        if (watch.over(rows * kPanel * kTile)) return;
        tile_kernels().products(tile.data(), rows, packed[p], value.data());
        for (std::size_t g = 0; g < packed[p].count; ++g)
          for (std::size_t c = 0; c < inside; ++c)
            out[(p * kPanel + g) * down + from + c] += value[g * kTile + c];
      }
    });
  }
  for (std::size_t g = 1; same && g < across; ++g)
    for (std::size_t c = 0; c < g; ++c) out[g * down + c] = out[c * down + g];
}

}  // namespace fjordline
