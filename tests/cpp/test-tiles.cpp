#include <testthat/vendor/catch.h>

#include "helper.h"
#include "tiles.h"

using namespace fjordline;

TEST_CASE("every instruction set scores tiles as the definitions do, for all awkward sizes") {
  for (const TileKernels* kernels : all_tile_kernels()) {
    for (std::size_t cols : {1, 2, 3, 7, 8, 9, 16, 23, 40}) {
      for (std::size_t k : {1, 2, 3, 4, 5, 7, 8, 9, 10, 12, 16, 19}) {
        const Table x = heaps(kTile, cols, 4, 2.0, static_cast<unsigned>(cols * 31 + k));
        const Table c = heaps(k, cols, 4, 2.0, static_cast<unsigned>(k));
        const RowTable rows = by_rows(x.view()), centres = by_rows(c.view());
        std::vector<const double*> pointers;
        for (std::size_t r = 0; r < kTile; ++r) pointers.push_back(rows.row(r));
        Lined tile(cols * kTile);
        kernels->turn(pointers.data(), cols, tile.data());
        CentreBlocks products, differences;
        products.pack(centres, nullptr, k, false);
        differences.pack(centres, nullptr, k, true);
        double best[kTile], second[kTile], length[kTile], to[kTile];
        int which[kTile];
        kernels->lengths(tile.data(), cols, length);
        Lined all((k + kBlock) * kTile);
        kernels->distances(tile.data(), cols, differences, all.data());
        Lined product((k + kBlock) * kTile);
        kernels->products(tile.data(), cols, differences, product.data());
        for (int way = 0; way < 3; ++way) {
          if (way == 0) kernels->nearest(tile.data(), cols, products, best, which);
          if (way == 1) kernels->nearest_two(tile.data(), cols, products, best, second, which);
          if (way == 2) kernels->nearest_exact(tile.data(), cols, differences, best, second, which);
          for (std::size_t r = 0; r < kTile; ++r) {
            double least = INFINITY, next = INFINITY;
            std::size_t place = 0;
            for (std::size_t g = 0; g < k; ++g) {
              const double d = naive_square(x, r, centres, g);
              REQUIRE(all[g * kTile + r] == Approx(d));
              double sum = 0.0;
              for (std::size_t j = 0; j < cols; ++j) sum += x.at(r, j) * c.at(g, j);
              REQUIRE(product[g * kTile + r] == Approx(sum).margin(1e-9));
              if (d < least) {
                next = least;
                least = d;
                place = g;
              } else if (d < next) {
                next = d;
              }
            }
            REQUIRE(which[r] == static_cast<int>(place));
            const double scale = way == 2 ? 1.0 : 2.0, base = way == 2 ? 0.0 : length[r];
            REQUIRE(base + scale * best[r] == Approx(least).margin(1e-9));
            if (way > 0 && k > 1) REQUIRE(base + scale * second[r] == Approx(next).margin(1e-9));
            if (way > 0 && k == 1) REQUIRE(std::isinf(second[r]));
          }
        }
        kernels->distance_to(tile.data(), cols, centres.row(k - 1), to);
        for (std::size_t r = 0; r < kTile; ++r) REQUIRE(to[r] == Approx(naive_square(x, r, centres, k - 1)));
      }
    }
  }
}

