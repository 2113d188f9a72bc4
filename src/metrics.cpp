#include "metrics.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "parallel.h"

namespace fjordline {
namespace {

constexpr std::size_t kStretch = 4096;

class TileDistances : public Distances {
 public:
  TileDistances(const TableView& x, Metric metric, std::size_t threads) : rows_(x, metric, nullptr, threads) {}
  std::size_t rows() const override { return rows_.count(); }
  std::size_t without_direction() const override { return rows_.without_direction(); }

  void from(std::size_t row, double* out) const override {
    Lined scratch(rows_.cols() * kTile);
    std::vector<double> one(rows_.cols());
    const double* point = rows_.row(row, one.data());
    alignas(64) double squared[kTile];
    const double unit = std::sqrt(rows_.squared_unit());
    for (std::size_t first = 0; first < rows_.count(); first += kTile) {
      tile_kernels().distance_to(rows_.tile(first, scratch.data()), rows_.cols(), point, squared);
      const std::size_t full = std::min(kTile, rows_.count() - first);
      for (std::size_t r = 0; r < full; ++r)
        out[first + r] = rows_.on_sphere() ? 0.5 * squared[r] : std::sqrt(squared[r]) * unit;
    }
  }

 private:
  Rows rows_;
};

class ColumnDistances : public Distances {
 public:
  ColumnDistances(const TableView& x, bool largest) : x_(x), largest_(largest) {}
  std::size_t rows() const override { return x_.rows; }

  void from(std::size_t row, double* out) const override {
    std::fill(out, out + x_.rows, 0.0);
    for (std::size_t j = 0; j < x_.cols; ++j) {
      const double* column = x_.values + j * x_.rows;
      const double here = column[row];
      if (largest_) for (std::size_t i = 0; i < x_.rows; ++i) out[i] = std::max(out[i], std::fabs(column[i] - here));
      else for (std::size_t i = 0; i < x_.rows; ++i) out[i] += std::fabs(column[i] - here);
    }
  }

 private:
  TableView x_;
  bool largest_;
};

class GivenDistances : public Distances {
 public:
  explicit GivenDistances(const TableView& square) : square_(square) {}
  std::size_t rows() const override { return square_.rows; }
  void from(std::size_t row, double* out) const override {
    std::copy(square_.values + row * square_.rows, square_.values + (row + 1) * square_.rows, out);
  }

 private:
  TableView square_;
};

bool by_columns(Metric metric) { return metric == Metric::manhattan || metric == Metric::chebyshev; }

double column_distance(const double* a, const double* b, std::size_t n, Metric metric) {
  double out = 0.0;
  for (std::size_t j = 0; j < n; ++j) {
    const double gap = std::fabs(a[j] - b[j]);
    out = metric == Metric::manhattan ? out + gap : std::max(out, gap);
  }
  return out;
}

}  // namespace

std::unique_ptr<Distances> distances_of(const TableView& x, Metric metric, std::size_t threads) {
  if (by_columns(metric)) return std::make_unique<ColumnDistances>(x, metric == Metric::chebyshev);
  return std::make_unique<TileDistances>(x, metric, threads);
}

std::unique_ptr<Distances> given_distances(const TableView& square) {
  return std::make_unique<GivenDistances>(square);
}

Nearest nearest_centres(const TableView& x, RowTable targets, Metric metric, std::size_t threads) {
  const bool sphere = metric == Metric::cosine || metric == Metric::correlation;
  if (sphere)
    for (std::size_t g = 0; g < targets.rows; ++g) to_direction(targets.row(g), targets.cols, metric);
  CentreBlocks blocks;
  blocks.pack(targets, nullptr, targets.rows, true);
  Nearest out;
  out.group.resize(x.rows);
  out.distance.resize(x.rows);
  in_parallel((x.rows + kStretch - 1) / kStretch, threads, [&](std::size_t s) {
    Lined tile(x.cols * kTile, 0.0);
    std::vector<double> point(x.cols);
    alignas(64) double best[kTile];
    alignas(64) double second[kTile];
    int which[kTile];
    const std::size_t end = std::min(x.rows, (s + 1) * kStretch);
    for (std::size_t from = s * kStretch; from < end; from += kTile) {
      const std::size_t full = std::min(kTile, end - from);
      for (std::size_t r = 0; r < full; ++r) {
        for (std::size_t j = 0; j < x.cols; ++j) point[j] = x.at(from + r, j);
        if (by_columns(metric)) {
          best[r] = std::numeric_limits<double>::infinity();
          for (std::size_t g = 0; g < targets.rows; ++g) {
            const double distance = column_distance(point.data(), targets.row(g), x.cols, metric);
            if (distance < best[r]) {
              best[r] = distance;
              which[r] = static_cast<int>(g);
            }
          }
          continue;
        }
        if (sphere) to_direction(point.data(), x.cols, metric);
        for (std::size_t j = 0; j < x.cols; ++j) tile[j * kTile + r] = point[j];
      }
      if (!by_columns(metric)) tile_kernels().nearest_exact(tile.data(), x.cols, blocks, best, second, which);
      for (std::size_t r = 0; r < full; ++r) {
        out.group[from + r] = which[r];
        out.distance[from + r] = sphere ? 0.5 * best[r] : by_columns(metric) ? best[r] : std::sqrt(best[r]);
      }
    }
  });
  return out;
}

}  // namespace fjordline
