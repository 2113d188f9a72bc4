// The innermost loops: sixteen rows side by side ("a tile") against centres packed by eight. Built once for each
// instruction set and chosen when the program runs.
#ifndef FJORDLINE_TILES_H
#define FJORDLINE_TILES_H

#include <cstddef>
#include <vector>

#include "table.h"

namespace fjordline {

constexpr std::size_t kTile = 16;
constexpr std::size_t kBlock = 8;

// Centres as the kernels read them: blocks of eight, column after column. A score starts from `start`.
struct CentreBlocks {
  std::size_t count = 0;           // centres packed
  Lined values;                    // blocks x cols x 8
  Lined start;                     // half the squared length (0 for differences); infinite for padding
  std::vector<int> which;          // the number each packed centre has

  // Listed centres (all when `list` is null), in ascending order. With `differences` the squared distance itself is
  // computed; without, half the squared length less the product with the row, which ranks the same and costs half.
  void pack(const RowTable& centres, const int* list, std::size_t listed, bool differences);
};

struct TileKernels {
  const char* instructions;
  // tile: cols x 16. best, second: 16 scores; which: place of the best in the blocks, the first of equals.
  void (*nearest)(const double* tile, std::size_t cols, const CentreBlocks& centres, double* best, int* which);
  void (*nearest_two)(const double* tile, std::size_t cols, const CentreBlocks& centres, double* best, double* second,
                      int* which);
  // The same with squared distances; the blocks must be packed for differences.
  void (*nearest_exact)(const double* tile, std::size_t cols, const CentreBlocks& centres, double* best, double* second,
                        int* which);
  // Squared distances to every packed centre: count x 16, padded to whole blocks.
  void (*distances)(const double* tile, std::size_t cols, const CentreBlocks& centres, double* out);
  void (*distance_to)(const double* tile, std::size_t cols, const double* centre, double* out);
  void (*lengths)(const double* tile, std::size_t cols, double* out);  // squared
  void (*turn)(const double* const* rows, std::size_t cols, double* tile);  // sixteen rows into a tile
};

const TileKernels& tile_kernels();                   // the best this processor has
std::vector<const TileKernels*> all_tile_kernels();  // every one it can run, the portable one first

}  // namespace fjordline

#endif