TEST_CASE("nearest distances are lowered, summed and told apart as the definitions do") {
  for (std::size_t cols : {1, 2, 6, 8}) {
    const Table x = heaps(kTile, cols, 3, 2.0, static_cast<unsigned>(cols)), c = heaps(3, cols, 3, 2.0, 9);
    const RowTable rows = by_rows(x.view()), centres = by_rows(c.view());
    std::vector<const double*> pointers;
    for (std::size_t r = 0; r < kTile; ++r) pointers.push_back(rows.row(r));
    std::vector<double> sums;
    for (const TileKernels* kernels : all_tile_kernels()) {
      Lined tile(cols * kTile);
      kernels->turn(pointers.data(), cols, tile.data());
      double nearest[kTile], expected[kTile], lanes[kTile], sum = 0.0;
      for (std::size_t r = 0; r < kTile; ++r) {
        nearest[r] = naive_square(x, r, centres, 0);
        expected[r] = std::min(nearest[r], naive_square(x, r, centres, 1));
        sum += expected[r];
        lanes[r] = 1.0;
      }
      sums.push_back(kernels->lower(tile.data(), cols, centres.row(1), nearest));
      REQUIRE(sums.back() == Approx(sum));
      double third[kTile];
      kernels->distance_to(tile.data(), cols, centres.row(2), third);
      kernels->add_smaller(nearest, third, lanes);
      for (std::size_t r = 0; r < kTile; ++r) {
        REQUIRE(nearest[r] == Approx(expected[r]));
        REQUIRE(lanes[r] == Approx(1.0 + std::min(expected[r], naive_square(x, r, centres, 2))));
      }
    }
  }
  // one row of sixteen, wherever it is, has a second centre within the slack, or within what is allowed
  double best[kTile], second[kTile], length[kTile];
  for (const TileKernels* kernels : all_tile_kernels()) {
    for (std::size_t odd = 0; odd < kTile; ++odd) {
      for (std::size_t r = 0; r < kTile; ++r) {
        best[r] = -1.0;      // squared distance 2
        second[r] = r == odd ? -0.5 : 3.0;  // 3, the others 10
        length[r] = 4.0;
      }
      REQUIRE(kernels->rivals(best, second, length, 0.0, 1.4) == 0u);
      REQUIRE(kernels->rivals(best, second, length, 0.0, 1.6) == 1u << odd);
      REQUIRE(kernels->rivals(best, second, length, 0.6, 1.0) == 1u << odd);
      REQUIRE(kernels->rivals(best, second, length, 0.4, 1.0) == 0u);
    }
  }
}

TEST_CASE("of equal centres the first is taken, and a list keeps the numbers of its centres") {
  RowTable centres(5, 2);
  for (std::size_t g = 0; g < 5; ++g) centres.row(g)[0] = g == 0 ? 9.0 : 1.0;
  const int list[] = {0, 2, 4};
  Lined tile(2 * kTile, 0.0);
  double best[kTile], second[kTile];
  int which[kTile];
  for (const TileKernels* kernels : all_tile_kernels()) {
    CentreBlocks blocks;
    blocks.pack(centres, list, 3, true);
    kernels->nearest_exact(tile.data(), 2, blocks, best, second, which);
    for (std::size_t r = 0; r < kTile; ++r) {
      REQUIRE(which[r] == 2);
      REQUIRE(best[r] == 1.0);
      REQUIRE(second[r] == 1.0);
    }
  }
}

TEST_CASE("a run of tiles ends at the first row that has a nearer centre") {
  const Table x = heaps(7 * kTile, 2, 3, 4.0, 3);
  Lined tiles(7 * kTile * 2);
  for (std::size_t i = 0; i < 7 * kTile; ++i)
    for (std::size_t j = 0; j < 2; ++j) tiles[i / kTile * kTile * 2 + j * kTile + i % kTile] = x.at(i, j);
  RowTable centres(5, 2);
  for (std::size_t g = 0; g < 5; ++g)
    for (std::size_t j = 0; j < 2; ++j) centres.row(g)[j] = x.at(g * 11, j);
  CentreBlocks blocks;
  blocks.pack(centres, nullptr, 5, false);
  for (const TileKernels* kernels : all_tile_kernels()) {
    std::vector<int> group(7 * kTile);
    double best[kTile];
    int which[kTile];
    for (std::size_t t = 0; t < 7; ++t)
      kernels->nearest(tiles.data() + t * kTile * 2, 2, blocks, best, group.data() + t * kTile);
    REQUIRE(kernels->unchanged(tiles.data(), 7, 2, blocks, group.data(), which) == 7);
    REQUIRE(kernels->unchanged(tiles.data(), 0, 2, blocks, group.data(), which) == 0);
    for (std::size_t row : {0, 15, 16, 53, 111}) {
      const int right = group[row];
      group[row] = (right + 1) % 5;
      REQUIRE(kernels->unchanged(tiles.data(), 7, 2, blocks, group.data(), which) == row / kTile);
      REQUIRE(which[row % kTile] == right);
      REQUIRE(kernels->differ(which, group.data() + row / kTile * kTile) == 1u << row % kTile);
      group[row] = right;
    }
  }
}

