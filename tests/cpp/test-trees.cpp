#include <testthat/vendor/catch.h>

#include <algorithm>

#include "helper.h"
#include "spanning-tree.h"
#include "tiles.h"

using namespace fjordline;

namespace {

const Stop going = never;

double apart(const Table& x, const std::vector<double>& core, std::size_t a, std::size_t b) {
  double sum = 0.0;
  for (std::size_t j = 0; j < x.cols; ++j) sum += std::pow(x.at(a, j) - x.at(b, j), 2);
  return core.empty() ? std::sqrt(sum) : std::max({std::sqrt(sum), core[a], core[b]});
}

// Kruskal: all pairs in their order, each taken that joins two groups.
std::vector<Edge> naive_tree(const Table& x, const std::vector<double>& core) {
  std::vector<Edge> all, out;
  for (std::size_t b = 0; b < x.rows; ++b)
    for (std::size_t a = 0; a < b; ++a)
      all.push_back({apart(x, core, a, b), static_cast<int>(a), static_cast<int>(b)});
  std::sort(all.begin(), all.end());
  Joined joined(x.rows);
  for (const Edge& edge : all) {
    const int a = joined.lowest(edge.low), b = joined.lowest(edge.high);
    if (a == b) continue;
    joined.join(a, b);
    out.push_back(edge);
  }
  return out;
}

void require_tree(const Table& x, const std::vector<double>& core, const std::vector<Edge>& expected) {
  Watch watch(going);
  for (auto way : {spanning_tree_by_rows, spanning_tree_by_boxes}) {
    std::vector<Edge> tree = way(x.view(), core.empty() ? nullptr : core.data(), 2, watch);
    std::sort(tree.begin(), tree.end());
    REQUIRE(tree.size() == expected.size());
    for (std::size_t e = 0; e < tree.size(); ++e) {
      REQUIRE(tree[e].length == Approx(expected[e].length).epsilon(1e-8));
      REQUIRE(tree[e].low == expected[e].low);
      REQUIRE(tree[e].high == expected[e].high);
    }
  }
}

void require_same(const Table& x, const std::vector<double>& core, Watch& watch) {
  const double* given = core.empty() ? nullptr : core.data();
  std::vector<Edge> rows = spanning_tree_by_rows(x.view(), given, 2, watch);
  std::vector<Edge> boxes = spanning_tree_by_boxes(x.view(), given, 2, watch);
  std::sort(rows.begin(), rows.end());
  std::sort(boxes.begin(), boxes.end());
  REQUIRE(rows.size() == boxes.size());
  bool same = true;
  for (std::size_t e = 0; e < rows.size(); ++e)
    same = same && rows[e].length == boxes[e].length && rows[e].low == boxes[e].low && rows[e].high == boxes[e].high;
  REQUIRE(same);
}

}  // namespace

TEST_CASE("tiles are passed over in single precision up to the first with a row in reach") {
  for (const TileKernels* kernels : all_tile_kernels()) {
    for (std::size_t cols : {1, 2, 3, 16, 17}) {
      const std::size_t tiles = 5, rows = tiles * kTile;
      const Table x = heaps(rows, cols, 1, 0.0, static_cast<unsigned>(cols));
      std::vector<float> brief(rows * cols), reach(rows, -1.0f);
      for (std::size_t i = 0; i < rows; ++i)
        for (std::size_t j = 0; j < cols; ++j)
          brief[i / kTile * kTile * cols + j * kTile + i % kTile] = static_cast<float>(x.at(i, j));
      const std::vector<float> centre(cols, 0.5f);
      REQUIRE(kernels->beyond(brief.data(), tiles, cols, centre.data(), reach.data()) == tiles);
      for (std::size_t i = 0; i < rows; ++i) {
        double square = 0.0;
        for (std::size_t j = 0; j < cols; ++j) square += std::pow(x.at(i, j) - 0.5, 2);
        reach[i] = static_cast<float>(square * 1.001);
        REQUIRE(kernels->beyond(brief.data(), tiles, cols, centre.data(), reach.data()) == i / kTile);
        reach[i] = static_cast<float>(square * 0.999);
        REQUIRE(kernels->beyond(brief.data(), tiles, cols, centre.data(), reach.data()) == tiles);
      }
    }
  }
}

TEST_CASE("the spanning tree is the one of all pairs in order, whatever single precision loses") {
  for (std::size_t cols : {1, 2, 3, 16, 17}) {
    for (std::size_t rows : {2, 16, 17, 300}) {
      Table x = heaps(rows, cols, 3, 3.0, static_cast<unsigned>(rows + cols));
      std::vector<double> core;
      require_tree(x, core, naive_tree(x, core));
      require_tree(x, std::vector<double>(rows, 5.0), naive_tree(x, std::vector<double>(rows, 5.0)));
      for (std::size_t i = 0; i < rows; ++i) core.push_back(0.3 + 0.01 * static_cast<double>(i * 7 % 100));
      require_tree(x, core, naive_tree(x, core));
      Table far = x;  // differences of the others are below what single precision tells apart
      far.at(rows - 1, 0) += 1e7;
      require_tree(far, {}, naive_tree(far, {}));
      for (double& value : x.values) value = std::round(value);  // many equal rows, many equal lengths
      require_tree(x, {}, naive_tree(x, {}));
      for (double& value : x.values) value = 4.0;
      require_tree(x, {}, naive_tree(x, {}));
    }
  }
}

TEST_CASE("two threads find the spanning tree of one, in tables long enough to be shared and for either way") {
  for (std::size_t cols : {2, 501}) {
    Table x = heaps(cols == 2 ? 20000 : 2000, cols, 4, 1.0, 7);
    for (double& value : x.values) value = std::round(8.0 * value) / 8.0;  // equal lengths, where order matters
    Watch watch(going);
    const std::vector<Edge> one = spanning_tree(x.view(), nullptr, 1, watch);
    const std::vector<Edge> two = spanning_tree(x.view(), nullptr, 2, watch);
    REQUIRE(one.size() == x.rows - 1);
    bool same = true;
    for (std::size_t e = 0; e < one.size(); ++e)
      same = same && one[e].length == two[e].length && one[e].low == two[e].low && one[e].high == two[e].high;
    REQUIRE(same);
  }
}

TEST_CASE("the two ways to a spanning tree agree on a long table with equal lengths and core distances") {
  Table x = heaps(4000, 3, 5, 4.0, 11);
  for (double& value : x.values) value = std::round(4.0 * value) / 4.0;
  for (std::size_t i = 0; i < 600; ++i)
    for (std::size_t j = 0; j < 3; ++j) x.at(6 * i + j, j) = static_cast<double>(i % 3 == j);  // a few rows many times
  Watch watch(going);
  require_same(x, {}, watch);
  std::vector<double> core(x.rows);
  for (std::size_t i = 0; i < x.rows; ++i) core[i] = 0.25 * static_cast<double>(i * 7 % 6);
  require_same(x, core, watch);
  for (std::size_t i = 0; i < x.rows; ++i) core[i] = i % 5 == 0 ? 0.5 : 0.0;
  require_same(x, core, watch);
  for (double& value : x.values) value = value > 0.0;  // eight places
  require_same(x, {}, watch);
  require_same(x, std::vector<double>(x.rows, 0.0), watch);
  require_same(x, core, watch);
}
