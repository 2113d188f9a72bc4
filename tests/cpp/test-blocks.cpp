#include <testthat/vendor/catch.h>

#include <cmath>

#include "blocks.h"
#include "covariance.h"
#include "dbscan.h"
#include "hdbscan.h"
#include "helper.h"
#include "linkage.h"
#include "mean-shift.h"
#include "mixture-search.h"

using namespace fjordline;

namespace {

const Stop going = never;

}  // namespace

TEST_CASE("a table in blocks gives its rows back, and fills the last block with copies") {
  const Table x = heaps(300, 5, 3, 3.0, 2);
  const Rows rows(x.view(), Metric::euclidean, nullptr, 1);
  const BlockTable blocks(rows, 2);
  std::vector<double> one(5);
  REQUIRE(blocks.blocks() == 2);
  REQUIRE(blocks.padded(1) == 48);
  for (std::size_t i = 0; i < 300; ++i)
    for (std::size_t j = 0; j < 5; ++j) REQUIRE(blocks.at(i, j) == rows.row(i, one.data())[j]);
  for (std::size_t i = 44; i < 48; ++i) REQUIRE(blocks.column(1, 3)[i] == blocks.at(299, 3));
}

TEST_CASE("block kernels are right under every instruction set") {
  const std::size_t rows = 48;
  for (std::size_t cols : {1, 3, 4, 7, 12}) {
    const Table x = heaps(rows, cols, 2, 2.0, 7);
    const Rows table(x.view(), Metric::euclidean, nullptr, 1);
    const BlockTable blocks(table, 1);
    const double* values = blocks.column(0, 0);
    std::vector<double> centre(cols), triangle(cols * cols, 0.0), factor(cols);
    for (std::size_t r = 0; r < cols; ++r) {
      centre[r] = 0.1 * static_cast<double>(r) - 0.2;
      factor[r] = 1.0 + static_cast<double>(r);
      for (std::size_t c = 0; c <= r; ++c) triangle[r * cols + c] = std::cos(static_cast<double>(3 * r + c));
    }
    Lined packed;
    pack_triangle(triangle.data(), cols, packed);
    for (const BlockKernels* kernels : all_block_kernels()) {
      Lined out(kBlockRows), gaps(cols * kBlockRows), pulled(cols * kBlockRows), weight(kBlockRows);
      kernels->lengths(values, centre.data(), packed.data(), rows, cols, out.data());
      for (std::size_t i = 0; i < rows; ++i) {
        double length = 0.0;
        for (std::size_t r = 0; r < cols; ++r) {
          double sum = 0.0;
          for (std::size_t c = 0; c <= r; ++c) sum += triangle[r * cols + c] * (blocks.at(i, c) - centre[c]);
          length += sum * sum;
        }
        REQUIRE(out[i] == Approx(length).epsilon(1e-12));
      }
      kernels->weighted(values, centre.data(), factor.data(), rows, cols, out.data());
      for (std::size_t i = 0; i < rows; ++i) {
        double length = 0.0;
        for (std::size_t c = 0; c < cols; ++c)
          length += factor[c] * (blocks.at(i, c) - centre[c]) * (blocks.at(i, c) - centre[c]);
        REQUIRE(out[i] == Approx(length).epsilon(1e-12));
        weight[i] = 0.5 + static_cast<double>(i % 5);
      }
      std::vector<double> totals(cols, 0.0), products(cols * cols, 0.0), squares(cols, 0.0);
      kernels->gaps(values, centre.data(), weight.data(), rows, cols, gaps.data(), pulled.data(), totals.data());
      kernels->products(pulled.data(), gaps.data(), rows, cols, products.data());
      kernels->squares(pulled.data(), gaps.data(), rows, cols, squares.data());
      for (std::size_t r = 0; r < cols; ++r) {
        double total = 0.0;
        for (std::size_t i = 0; i < rows; ++i) total += weight[i] * (blocks.at(i, r) - centre[r]);
        REQUIRE(totals[r] == Approx(total).margin(1e-10));
        REQUIRE(squares[r] == Approx(products[r * cols + r]));
        for (std::size_t c = 0; c <= r; ++c) {
          double sum = 0.0;
          for (std::size_t i = 0; i < rows; ++i)
            sum += weight[i] * (blocks.at(i, r) - centre[r]) * (blocks.at(i, c) - centre[c]);
          REQUIRE(products[r * cols + c] == Approx(sum).margin(1e-10));
        }
      }
      // memberships, and through them the exponential and the logarithm, to the last digits
      Lined density(3 * kBlockRows), log_sum(kBlockRows), naive(3 * kBlockRows);
      for (std::size_t i = 0; i < rows; ++i) {
        for (std::size_t j = 0; j < 3; ++j)
          naive[j * kBlockRows + i] = density[j * kBlockRows + i] = -700.0 + 13.7 * static_cast<double>((i * (j + 2)) % 11);
      }
      kernels->memberships(density.data(), 3, rows, log_sum.data());
      for (std::size_t i = 0; i < rows; ++i) {
        double most = naive[i], sum = 0.0;
        for (std::size_t j = 1; j < 3; ++j) most = std::max(most, naive[j * kBlockRows + i]);
        for (std::size_t j = 0; j < 3; ++j) sum += std::exp(naive[j * kBlockRows + i] - most);
        REQUIRE(log_sum[i] == Approx(most + std::log(sum)).epsilon(1e-14));
        for (std::size_t j = 0; j < 3; ++j)
          REQUIRE(density[j * kBlockRows + i] == Approx(std::exp(naive[j * kBlockRows + i] - most) / sum).margin(1e-16));
      }
      std::vector<double> sums(cols, 0.0);
      for (std::size_t i = 0; i < rows; ++i) out[i] = 0.3 * static_cast<double>(i % 7);
      const double bumps = kernels->bumps(out.data(), values, rows, cols, weight.data(), sums.data());
      double whole = 0.0;
      for (std::size_t i = 0; i < rows; ++i) whole += std::exp(-out[i]);
      REQUIRE(bumps == Approx(whole).epsilon(1e-14));
    }
  }
}

