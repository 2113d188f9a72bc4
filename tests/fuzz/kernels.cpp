// Small tables and settings out of any bytes, for every kernel: whatever they are, the labels that come out are labels.
// Built and run by dev/fuzz.sh. What R has checked before it calls is taken as checked: numbers are finite, their squares
// too.
#include <cmath>
#include <cstdint>
#include <cstdlib>
#include <cstring>
#include <vector>

#include "batches.h"
#include "dbscan.h"
#include "density.h"
#include "dip.h"
#include "donors.h"
#include "fuzzy.h"
#include "hdbscan.h"
#include "kmeans.h"
#include "lines.h"
#include "linkage.h"
#include "mean-shift.h"
#include "medoids.h"
#include "metrics.h"
#include "mixture-search.h"
#include "neighbours.h"
#include "pairs.h"
#include "prototypes.h"
#include "spanning-tree.h"
#include "structure.h"

using namespace fjordline;

namespace {

class Bytes {
 public:
  Bytes(const std::uint8_t* data, std::size_t size) : at_(data), end_(data + size) {}
  int below(int n) { return at_ == end_ ? 0 : *at_++ % n; }
  // A small whole number, a number of any size whose square is finite, or one of few.
  double number() {
    switch (below(4)) {
      case 0: return below(5) - 2;
      case 1: return below(256) / 16.0 - 8.0;
      case 2: {
        double value = 0.0;
        if (end_ - at_ < 8) return 1.0;
        std::memcpy(&value, at_, 8);
        at_ += 8;
        if (!std::isfinite(value) || std::abs(value) > 1e150) return 3.0;
        return std::abs(value) < 1e-150 ? 0.0 : value;
      }
      default: return (below(3) - 1) * std::pow(10.0, below(121) - 60);
    }
  }

