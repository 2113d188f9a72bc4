// Everything that is counted over pairs of rows, for several labelings in one pass over the distances, which are never
// stored: memory grows with rows x groups.
#ifndef FJORDLINE_PAIRS_H
#define FJORDLINE_PAIRS_H

#include <cstddef>
#include <vector>

#include "parallel.h"
#include "rows.h"
#include "table.h"

namespace fjordline {

// Distances between rows, tile against tile.
class PairBlocks {
 public:
  PairBlocks(const TableView& x, Metric metric, std::size_t threads);
  explicit PairBlocks(const TableView& square);  // given dissimilarities

  std::size_t rows() const { return rows_; }
  std::size_t tiles() const { return (rows_ + kTile - 1) / kTile; }
  // out[16 l + i]: row i of tile `first` from row l of tile `second`. Multiplied by unit() they are distances.
  void block(std::size_t first, std::size_t second, double* out) const;
  double unit() const { return unit_; }

 private:
  const TileKernels& kernels_;
  std::size_t rows_, cols_;
  Metric metric_ = Metric::euclidean;
  bool root_ = false;
  double unit_ = 1.0;
  const double* square_ = nullptr;
  Lined tiles_;
};

// Labelings of the same rows: rows x count, column after column; groups numbered from 1, 0 leaves a row out.
struct Labelings {
  const int* groups;
  std::vector<int> counts;  // groups of each
};

// Of one labeling.
struct PairSums {
  std::vector<double> width;    // silhouette by row (Rousseeuw 1987); NaN where undefined
  std::vector<int> neighbour;   // the nearest other group; 0 where there is none
  std::vector<double> between;  // groups x groups: sum of the distances from rows of one to rows of the other
};

// False when the user stopped it.
bool pair_sums(const PairBlocks& pairs, const Labelings& labelings, std::size_t threads, const Stop& stop,
               std::vector<PairSums>& out);

// The smallest distance between groups and the largest within one (Dunn 1974).
struct PairEnds {
  double between, within;
};

bool pair_ends(const PairBlocks& pairs, const Labelings& labelings, std::size_t threads, const Stop& stop,
               std::vector<PairEnds>& out);

// What needs the distances in order: all of them are kept, 16 bytes per pair.
struct PairOrder {
  double within = 0.0, smallest = 0.0, largest = 0.0;  // sums: of the pairs within groups, and of as many extreme ones
  double concordant = 0.0, discordant = 0.0;           // pairs of a within and a between distance
  double correlation = 0.0;                            // of distance and being in different groups; NaN if undefined
};

bool pair_order(const PairBlocks& pairs, const Labelings& labelings, std::size_t threads, const Stop& stop,
                std::vector<PairOrder>& out);

}  // namespace fjordline

#endif
