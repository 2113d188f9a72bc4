#include <testthat/vendor/catch.h>

#include <algorithm>
#include <cmath>

#include "helper.h"
#include "linkage.h"
#include "pairs.h"
#include "parallel.h"

using namespace fjordline;

TEST_CASE("distances too large for single precision are as large as it can say, and every group has a nearest") {
  Table x(5, 1);
  const double values[] = {6.4, 3.2e118, -4.7, 3.7e-67, -1.0};
  std::copy(values, values + 5, x.values.begin());
  const Stop stop = never;
  Watch watch(stop);
  const PairBlocks pairs(x.view(), Metric::euclidean, 1);
  for (Join join : {Join::complete, Join::average, Join::weighted, Join::ward, Join::centroid, Join::median}) {
    const Merges merges = link_matrix(pairs, join, true, 1, watch);
    REQUIRE(merges.size() == 4);
    for (const Merge& merge : merges) REQUIRE(std::isfinite(merge.height));
  }
}
