#include <testthat/vendor/catch.h>

#include "helper.h"
#include "products.h"

using namespace fjordline;

namespace {

Table symmetric(std::size_t n) {
  Table x = heaps(n, n, 3, 1.0, static_cast<unsigned>(n));
  for (std::size_t i = 0; i < n; ++i)
    for (std::size_t j = 0; j < i; ++j) x.at(i, j) = x.at(j, i);
  return x;
}

std::vector<double> product(const Table& matrix, const Table& block, std::size_t threads) {
  const Stop stop = never;
  Watch watch(stop);
  std::vector<double> out(block.values.size());
  symmetric_product(matrix.view(), block.view(), threads, watch, out.data());
  return out;
}

}  // namespace

TEST_CASE("a symmetric matrix times a narrow one is the sum of products, the same bits on any number of threads") {
  for (std::size_t n : {1, 2, 15, 16, 17, 63, 64, 65, 130}) {
    for (std::size_t wide : {1, 3, 4, 5, 8, 9, 25}) {
      const Table matrix = symmetric(n), block = heaps(n, wide, 2, 1.0, 7);
      const std::vector<double> out = product(matrix, block, 1);
      for (std::size_t i = 0; i < n; ++i) {
        for (std::size_t g = 0; g < wide; ++g) {
          double sum = 0.0;
          for (std::size_t j = 0; j < n; ++j) sum += matrix.at(i, j) * block.at(j, g);
          REQUIRE(out[g * n + i] == Approx(sum).margin(1e-9));
        }
      }
      for (std::size_t threads : {2, 3}) REQUIRE(product(matrix, block, threads) == out);
    }
  }
}

TEST_CASE("a large product can be stopped") {
  const Table matrix = symmetric(1500), block = heaps(1500, 20, 2, 1.0, 7);
  const Stop stop = [] { return true; };
  Watch watch(stop);
  std::vector<double> out(block.values.size());
  symmetric_product(matrix.view(), block.view(), 1, watch, out.data());  // only the first thread asks
  REQUIRE(watch.stopped());
}

TEST_CASE("products of columns are sums over rows, the same bits on any number of threads, alone and of two tables") {
  for (std::size_t n : {1, 5, 511, 512, 513, 1100}) {
    for (std::size_t down : {1, 15, 16, 17, 70}) {
      for (std::size_t across : {1, 8, 63, 64, 65}) {
        const Table left = heaps(n, down, 2, 1.0, 3), right = heaps(n, across, 2, 1.0, 5);
        const bool same = down == 70;
        const Table& other = same ? left : right;
        const Stop stop = never;
        std::vector<double> first;
        for (std::size_t threads : {1, 2, 3}) {
          Watch watch(stop);
          std::vector<double> out(down * other.cols);
          column_products(left.view(), other.view(), same, threads, watch, out.data());
          if (threads == 1) first = out;
          REQUIRE(out == first);
        }
        for (std::size_t i = 0; i < down; ++i) {
          for (std::size_t g = 0; g < other.cols; ++g) {
            double sum = 0.0;
            for (std::size_t row = 0; row < n; ++row) sum += left.at(row, i) * other.at(row, g);
            REQUIRE(first[g * down + i] == Approx(sum).epsilon(1e-10).margin(1e-8));
          }
        }
      }
    }
  }
}