TEST_CASE("eigenvalues and axes put a matrix together again") {
  for (std::size_t d : {1, 2, 5, 20}) {
    Square m(d * d), back(d * d), axes;
    for (std::size_t r = 0; r < d; ++r)
      for (std::size_t c = 0; c < d; ++c) m[r * d + c] = std::sin(static_cast<double>((r + 1) * (c + 1))) + (r == c ? 3.0 : 0.0);
    std::vector<double> values;
    REQUIRE(eigen(m.data(), d, values, &axes));
    from_axes(axes, values.data(), d, back.data());
    for (std::size_t i = 0; i < d * d; ++i) REQUIRE(back[i] == Approx(m[i]).margin(1e-12));
    for (std::size_t j = 1; j < d; ++j) REQUIRE(values[j] <= values[j - 1]);
  }
}

TEST_CASE("searches, trees and density run clean on small and degenerate tables") {
  Watch watch(going);
  for (std::size_t n : {1, 2, 17, 130}) {
    const Table x = heaps(n, 2, 2, 4.0, 3);
    for (Join join : {Join::ward, Join::centroid, Join::median}) REQUIRE(link_centres(x.view(), join, 2, watch).size() == n - 1);
    REQUIRE(link_single(x.view(), 2, watch).size() == n - 1);
    const PairBlocks pairs(x.view(), Metric::manhattan, 2);
    for (Join join : {Join::average, Join::complete, Join::weighted}) {
      const Merges merges = link_matrix(pairs, join, true, 2, watch);
      REQUIRE(merges.size() == n - 1);
      REQUIRE(cut_tree(merges, n, 1) == std::vector<int>(n, 1));
    }
    REQUIRE(dbscan(x.view(), 1.0, 2, 2, watch).group.size() == n);
    REQUIRE(mean_shift(x.view(), 1.0, 50, 2, watch).group.size() == n);
    const std::vector<double> core(n, 0.1);
    REQUIRE(condense(spanning_tree(x.view(), core.data(), 2, watch), n, 2).group.size() == n);
  }
  const Table x = heaps(130, 3, 2, 6.0, 3);
  const Rows rows(x.view(), Metric::euclidean, nullptr, 1);
  const BlockTable blocks(rows, 1);
  std::vector<int> halves(130);
  for (std::size_t i = 0; i < 130; ++i) halves[i] = static_cast<int>(i % 2);
  std::vector<MixtureModel> models;
  for (Form form : {Form::spherical, Form::diagonal, Form::general})
    for (int free = 0; free < 8; ++free) {
      MixtureModel model;
      model.structure = {form, (free & 1) != 0, form != Form::spherical && (free & 2) != 0,
                         form == Form::general && (free & 4) != 0};
      model.tails = free % 3 == 0 ? Tails::heavy : Tails::normal;
      models.push_back(model);
    }
  MixtureSearch how;
  how.threads = 2;
  for (const MixtureFound& found : search_mixtures(MixtureRows(blocks), models, 2, {halves.data()}, how, watch)) {
    REQUIRE_FALSE(found.fit.failed);
    REQUIRE(std::isfinite(found.fit.log_likelihood));
  }
}
