// Uphill on the density of the rows: Fukunaga & Hostetler (1975), doi:10.1109/TIT.1975.1055330; Comaniciu & Meer
// (2002), doi:10.1109/34.1000236.
#ifndef FJORDLINE_MEAN_SHIFT_H
#define FJORDLINE_MEAN_SHIFT_H

#include <vector>

#include "parallel.h"
#include "table.h"

namespace fjordline {

struct Shifted {
  RowTable modes;            // where they end, one a group, in the units of the table
  std::vector<int> group;    // of each row, from 0, by the first row that ends there
  std::size_t unsettled = 0; // rows still moving after the last round
};

// The density is a sum of Gaussians of sd `bandwidth` on the rows. A row has settled when it moves less than a
// ten-thousandth of that; rows that end within half of it of each other share a mode.
Shifted mean_shift(const TableView& x, double bandwidth, std::size_t max_rounds, std::size_t threads, Watch& watch);

}  // namespace fjordline

#endif
