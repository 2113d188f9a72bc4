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
  std::vector<long long> number;   // the number each packed centre has

  // Listed centres (all when `list` is null), in ascending order. With `differences` the squared distance itself is
  // computed; without, half the squared length less the product with the row, which ranks the same and costs half.
  void pack(const RowTable& centres, const int* list, std::size_t listed, bool differences);
};

// How the bounds of rows move, by the group a row is in; see descent.h.
struct BoundMoves {
  const float* up;       // what is added to the distance to the own centre
  const float* gap;      // distance from the own centre to the nearest other
  const float* allowed;  // what the squared distance is multiplied by; null for 1
  int farthest = -1;     // rows of this group lose `next` of their lower bound, all others `down`
  float down = 0.0f, next = 0.0f;
  float slack = 0.0f;    // rounding of squared distances
};

constexpr float kSafe = 1.0f + 1e-6f;  // more than single precision loses in a few steps

struct TileKernels {
  const char* instructions;
  // tile: cols x 16. best, second: 16 scores; which: number of the best, the first of equals.
  void (*nearest)(const double* tile, std::size_t cols, const CentreBlocks& centres, double* best, int* which);
  void (*nearest_two)(const double* tile, std::size_t cols, const CentreBlocks& centres, double* best, double* second,
                      int* which);
  // As many of `count` tiles from the first on as keep the centres they have in `group`; `which` tells the next.
  std::size_t (*unchanged)(const double* tiles, std::size_t count, std::size_t cols, const CentreBlocks& centres,
                           const int* group, int* which);
  // The same as `nearest_two` with squared distances; the blocks must be packed for differences.
  void (*nearest_exact)(const double* tile, std::size_t cols, const CentreBlocks& centres, double* best, double* second,
                        int* which);
  // Squared distances to every packed centre: count x 16, padded to whole blocks.
  void (*distances)(const double* tile, std::size_t cols, const CentreBlocks& centres, double* out);
  // The same with products; the blocks may be packed either way.
  void (*products)(const double* tile, std::size_t cols, const CentreBlocks& centres, double* out);
  void (*distance_to)(const double* tile, std::size_t cols, const double* centre, double* out);
  // In single precision: as many of `count` tiles from the first on as have no row within its `reach`, a squared
  // distance each, of the centre.
  std::size_t (*beyond)(const float* tiles, std::size_t count, std::size_t cols, const float* centre,
                        const float* reach);
  void (*lengths)(const double* tile, std::size_t cols, double* out);  // squared
  // A bit for each of the sixteen rows whose second-best centre is within `allowed` times the squared distance of its
  // best: scores as nearest_two gives them, `slack` their rounding.
  unsigned (*rivals)(const double* best, const double* second, const double* length, double slack, double allowed);
  unsigned (*differ)(const int* which, const int* group);  // a bit for each of sixteen that are not the same
  // Lowers sixteen values to the squared distances to a centre, where those are smaller; gives the sum of the new ones.
  double (*lower)(const double* tile, std::size_t cols, const double* centre, double* nearest);
  // Sixteen values each of `nearest` and `other`: adds the smaller ones to `sums`, lane by lane.
  void (*add_smaller)(const double* nearest, const double* other, double* sums);
  // Moves the bounds of `count` rows and lists those that may no longer be nearest to their own centre; how many.
  std::size_t (*move_bounds)(const BoundMoves& moves, const int* group, std::size_t count, float* upper, float* lower,
                             int* meet);
  // Adds `weight` times the row to `sum` and gives its squared distance to `centre`; all lie together.
  double (*add_row)(const double* row, const double* centre, std::size_t cols, double weight, double* sum);
  // Sum (of `share` times each value), least and largest of a column.
  void (*look_along)(const double* values, std::size_t count, double share, double* sum, double* least, double* most);
  // All pairs of two tiles: out[16 l + i] is the squared distance (manhattan, chebyshev: the distance) between row i of
  // the first and row l of the second.
  void (*pairs[3])(const double* first, const double* second, std::size_t cols, double* out);
  // Of a block of squared distances over the sums of `add` of its two rows: the smallest of each of the sixteen and
  // what it belongs to, numbered on from `number`, where smaller than `best`; a row is not compared with itself
  // (`own`).
  void (*least)(const double* block, const double* add, const double* other_add, const long long* own, long long number,
                double* best, long long* which);
  void (*roots)(double* values);  // of 256 values
  // Adds the sixteen values of every row of `block` to the slots of `sums` listed for that row, `lists` each.
  void (*spread)(const double* block, const int* slots, std::size_t lists, double* sums);
  void (*turn)(const double* const* rows, std::size_t cols, double* tile);  // sixteen rows into a tile
};

const TileKernels& tile_kernels();                   // the best this processor has
std::vector<const TileKernels*> all_tile_kernels();  // every one it can run, the portable one first

}  // namespace fjordline

#endif
