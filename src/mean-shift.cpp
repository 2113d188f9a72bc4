#include "mean-shift.h"

#include <algorithm>
#include <atomic>
#include <cmath>

#include "blocks.h"
#include "rows.h"

namespace fjordline {
namespace {

constexpr double kStill = 1e-4;   // of the bandwidth
constexpr double kSame = 0.5;

double length(const std::vector<double>& step) {
  double sum = 0.0;
  for (double s : step) sum += s * s;
  return std::sqrt(sum);
}

}  // namespace

Shifted mean_shift(const TableView& x, double bandwidth, std::size_t max_rounds, std::size_t threads, Watch& watch) {
  const Rows rows(x, Metric::euclidean, nullptr, threads);
  const BlockTable blocks(rows, threads);
  const std::size_t n = x.rows, d = x.cols;
  const double h = bandwidth / std::sqrt(rows.squared_unit());
  const std::vector<double> factor(d, 0.5 / (h * h));
  RowTable end(n, d);
  std::atomic<std::size_t> unsettled{0};
  const BlockKernels& kernels = block_kernels();
  in_parallel(n, threads, [&](std::size_t i) {
    std::vector<double> at(d), sums(d), step(d);
    Lined distance(kBlockRows), weight(kBlockRows);
    for (std::size_t j = 0; j < d; ++j) at[j] = blocks.at(i, j);
    bool settled = false;
    for (std::size_t round = 0; round < max_rounds && !settled; ++round) {
      if (watch.over(n * d)) return;
      std::fill(sums.begin(), sums.end(), 0.0);
      double total = 0.0;
      for (std::size_t b = 0; b < blocks.blocks(); ++b) {
        const std::size_t many = blocks.padded(b), real = blocks.rows_in(b);
        kernels.weighted(blocks.column(b, 0), at.data(), factor.data(), many, d, distance.data());
        std::fill(distance.begin() + real, distance.begin() + many, 1e9);  // the copies that fill the block
        total += kernels.bumps(distance.data(), blocks.column(b, 0), many, d, weight.data(), sums.data());
      }
      for (std::size_t j = 0; j < d; ++j) {
        step[j] = sums[j] / total - at[j];
        at[j] += step[j];
      }
      settled = length(step) < kStill * h;
    }
    if (!settled) ++unsettled;
    std::copy(at.begin(), at.end(), end.row(i));
  });
  Shifted out;
  out.unsettled = unsettled;
  out.group.assign(n, -1);
  std::vector<std::size_t> first;  // the row whose end stands for a mode
  for (std::size_t i = 0; i < n && !watch.stopped(); ++i) {
    for (std::size_t m = 0; m < first.size() && out.group[i] < 0; ++m)
      if (squared_distance(end.row(i), end.row(first[m]), d) <= kSame * kSame * h * h) out.group[i] = static_cast<int>(m);
    if (out.group[i] < 0) {
      out.group[i] = static_cast<int>(first.size());
      first.push_back(i);
    }
  }
  out.modes = RowTable(first.size(), d);
  for (std::size_t m = 0; m < first.size(); ++m) std::copy_n(end.row(first[m]), d, out.modes.row(m));
  rows.outward(out.modes);
  return out;
}

}  // namespace fjordline
