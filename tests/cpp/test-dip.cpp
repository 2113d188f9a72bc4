#include <testthat/vendor/catch.h>

#include <algorithm>

#include "dip.h"
#include "helper.h"

using namespace fjordline;

namespace {

// One heap, two, many equal values, or evenly spread.
std::vector<double> sorted_sample(int kind, unsigned seed) {
  std::mt19937 random(seed);
  std::normal_distribution<double> normal;
  std::uniform_real_distribution<double> even;
  std::vector<double> out(20 + seed * 37 % 200);
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double value = kind == 3 ? even(random) : normal(random) + (kind == 1 && i % 2 == 0 ? 5.0 : 0.0);
    out[i] = kind == 2 ? std::round(2.0 * value) : value;
  }
  std::sort(out.begin(), out.end());
  return out;
}

}  // namespace

TEST_CASE("a dip that need only be over something is the dip if it is, and never seems larger than it is") {
  for (int kind = 0; kind < 4; ++kind) {
    for (unsigned seed = 1; seed <= 40; ++seed) {
      const std::vector<double> sample = sorted_sample(kind, seed);
      const double whole = dip(sample);
      for (double share : {0.0, 0.3, 0.9, 1.1, 3.0}) {
        const DipWithin found = dip_over(share * whole, sample.data(), sample.size());
        REQUIRE(found.value <= whole * (1.0 + 1e-12));
        REQUIRE(found.limit >= whole * (1.0 - 1e-12));
        if (share < 1.0) REQUIRE(found.value == Approx(whole));
      }
    }
  }
}

TEST_CASE("in rows, no part of a sample dips deeper than the whole, nor a part of the part") {
  for (int kind = 0; kind < 4; ++kind) {
    for (unsigned seed = 1; seed <= 40; ++seed) {
      const std::vector<double> sample = sorted_sample(kind, seed);
      const auto depth = [&](std::size_t from, std::size_t to) {
        return dip_over(0.0, sample.data() + from, to - from).value * static_cast<double>(to - from);
      };
      double below = depth(0, sample.size()), above = below;
      for (std::size_t many = sample.size() - 1; many >= 5; --many) {
        const double low = depth(0, many), high = depth(sample.size() - many, sample.size());
        REQUIRE(low <= below * (1.0 + 1e-12));
        REQUIRE(high <= above * (1.0 + 1e-12));
        below = low;
        above = high;
      }
    }
  }
}
