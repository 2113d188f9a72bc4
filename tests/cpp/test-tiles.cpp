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
      REQUIRE(blocks.which[which[r]] == 2);
      REQUIRE(best[r] == 1.0);
      REQUIRE(second[r] == 1.0);
    }
  }
}
