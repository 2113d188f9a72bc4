// Where a search begins.
#ifndef FJORDLINE_SEEDING_H
#define FJORDLINE_SEEDING_H

#include "parallel.h"
#include "rows.h"
#include "stream.h"

namespace fjordline {

// spread: each next centre a row drawn with probability proportional to its squared distance from the nearest one so
// far, the best of 2 + log k draws (Arthur & Vassilvitskii 2007). rows: random different rows. partition: means of
// random groups. splits: no chance at all, the group of largest scatter is cut at the mean of its widest column (Su &
// Dy 2007).
enum class Seeding { spread, rows, partition, splits };

// Centres in the units of Rows. Needs at least `groups` different rows of positive weight.
RowTable seeds(const Rows& rows, std::size_t groups, Seeding seeding, Stream& stream, std::size_t threads,
               Watch& watch);

// Squared distances of all rows to the nearest of some centres, times the weight, kept up to date as centres are added.
class Spread {
 public:
  Spread(const Rows& rows, std::size_t threads, Watch& watch);
  void add(const double* centre);
  std::size_t draw(Stream& stream) const;  // a row, with probability proportional to its value
  // What the sum would be after adding each candidate (at most eight).
  std::vector<double> sums_with(const RowTable& candidates);
  void add_one_of(const RowTable& candidates, std::size_t which);  // right after `sums_with` of the same
  double sum() const;

 private:
  std::size_t stretches() const;
  void weigh(std::size_t from, double* distance) const;  // of a tile's rows

  const Rows& rows_;
  std::size_t threads_;
  Watch& watch_;
  bool fresh_ = true;  // no centre yet
  Lined nearest_;
  CentreBlocks blocks_;
  Lined kept_;          // of few rows: the distances to all candidates, tile by tile
  std::vector<double> by_tile_, sums_;  // by tile and by stretch
};

}  // namespace fjordline

#endif
