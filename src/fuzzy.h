// Fuzzy c-means: every row belongs to every group in part (Dunn 1973; Bezdek 1981).
#ifndef FJORDLINE_FUZZY_H
#define FJORDLINE_FUZZY_H

#include <cstdint>
#include <vector>

#include "parallel.h"
#include "rows.h"
#include "search.h"

namespace fjordline {

struct FuzzySettings : SearchSettings {
  double fuzziness = 2.0;  // the exponent, above 1
  double tolerance = 1e-6;  // of the root mean squared distance from the middle: the farthest a centre still moves
};

struct FuzzyFit {
  RowTable centres;           // in the units of the table
  double objective = 0.0;     // sum of membership^fuzziness x squared distance
  std::size_t rounds = 0;
  bool converged = false;
  std::vector<double> reached;
  std::size_t distinct = 0;   // different rows, counted up to the groups asked for; fewer: nothing was fitted
  bool stopped = false;
};

FuzzyFit fuzzy_means(const TableView& x, const FuzzySettings& settings, const Stop& stop);

// Memberships of rows, column after column: rows x centres. A row at a centre belongs to it alone.
std::vector<double> memberships(const TableView& x, const TableView& centres, double fuzziness, std::size_t threads);

}  // namespace fjordline

#endif
