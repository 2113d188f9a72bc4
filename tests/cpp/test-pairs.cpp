#include <testthat/vendor/catch.h>

#include "density.h"
#include "helper.h"
#include "groupless.h"
#include "pairs.h"
#include "structure.h"

using namespace fjordline;

namespace {

std::vector<int> labels(std::size_t rows, int groups) {
  std::vector<int> out(rows);
  for (std::size_t i = 0; i < rows; ++i) out[i] = static_cast<int>(i % static_cast<std::size_t>(groups + 1));  // 0: left out
  return out;
}

double distance(const Table& x, std::size_t i, std::size_t l) {
  double sum = 0.0;
  for (std::size_t j = 0; j < x.cols; ++j) sum += std::pow(x.at(i, j) - x.at(l, j), 2);
  return std::sqrt(sum);
}

}  // namespace

TEST_CASE("sums over pairs equal a double loop, for one and several threads, at awkward sizes") {
  for (std::size_t rows : {2, 15, 16, 17, 255, 257, 530}) {
    const Table x = heaps(rows, 3, 4, 3.0, static_cast<unsigned>(rows));
    const std::vector<int> group = labels(rows, 3);
    const Labelings labelings{group.data(), {3}};
    const PairBlocks pairs(x.view(), Metric::euclidean, 1);
    std::vector<PairSums> one, two;
    REQUIRE(pair_sums(pairs, labelings, 1, never, one));
    REQUIRE(pair_sums(pairs, labelings, 2, never, two));
    REQUIRE(one[0].between == two[0].between);
    std::vector<double> sum(9, 0.0);
    double between = INFINITY, within = 0.0;
    for (std::size_t i = 0; i < rows; ++i) {
      for (std::size_t l = 0; l < rows; ++l) {
        if (i == l || group[i] == 0 || group[l] == 0) continue;
        const double d = distance(x, i, l);
        sum[static_cast<std::size_t>((group[i] - 1) * 3 + group[l] - 1)] += d;
        if (group[i] == group[l]) within = std::max(within, d);
        else between = std::min(between, d);
      }
    }
    for (std::size_t c = 0; c < 9; ++c) REQUIRE(one[0].between[c] == Approx(sum[c]).margin(1e-9));
    std::vector<PairEnds> ends;
    REQUIRE(pair_ends(pairs, labelings, 2, never, ends));
    REQUIRE(ends[0].within == Approx(within));
    if (std::isfinite(between)) REQUIRE(ends[0].between == Approx(between));
    std::vector<PairOrder> order;
    REQUIRE(pair_order(pairs, labelings, 2, never, order));
    REQUIRE(order[0].within == Approx((sum[0] + sum[4] + sum[8]) / 2).margin(1e-9));
    REQUIRE(order[0].smallest <= order[0].within + 1e-9);
    REQUIRE(order[0].largest >= order[0].within - 1e-9);
    std::vector<double> validity;
    REQUIRE(density_validity(pairs, labelings, 3.0, 2, never, validity));
    REQUIRE(std::fabs(validity[0]) <= 1.0);
  }
}

TEST_CASE("the test for groups is the same for any number of threads, and can be stopped") {
  const Table x = heaps(60, 3, 2, 5.0, 4);
  const StructureTest one = structure_test(x.view(), 0, 20, 1, true, 1, never);
  const StructureTest two = structure_test(x.view(), 0, 20, 1, true, 2, never);
  REQUIRE(one.dips == two.dips);
  REQUIRE(one.runts == two.runts);
  REQUIRE(one.betweens == two.betweens);
  REQUIRE(one.betweens.size() == 20 * 5 * kStraightKinds);
  REQUIRE(structure_test(x.view(), 0, 20, 1, false, 1, never).betweens.empty());
  REQUIRE(one.observed.dip > 0.0);
  REQUIRE(one.observed.runt >= 1.0);
  const Table large = heaps(1000, 3, 2, 5.0, 4);
  REQUIRE(structure_test(large.view(), 0, 2000, 1, true, 1, [] { return true; }).stopped);
}
