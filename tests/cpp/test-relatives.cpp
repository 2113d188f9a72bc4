#include <testthat/vendor/catch.h>

#include "batches.h"
#include "dip.h"
#include "fuzzy.h"
#include "helper.h"
#include "kmeans.h"
#include "medoids.h"
#include "neighbours.h"
#include "prototypes.h"

using namespace fjordline;

TEST_CASE("medoids: labels go to the nearest, under every metric and from a given matrix") {
  const Table x = heaps(70, 3, 3, 4.0, 6);
  for (Metric metric : {Metric::euclidean, Metric::cosine, Metric::correlation, Metric::manhattan, Metric::chebyshev}) {
    const auto distances = distances_of(x.view(), metric, 1);
    Table square(70, 70);
    for (std::size_t i = 0; i < 70; ++i) distances->from(i, &square.values[i * 70]);
    for (std::size_t k : {1, 2, 5, 70}) {
      SearchSettings s;
      s.groups = k;
      s.restarts = 2;
      s.threads = 2;
      const MedoidFit fit = medoids(*distances, s, never);
      const MedoidFit given = medoids(*given_distances(square.view()), s, never);
      REQUIRE(fit.medoid == given.medoid);
      double sum = 0.0;
      for (std::size_t i = 0; i < 70; ++i) {
        const double own = square.at(i, fit.medoid[fit.group[i]]);
        sum += own;
        for (int m : fit.medoid) REQUIRE(own <= square.at(i, m) + 1e-12);
      }
      REQUIRE(fit.objective == Approx(sum).margin(1e-9));
      REQUIRE(fit.converged);
    }
  }
  SearchSettings s;
  s.groups = 3;
  REQUIRE(medoids(*distances_of(heaps(3000, 4, 2, 1.0, 1).view(), Metric::euclidean, 1), s, [] { return true; }).stopped);
}

TEST_CASE("fuzzy: memberships add up to one; too few different rows are told; it can be stopped") {
  const Table x = heaps(200, 9, 3, 3.0, 2);
  FuzzySettings s;
  s.groups = 3;
  s.threads = 2;
  const FuzzyFit fit = fuzzy_means(x.view(), s, never);
  REQUIRE(fit.converged);
  Table centres(3, 9);
  for (std::size_t g = 0; g < 3; ++g)
    for (std::size_t j = 0; j < 9; ++j) centres.at(g, j) = fit.centres.row(g)[j];
  const std::vector<double> share = memberships(x.view(), centres.view(), 2.0, 2);
  for (std::size_t i = 0; i < 200; ++i) REQUIRE(share[i] + share[200 + i] + share[400 + i] == Approx(1.0));
  s.groups = 201;
  REQUIRE(fuzzy_means(x.view(), s, never).distinct == 200);
  s.groups = 3;
  s.max_rounds = 1000000;
  s.tolerance = 0.0;
  REQUIRE(fuzzy_means(heaps(20000, 9, 3, 1.0, 2).view(), s, [] { return true; }).stopped);
}

TEST_CASE("prototypes: every group is in use, levels may be unknown, no category and no number at all") {
  const Table x = heaps(90, 2, 3, 3.0, 4);
  std::vector<int> code(180);
  for (std::size_t i = 0; i < 180; ++i) code[i] = static_cast<int>(i % 5) - 1;
  const Levels levels{code.data(), 90, 2};
  SearchSettings s;
  s.groups = 4;
  s.restarts = 9;
  s.threads = 2;
  for (const Table& numbers : {x, Table(90, 0)}) {
    const PrototypeFit fit = mixed_prototypes(numbers.view(), levels, {1.0, 2.0}, s, never);
    std::vector<int> seen(4, 0);
    for (int g : fit.group) ++seen[g];
    for (int n : seen) REQUIRE(n > 0);
    REQUIRE(fit.reached.size() == 9);
  }
  REQUIRE(mixed_prototypes(x.view(), Levels{nullptr, 90, 0}, {}, s, never).converged);
}

TEST_CASE("batches keep the mean of all they were given") {
  const Table x = heaps(1000, 3, 1, 1.0, 9);
  RowTable centre(1, 3);
  std::vector<double> mass(1, 0.0);
  batch_pass(x.view(), Metric::euclidean, 77, centre, mass);
  REQUIRE(mass[0] == 1000.0);
  for (std::size_t j = 0; j < 3; ++j) {
    double mean = 0.0;
    for (std::size_t i = 0; i < 1000; ++i) mean += x.at(i, j) / 1000.0;
    REQUIRE(centre.row(0)[j] == Approx(mean));
  }
}

TEST_CASE("the other kernels run clean") {
  const Table x = heaps(300, 4, 3, 3.0, 1);
  std::vector<int> group(300);
  for (std::size_t i = 0; i < 300; ++i) group[i] = static_cast<int>(i % 3) + 1;
  const Stop stop = never;
  Watch watch(stop);
  const Neighbours near = nearest_neighbours(x.view(), 5, 2, watch);
  REQUIRE(near.row.size() == 1500);
  const std::vector<double> fifth = neighbour_distances(x.view(), 5, 2, watch);
  for (std::size_t i = 0; i < 300; ++i) REQUIRE(fifth[i] == near.distance[5 * i + 4]);
  const GroupScatter out = group_scatter(x.view(), group.data(), 3);
  REQUIRE(out.scatter.size() == 3);
  REQUIRE(nearest_centres(x.view(), by_rows(x.view()), Metric::manhattan, 2).group[299] == 299);
}
