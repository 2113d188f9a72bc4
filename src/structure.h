// Is there any group structure at all? Two statistics of a table, and how they are distributed over tables without
// groups of the same size and spread.
#ifndef FJORDLINE_STRUCTURE_H
#define FJORDLINE_STRUCTURE_H

#include <cstddef>
#include <cstdint>
#include <vector>

#include "table.h"

namespace fjordline {

// What of the rows along a direction: so large a share, from one end. A part of one heap is one heap, so that each may
// be tested; a small group beside a large one is a large share of an outer part.
struct Part {
  double share = 1.0;
  bool upper = false;
};

// dip: the largest dip (Hartigan & Hartigan 1985), times the root of the share of the rows it was taken of, over some
// directions and parts of the rows along them: between the two centres of 2-means, the same after sphering, and each
// principal axis. runt: the largest smaller side among the merges of single linkage (Hartigan & Mohanty 1992).
// between: by number of groups from 2 to 6, the largest dip along the discriminants of a k-means fit with so many
// groups, of the rows of two groups that no third lies between, times the root of their share; pairs: those rows.
struct Between {
  std::vector<int> rows;
  std::vector<double> along;
  double middle = 0.0;  // half-way from centre to centre
};

struct GroupSigns {
  double dip = 0.0, runt = 0.0;
  std::vector<double> between;
  std::vector<Between> pairs;
  std::size_t direction = 0;  // where the dip is largest: 0 and 1 between centres (plain, sphered), then the axes
  Part part;
  std::vector<double> along;  // the rows along it
};

struct StructureTest {
  GroupSigns observed;
  // sets x kinds of tables without groups, in the order of Groupless; the bent ones only where the table is bent
  std::vector<double> dips, runts;
  std::vector<double> betweens;  // sets x numbers of groups x kinds
  bool stopped = false;
};

// `x`: the scores on the principal axes, centred, none without spread. Without `discriminants`
// nothing is looked for along them. Tables without groups are drawn by their numbers, from `from` on: more can be added
// to those of an earlier call.
StructureTest structure_test(const TableView& x, std::size_t from, std::size_t sets, std::uint64_t seed,
                             bool discriminants, std::size_t threads, const Stop& stop);

}  // namespace fjordline

#endif
