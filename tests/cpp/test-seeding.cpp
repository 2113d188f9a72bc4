#include <testthat/vendor/catch.h>

#include <algorithm>

#include "helper.h"
#include "seeding.h"

using namespace fjordline;

namespace {

// Squared distances of all rows to the nearest of some centres, times the weight.
std::vector<double> naive_spread(const RowTable& rows, const std::vector<double>& weight,
                                 const std::vector<const double*>& centres) {
  std::vector<double> out(rows.rows, INFINITY);
  for (std::size_t i = 0; i < rows.rows; ++i)
    for (const double* centre : centres) {
      double sum = 0.0;
      for (std::size_t j = 0; j < rows.cols; ++j) sum += std::pow(rows.row(i)[j] - centre[j], 2);
      out[i] = std::min(out[i], sum * (weight.empty() ? 1.0 : weight[i]));
    }
  return out;
}

double total(const std::vector<double>& values) {
  double sum = 0.0;
  for (double v : values) sum += v;
  return sum;
}

}  // namespace

TEST_CASE("spreads are those of the definition as centres come, for rows that fill no tile and with weights") {
  const Stop stop = never;
  for (std::size_t n : {1, 15, 16, 17, 100, 4096, 4130}) {
    for (std::size_t cols : {2, 9}) {
      for (bool weighted : {false, true}) {
        const Table x = heaps(n, cols, 3, 5.0, static_cast<unsigned>(n + cols));
        std::vector<double> weight;
        for (std::size_t i = 0; weighted && i < n; ++i) weight.push_back(i % 5 == 4 ? 0.0 : 1.0 + i % 3);
        const Rows rows(x.view(), Metric::euclidean, weighted ? weight.data() : nullptr, 2);
        RowTable own(n, cols);
        std::vector<double> one(cols);
        for (std::size_t i = 0; i < n; ++i) std::copy_n(rows.row(i, one.data()), cols, own.row(i));
        Watch watch(stop);
        Spread spread(rows, 2, watch);
        REQUIRE(spread.sum() == Approx(weighted ? total(weight) : static_cast<double>(n)));
        std::vector<const double*> centres;
        for (std::size_t c : {std::size_t{0}, n / 2, n - 1}) {
          RowTable candidates(2, cols);
          std::copy_n(own.row(c), cols, candidates.row(0));
          std::copy_n(own.row(n / 3), cols, candidates.row(1));
          if (!centres.empty()) {  // before the first centre there is nothing to lower
            const std::vector<double> sums = spread.sums_with(candidates);
            for (std::size_t k = 0; k < 2; ++k) {
              std::vector<const double*> more = centres;
              more.push_back(candidates.row(k));
              REQUIRE(sums[k] == Approx(total(naive_spread(own, weight, more))).margin(1e-12));
            }
          }
          if (centres.empty()) spread.add(own.row(c));
          else spread.add_one_of(candidates, 0);
          centres.push_back(own.row(c));
          REQUIRE(spread.sum() == Approx(total(naive_spread(own, weight, centres))).margin(1e-12));
        }
      }
    }
  }
}

TEST_CASE("rows are drawn as often as their spread says, never one without any") {
  const Stop stop = never;
  const std::size_t n = 40;
  Table x(n, 1);
  for (std::size_t i = 0; i < n; ++i) x.at(i, 0) = i < 20 ? 0.0 : i < 30 ? 1.0 : 3.0;
  const Rows rows(x.view(), Metric::euclidean, nullptr, 1);
  Watch watch(stop);
  Spread spread(rows, 1, watch);
  Stream first(3, {1});
  std::vector<int> before(n, 0);
  for (int draw = 0; draw < 40000; ++draw) ++before[spread.draw(first)];
  for (int count : before) REQUIRE(std::fabs(count - 1000) < 160);  // five standard deviations
  std::vector<double> one(1);
  spread.add(rows.row(0, one.data()));
  std::vector<int> after(n, 0);
  for (int draw = 0; draw < 100000; ++draw) ++after[spread.draw(first)];
  for (std::size_t i = 0; i < n; ++i) {
    if (i < 20) REQUIRE(after[i] == 0);
    else REQUIRE(std::fabs(after[i] - (i < 30 ? 1000 : 9000)) < (i < 30 ? 160 : 460));
  }
}
