#ifndef FJORDLINE_KMEANS_H
#define FJORDLINE_KMEANS_H

#include <cstdint>
#include <vector>

#include "table.h"

namespace fjordline {

enum class Seeding { spread, rows };

struct KmeansSettings {
  std::size_t groups = 1;
  Seeding seeding = Seeding::spread;
  std::size_t restarts = 1;
  std::size_t max_rounds = 200;
  std::uint64_t seed = 1;
};

struct KmeansFit {
  std::vector<int> group;              // 0-based
  RowTable centres;                    // in the units of the input
  std::vector<double> group_scatter;   // within-group sum of squares, by group
  double scatter = 0.0;                // W, their sum
  std::size_t rounds = 0;              // of the winning restart
  std::size_t refilled = 0;            // groups that emptied and were refilled, over all restarts
  bool converged = false;
  std::vector<double> restart_scatter; // W reached by each restart
  bool stopped = false;                // the user interrupted
};

// Minimises W: Lloyd's rounds (1982), then transfers of single rows (Hartigan & Wong 1979)
// until none lowers W by more than 1e-10 of it. Needs at least `groups` distinct rows.
KmeansFit kmeans(const TableView& x, const KmeansSettings& settings, const Stop& stop);

struct Nearest {
  std::vector<int> group;        // 0-based; ties go to the lower number
  std::vector<double> distance;  // not squared
};

Nearest nearest_centres(const TableView& x, const TableView& centres);

}  // namespace fjordline

#endif
