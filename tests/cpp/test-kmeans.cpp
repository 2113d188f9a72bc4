#include <testthat/vendor/catch.h>

#include <algorithm>
#include <stdexcept>

#include "helper.h"
#include "kmeans.h"

using namespace fjordline;

namespace {

KmeansSettings settings(std::size_t k, std::size_t restarts = 1) {
  KmeansSettings s;
  s.groups = k;
  s.restarts = restarts;
  return s;
}

}  // namespace

TEST_CASE("rows come out of tiles, lists and by themselves as they went in") {
  for (std::size_t cols : {1, 3, 8, 9, 21}) {
    const Table x = heaps(37, cols, 3, 3.0, 5);
    const Rows rows(x.view(), Metric::euclidean, nullptr, 1);
    RowTable back(37, cols);
    std::vector<double> one(cols);
    Lined scratch(cols * kTile), gathered(cols * kTile);
    for (std::size_t i = 0; i < 37; ++i) {
      const double* point = rows.row(i, one.data());
      std::copy(point, point + cols, back.row(i));
      const double* tile = rows.tile(i / kTile * kTile, scratch.data());
      const int list[] = {static_cast<int>(i)};
      rows.gather(list, 1, gathered.data());
      for (std::size_t j = 0; j < cols; ++j) {
        REQUIRE(tile[j * kTile + i % kTile] == point[j]);
        for (std::size_t r = 0; r < kTile; ++r) REQUIRE(gathered[j * kTile + r] == point[j]);
      }
    }
    rows.outward(back);
    for (std::size_t i = 0; i < 37; ++i)
      for (std::size_t j = 0; j < cols; ++j) REQUIRE(back.row(i)[j] == Approx(x.at(i, j)));
    REQUIRE(rows.distinct(100) == 37);
  }
}

TEST_CASE("plain and bounded rounds, one and two threads, give the same bits, and a fixed point") {
  for (Metric metric : {Metric::euclidean, Metric::cosine, Metric::correlation}) {
    for (std::size_t cols : {3, 11}) {
      const Table x = heaps(5000, cols, 6, 1.5, 2);
      std::vector<double> weight(5000);
      for (std::size_t i = 0; i < weight.size(); ++i) weight[i] = static_cast<double>(i % 4) / 3.0;
      for (const double* w : {static_cast<const double*>(nullptr), static_cast<const double*>(weight.data())}) {
        KmeansSettings s = settings(7);
        s.metric = metric;
        s.rounds = Rounds::plain;
        const KmeansFit plain = kmeans(x.view(), s, nullptr, w, never);
        s.rounds = Rounds::bounded;
        s.threads = 2;
        const KmeansFit bounded = kmeans(x.view(), s, nullptr, w, never);
        REQUIRE(plain.converged);
        REQUIRE(plain.group == bounded.group);
        REQUIRE(plain.centres.values == bounded.centres.values);
        REQUIRE(plain.objective == bounded.objective);
        if (metric != Metric::euclidean) continue;
        for (std::size_t i = 0; i < x.rows; ++i) {
          const double own = naive_square(x, i, plain.centres, plain.group[i]);
          for (std::size_t g = 0; g < 7; ++g) REQUIRE(own <= naive_square(x, i, plain.centres, g) * (1 + 1e-9));
        }
      }
    }
  }
}

TEST_CASE("all seedings and searches end well on tables that leave no room") {
  for (Seeding seeding : {Seeding::spread, Seeding::rows, Seeding::partition, Seeding::splits}) {
    for (Search search : {Search::restarts, Search::evolution}) {
      for (std::size_t rows : {1, 2, 5, 16, 17}) {
        for (std::size_t k = 1; k <= rows; ++k) {
          const Table x = heaps(rows, 2, 2, 1.0, static_cast<unsigned>(rows));
          KmeansSettings s = settings(k, 5);
          s.seeding = seeding;
          s.search = search;
          const KmeansFit fit = kmeans(x.view(), s, nullptr, nullptr, never);
          REQUIRE(fit.distinct == k);
          std::vector<int> seen(k, 0);
          for (int g : fit.group) ++seen[g];
          for (int n : seen) REQUIRE(n > 0);
          if (k == rows) REQUIRE(fit.objective == Approx(0.0).margin(1e-20));
        }
      }
    }
  }
}