 private:
  const std::uint8_t* at_;
  const std::uint8_t* end_;
};

bool never() { return false; }

void need(bool holds) {
  if (!holds) std::abort();
}

void check_groups(const std::vector<int>& group, std::size_t rows, int least, int most) {
  need(group.size() == rows);
  for (int g : group) need(g >= least && g <= most);
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  Bytes in(data, size);
  const int kind = in.below(14);
  const std::size_t rows = 1 + in.below(40), cols = 1 + in.below(5);
  const int k = 1 + in.below(6), few = std::min<int>(k, static_cast<int>(rows));
  const std::size_t threads = 1 + in.below(2);
  std::vector<double> values(rows * cols);
  for (double& value : values) value = in.number();
  const TableView x{values.data(), rows, cols};
  const Metric metric = static_cast<Metric>(in.below(5));
  const Stop stop = never;
  Watch watch(stop);
  std::vector<int> labels(rows);
  for (int& label : labels) label = in.below(k + 1);
  switch (kind) {
    case 0: {
      KmeansSettings how;
      how.groups = few;
      how.metric = static_cast<Metric>(in.below(3));
      how.restarts = 1 + in.below(3);
      how.rounds = static_cast<Rounds>(in.below(3));
      how.search = static_cast<Search>(in.below(2));
      how.threads = threads;
      const KmeansFit fit = kmeans(x, how, nullptr, nullptr, stop);
      if (fit.without_direction == rows && fit.distinct >= how.groups) check_groups(fit.group, rows, 0, few - 1);
      break;
    }
    case 1: {
      FuzzySettings how;
      how.groups = few;
      how.fuzziness = 1.05 + in.below(40) / 10.0;
      how.max_rounds = 50;
      how.threads = threads;
      const FuzzyFit fit = fuzzy_means(x, how, stop);
      if (fit.distinct >= how.groups) need(fit.centres.rows == how.groups);
      break;
    }
    case 2: {
      const auto distances = distances_of(x, metric, threads);
      if (distances->without_direction() != rows) break;
      SearchSettings how;
      how.groups = few;
      how.threads = threads;
      const MedoidFit fit = medoids(*distances, how, stop);
      check_groups(fit.group, rows, 0, few - 1);
      check_groups(fit.medoid, static_cast<std::size_t>(few), 0, static_cast<int>(rows) - 1);
      break;
    }
    case 3: {
      const Join join = static_cast<Join>(in.below(7));
      Merges merges;
      if (join == Join::single) merges = link_single(x, threads, watch);
      else if (join == Join::ward || join == Join::centroid || join == Join::median) merges = link_centres(x, join, threads, watch);
      else merges = link_matrix(PairBlocks(x, Metric::euclidean, threads), join, in.below(2) == 1, threads, watch);
      need(merges.size() == rows - 1);
      check_groups(cut_tree(merges, rows, few), rows, 0, few);
      break;
    }
    case 4: {
      const DbscanFit fit = dbscan(x, std::abs(in.number()) + 1e-12, 1 + in.below(8), threads, watch);
      check_groups(fit.group, rows, 0, static_cast<int>(rows));
      break;
    }
    case 5: {
      if (rows < 2) break;
      const std::size_t near = std::min<std::size_t>(rows - 1, 1 + in.below(5));
      const std::vector<double> core = neighbour_distances(x, near, threads, watch);
      const CondensedTree tree = condense(spanning_tree(x, core.data(), threads, watch), rows, 2 + in.below(6));
      check_groups(tree.group, rows, 0, static_cast<int>(tree.branches.size()));
      break;
    }
    case 6: {
      const Shifted fit = mean_shift(x, std::abs(in.number()) + 1e-9, 30, threads, watch);
      check_groups(fit.group, rows, 0, static_cast<int>(fit.modes.rows) - 1);
      break;
    }
    case 7: {
      std::vector<double> sorted(values.begin(), values.begin() + static_cast<std::ptrdiff_t>(rows));
      std::sort(sorted.begin(), sorted.end());
      const double found = dip(sorted);
      need(!(found < 0.0) && !(found > 0.25 + 1e-9));
      break;
    }
    case 8: {
      const PairBlocks pairs(x, static_cast<Metric>(in.below(5)), threads);
      std::vector<PairSums> sums;
      std::vector<PairEnds> ends;
      std::vector<PairOrder> order;
      std::vector<double> validity;
      pair_sums(pairs, {labels.data(), {k}}, threads, stop, sums);
      pair_ends(pairs, {labels.data(), {k}}, threads, stop, ends);
      pair_order(pairs, {labels.data(), {k}}, threads, stop, order);
      density_validity(pairs, {labels.data(), {k}}, static_cast<double>(cols), threads, stop, validity);
      for (double width : sums[0].width) need(std::isnan(width) || std::abs(width) <= 1.0 + 1e-9);
      break;
    }
    case 9: {
      const Rows table(x, Metric::euclidean, nullptr, threads);
      const BlockTable blocks(table, threads);
      std::vector<int> levels(rows);
      for (int& level : levels) level = in.below(3);
      LevelPlaces places;
      const bool with_levels = in.below(2) == 1;
      if (with_levels) places.add(3);
      const MixtureRows all(blocks, {levels.data(), rows, with_levels ? std::size_t{1} : std::size_t{0}}, places);
      std::vector<int> start(rows);
      for (std::size_t i = 0; i < rows; ++i) start[i] = static_cast<int>(i) % few;
      MixtureModel model;
      model.structure.form = static_cast<Form>(in.below(3));
      model.structure.volume = in.below(2) == 1;
      model.structure.shape = model.structure.form != Form::spherical && in.below(2) == 1;
      model.structure.orientation = model.structure.form == Form::general && in.below(2) == 1;
      model.tails = static_cast<Tails>(in.below(2));
      MixtureSearch search;
      search.threads = threads;
      search.max_rounds = 40;
      const auto found = search_mixtures(all, {model}, few, {start.data()}, search, watch);
      need(found.size() == 1);
      if (!found[0].fit.failed) check_groups(Em(all, search.em, watch).labels(found[0].fit), rows, 0, few - 1);
      break;
    }
    case 10: {
      std::vector<int> codes(rows);
      for (int& code : codes) code = in.below(4);
      SearchSettings how;
      how.groups = few;
      how.threads = threads;
      const PrototypeFit fit = mixed_prototypes(x, {codes.data(), rows, 1}, {1.0}, how, stop);
      check_groups(fit.group, rows, 0, few - 1);
      break;
    }
    case 11: {
      const Neighbours found = nearest_neighbours(x, 1 + in.below(50), threads, watch);
      check_groups(found.row, rows * found.count, 0, static_cast<int>(rows) - 1);
      break;
    }
    case 12: {
      const StructureTest test = structure_test(x, 2, 1, in.below(2) == 1, threads, stop);
      need(!(test.observed.dip < 0.0));
      break;
    }
    default: {
      const LineCount once = count_records(data, size, {});
      LineCount twice = count_records(data, size / 2, {});
      twice = count_records(data + size / 2, size - size / 2, twice);
      need(once.records == twice.records && once.filled == twice.filled && once.quoted == twice.quoted);
    }
  }
  return 0;
}