TEST_CASE("bounds move as written out for one row, and whatever may change is listed") {
  const float up[] = {0.5f, 0.0f, 0.1f}, gap[] = {4.0f, 3.0f, 10.0f}, allowed[] = {1.0f, 1.5f, 1.1f};
  for (const TileKernels* kernels : all_tile_kernels()) {
    for (std::size_t count : {1, 7, 16, 45}) {
      for (const float* allow : {static_cast<const float*>(nullptr), static_cast<const float*>(allowed)}) {
        const BoundMoves moves{up, gap, allow, 0, 0.5f, 0.1f, 1e-6f};
        std::vector<int> group(count), meet(count);
        std::vector<float> upper(count), lower(count), high(count), low(count);
        std::vector<int> expected;
        for (std::size_t i = 0; i < count; ++i) {
          group[i] = static_cast<int>(i % 3);
          upper[i] = 0.2f + 0.13f * static_cast<float>(i % 11);
          lower[i] = 0.05f + 0.31f * static_cast<float>(i % 7);
          if (i % 13 == 5) upper[i] = INFINITY;
          high[i] = upper[i] + up[group[i]];
          low[i] = std::max(0.0f, lower[i] - (group[i] == 0 ? 0.1f : 0.5f));
          const float other = std::max(low[i], gap[group[i]] - high[i]);
          const float factor = allow ? allow[group[i]] : 1.0f;
          if (!(other > 0.0f && high[i] * high[i] * factor + 1e-6f < other * other)) expected.push_back(static_cast<int>(i));
        }
        meet.resize(kernels->move_bounds(moves, group.data(), count, upper.data(), lower.data(), meet.data()));
        REQUIRE(meet == expected);
        for (std::size_t i = 0; i < count; ++i) {
          REQUIRE(upper[i] >= high[i]);  // rounded to the safe side
          REQUIRE(lower[i] <= low[i]);
          if (std::isfinite(high[i])) REQUIRE(upper[i] == Approx(high[i]));
          REQUIRE(lower[i] == Approx(low[i]).margin(1e-6));
        }
      }
    }
  }
}

TEST_CASE("a row is added and a column looked along as plain loops do") {
  for (const TileKernels* kernels : all_tile_kernels()) {
    for (std::size_t cols : {1, 7, 8, 21}) {
      std::vector<double> row(cols), centre(cols), sum(cols, 1.0);
      double distance = 0.0, total = 0.0, least = INFINITY, most = -INFINITY;
      for (std::size_t j = 0; j < cols; ++j) {
        row[j] = std::sin(1.0 + static_cast<double>(j * j));
        centre[j] = 0.25 * static_cast<double>(j);
        distance += (row[j] - centre[j]) * (row[j] - centre[j]);
        total += 0.5 * (row[j] - row[0]);
        least = std::min(least, row[j]);
        most = std::max(most, row[j]);
      }
      REQUIRE(kernels->add_row(row.data(), centre.data(), cols, 0.5, sum.data()) == Approx(distance));
      for (std::size_t j = 0; j < cols; ++j) REQUIRE(sum[j] == Approx(1.0 + 0.5 * row[j]));
      double found_total, found_least, found_most;
      kernels->look_along(row.data(), cols, 0.5, &found_total, &found_least, &found_most);
      REQUIRE(found_total == Approx(total).margin(1e-12));
      REQUIRE(found_least == least);
      REQUIRE(found_most == most);
    }
  }
}
