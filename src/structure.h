// Is there any group structure at all? Two statistics of a table, and how they are distributed over tables without
// groups of the same size and spread.
#ifndef FJORDLINE_STRUCTURE_H
#define FJORDLINE_STRUCTURE_H

#include <cstddef>
#include <cstdint>
#include <vector>

#include "table.h"

namespace fjordline {

// What of the rows along a direction: so large a share, from one end. A part of one heap is one heap, so that each may be
// tested; a small group beside a large one is a large share of an outer part.
struct Part {
  double share = 1.0;
  bool upper = false;
};

// dip: the largest dip (Hartigan & Hartigan 1985), times the root of the share of the rows it was taken of, over some
// directions and parts of the rows along them: between the two centres of 2-means, the same after sphering, and each
// principal axis. runt: the largest smaller side among the merges of single linkage (Hartigan & Mohanty 1992).
// between: by number of groups from 2 to 6, the largest dip along the discriminants of a k-means fit with so many groups, of
// the rows of two groups that no third lies between, times the root of their share; pairs: those rows.
struct Between {
  std::vector<int> rows;
  std::vector<double> along;
  double middle = 0.0;  // half-way from centre to centre
};

struct Structure {
  double dip = 0.0, runt = 0.0;
  std::vector<double> between;
  std::vector<Between> pairs;
  std::size_t direction = 0;  // where the dip is largest: 0 and 1 between centres (plain, sphered), then the axes
  Part part;
  std::vector<double> along;  // the rows along it
};

// Tables without groups: uniform in a box with the standard deviations of the axes, Gaussian, uniform in an ellipsoid with
// those standard deviations, uniform in the box of the ranges, one cluster as skewed and with tails as long as the table's;
// and, where the other axes follow the square of the first, one bent band.
enum class Groupless { box, gaussian, ellipsoid, ranges, skewed, bent };

struct StructureTest {
  Structure observed;
  std::vector<double> dips, runts;  // sets x kinds, column after column
  std::vector<double> betweens;     // sets x numbers of groups x kinds
  bool bent = false;                // without, there are no tables of the last kind
  bool stopped = false;
};

// `x`: the scores on the principal axes, centred, none without spread. Kinds in the order above. Without `discriminants`
// nothing is looked for along them.
StructureTest structure_test(const TableView& x, std::size_t sets, std::uint64_t seed, bool discriminants,
                             std::size_t threads, const Stop& stop);

}  // namespace fjordline

#endif