TEST_CASE("duplicates, denormals, huge offsets and too few different rows") {
  Table x(60, 2);
  for (std::size_t i = 0; i < 60; ++i) {
    x.at(i, 0) = 1e8 + static_cast<double>(i % 3);
    x.at(i, 1) = static_cast<double>(i % 3) * 5e-324;
  }
  REQUIRE(kmeans(x.view(), settings(3, 4), nullptr, nullptr, never).objective == 0.0);
  const KmeansFit none = kmeans(x.view(), settings(4, 4), nullptr, nullptr, never);
  REQUIRE(none.distinct == 3);
  REQUIRE(none.group.empty());
  Table tiny(4, 1);
  for (std::size_t i = 0; i < 4; ++i) tiny.at(i, 0) = static_cast<double>(i / 2 * 7 + i % 2) * 5e-324;
  const KmeansFit pair = kmeans(tiny.view(), settings(2, 4), nullptr, nullptr, never);
  REQUIRE(pair.group[0] == pair.group[1]);
  REQUIRE(pair.group[2] == pair.group[3]);
  REQUIRE(pair.group[0] != pair.group[2]);
  Table zero(3, 2);
  KmeansSettings s = settings(1);
  s.metric = Metric::cosine;
  REQUIRE(kmeans(zero.view(), s, nullptr, nullptr, never).without_direction == 0);
}

TEST_CASE("a user who stops is heard everywhere, and nothing is left half done") {
  const Table x = heaps(20000, 10, 8, 1.0, 3);
  for (std::size_t threads : {1, 2}) {
    for (Search search : {Search::restarts, Search::evolution}) {
      for (int patience = 0; patience < 12; ++patience) {
        int asked = 0;
        KmeansSettings s = settings(12, 3);
        s.threads = threads;
        s.search = search;
        const KmeansFit fit = kmeans(x.view(), s, nullptr, nullptr, [&] { return ++asked > patience; });
        REQUIRE(fit.stopped == (asked > patience));
        REQUIRE(fit.group.empty() == fit.stopped);
        if (patience == 0) REQUIRE(fit.stopped);
      }
    }
  }
}

TEST_CASE("what a task throws is thrown again where the work was asked for") {
  for (std::size_t threads : {1, 2}) {
    REQUIRE_THROWS_AS(in_parallel(50, threads, [](std::size_t t) {
      if (t == 20) throw std::runtime_error("no");
    }), std::runtime_error);
    std::vector<int> done(50, 0);
    in_parallel(50, threads, [&](std::size_t t) { done[t] = 1; });
    for (int d : done) REQUIRE(d == 1);
  }
}

TEST_CASE("W alone is that of a fit, and groups by samples are those of the nearest centres of fits to them") {
  const Stop stop = never;
  const Table x = heaps(150, 3, 4, 3.0, 11);
  KmeansSettings settings;
  settings.restarts = 6;
  settings.seed = 5;
  settings.threads = 2;
  const std::vector<double> scatter = kmeans_scatter(x.view(), {1, 3, 6}, settings, stop);
  for (std::size_t c = 0; c < 3; ++c) {
    KmeansSettings one = settings;
    one.groups = c == 0 ? 1 : 3 * c;
    REQUIRE(scatter[c] == Approx(kmeans(x.view(), one, nullptr, nullptr, stop).objective).epsilon(1e-12));
  }
  settings.groups = 4;
  std::vector<std::vector<int>> samples(3);
  for (int i = 0; i < 150; ++i) samples[0].push_back(i);
  for (int i = 0; i < 60; ++i) samples[1].push_back(i * 7 % 150);
  samples[2] = {3, 3, 8, 8, 9};  // three different rows, four groups
  const auto labels = kmeans_by_samples(x.view(), samples, {5, 6, 7}, settings, stop);
  REQUIRE(labels[2].empty());
  for (std::size_t s = 0; s < 2; ++s) {
    Table part(samples[s].size(), 3);
    for (std::size_t i = 0; i < samples[s].size(); ++i)
      for (std::size_t j = 0; j < 3; ++j) part.at(i, j) = x.at(samples[s][i], j);
    KmeansSettings one = settings;
    one.seed = 5 + s;
    const KmeansFit fit = kmeans(part.view(), one, nullptr, nullptr, stop);
    if (s == 0) REQUIRE(labels[s] == fit.group);
    for (std::size_t i = 0; i < 150; ++i) {
      std::vector<double> away(4, 0.0);
      for (std::size_t g = 0; g < 4; ++g)
        for (std::size_t j = 0; j < 3; ++j) away[g] += std::pow(x.at(i, j) - fit.centres.row(g)[j], 2);
      REQUIRE(labels[s][i] == std::min_element(away.begin(), away.end()) - away.begin());
    }
  }
  settings.threads = 1;
  REQUIRE(kmeans_by_samples(x.view(), samples, {5, 6, 7}, settings, stop) == labels);
  settings.restarts = 10000;  // long enough for the user to be asked
  REQUIRE(kmeans_by_samples(x.view(), samples, {5, 6, 7}, settings, [] { return true; }).empty());
}
