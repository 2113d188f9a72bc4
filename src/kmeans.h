#ifndef FJORDLINE_KMEANS_H
#define FJORDLINE_KMEANS_H

#include <cstdint>
#include <vector>

#include "descent.h"
#include "rows.h"
#include "search.h"
#include "seeding.h"
#include "table.h"

namespace fjordline {

// restarts: every start by itself. evolution: starts are bred from the best partitions so far (Gribel & Vidal 2019).
enum class Search { restarts, evolution };

struct KmeansSettings : SearchSettings {
  Metric metric = Metric::euclidean;
  Seeding seeding = Seeding::spread;
  Search search = Search::restarts;
  Rounds rounds = Rounds::automatic;
  // For one fit of very many: all restarts begin, and only so many go on to their end, those that are best after a few
  // rounds (successive halving, Jamieson & Talwalkar 2016). 0: all of them.
  std::size_t finished = 0;
};

struct KmeansFit {
  std::vector<int> group;              // 0-based
  RowTable centres;                    // in the units of the table; directions on the sphere
  std::vector<double> group_scatter;   // what each group adds to the objective
  double objective = 0.0;
  std::size_t rounds = 0;              // of the winning restart
  std::size_t transferred = 0;         // rows moved one by one, in the winning restart
  std::size_t refilled = 0;            // groups that emptied and were refilled, over all restarts
  bool converged = false;
  std::vector<double> reached;         // the objective each restart reached
  bool stopped = false;                // the user interrupted
  std::size_t distinct = 0;            // different rows, counted up to the groups asked for; fewer: nothing was fitted
  std::size_t without_direction = 0;   // first row that has none; the number of rows when all have one
};

// `start` may hold the centres to begin from (then there is one restart), `weight` one a row; both may be null.
KmeansFit kmeans(const TableView& x, const KmeansSettings& settings, const TableView* start, const double* weight,
                 const Stop& stop);

// W alone of the best restart, by count: what `kmeans` reaches, for a small table and many counts. NaN when the table
// has fewer different rows than the largest count; nothing when the user interrupted.
std::vector<double> kmeans_scatter(const TableView& x, const std::vector<std::size_t>& counts,
                                   const KmeansSettings& settings, const Stop& stop);

// Groups of all rows by the centres of fits to some of them, a sample each with a seed of its own; none where a sample
// has fewer different rows than groups. Nothing at all when the user interrupted.
std::vector<std::vector<int>> kmeans_by_samples(const TableView& x, const std::vector<std::vector<int>>& samples,
                                                const std::vector<std::uint64_t>& seeds, const KmeansSettings& settings,
                                                const Stop& stop);

// Within-group sums of squares about the groups' means, by group, and the means; group 0 is left out.
struct GroupScatter {
  RowTable means;
  std::vector<double> scatter;
};

GroupScatter group_scatter(const TableView& x, const int* group, std::size_t groups);

}  // namespace fjordline

#endif
