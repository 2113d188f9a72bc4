// Groups of rows with numbers and categories: a prototype has a mean for each number column and a level for each
// category; a row is as far from it as the squared differences and a charge for each level that differs (Huang 1998,
// doi:10.1023/A:1009769707641).
#ifndef FJORDLINE_PROTOTYPES_H
#define FJORDLINE_PROTOTYPES_H

#include <cstdint>
#include <vector>

#include "levels.h"
#include "parallel.h"
#include "search.h"
#include "table.h"

namespace fjordline {

struct Prototypes {
  RowTable means;            // groups x number columns
  std::vector<int> modes;    // groups x categories
};

struct PrototypeFit {
  Prototypes prototypes;
  std::vector<int> group;
  double objective = 0.0;
  std::size_t rounds = 0;
  std::size_t refilled = 0;
  bool converged = false;
  std::vector<double> reached;
  bool stopped = false;
};

// `charge`: what a differing level costs, one a category.
PrototypeFit mixed_prototypes(const TableView& numbers, const Levels& levels, const std::vector<double>& charge,
                              const SearchSettings& settings, const Stop& stop);

}  // namespace fjordline

#endif
