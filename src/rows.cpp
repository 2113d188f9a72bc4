#include "rows.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <unordered_set>

#include "parallel.h"

namespace fjordline {
namespace {

constexpr std::size_t kNarrow = 8;      // columns up to which rows are kept in tiles
constexpr std::size_t kStretch = 4096;  // rows copied at a time, a multiple of the tile

// Reading is what a round waits for, so it is asked for two tiles before its turn; wide rows the processor foresees.
constexpr std::size_t kAhead = 2, kPrefetched = 64;

inline void prefetch(const double* at) {
#ifdef __GNUC__
  __builtin_prefetch(at);
#else
  (void)at;
#endif
}

struct Column {
  double mean = 0.0;
  double reach = 0.0;  // the farthest a value lies from `mean`
};

std::vector<Column> look_at_columns(const TableView& x, bool centred, std::size_t threads) {
  std::vector<Column> out(x.cols);
  in_parallel(x.cols, threads, [&](std::size_t j) {
    const double* column = x.values + j * x.rows;
    const double share = 1.0 / static_cast<double>(x.rows);
    double sum, least, most;
    tile_kernels().look_along(column, x.rows, share, &sum, &least, &most);
    if (centred) out[j].mean = column[0] + sum;
    out[j].reach = std::max(most - out[j].mean, out[j].mean - least);
  });
  return out;
}

}  // namespace

bool to_direction(double* point, std::size_t cols, Metric metric) {
  double largest = 0.0;
  for (std::size_t j = 0; j < cols; ++j) largest = std::max(largest, std::fabs(point[j]));
  if (metric == Metric::correlation) {
    double mean = 0.0, left = 0.0;
    for (std::size_t j = 0; j < cols; ++j) mean += point[j] / static_cast<double>(cols);
    for (std::size_t j = 0; j < cols; ++j) {
      point[j] -= mean;
      left = std::max(left, std::fabs(point[j]));
    }
    // What rounding leaves of a constant row is not a shape.
    largest = left > 8.0 * std::numeric_limits<double>::epsilon() * largest ? left : 0.0;
  }
  if (largest == 0.0) return false;
  double length = 0.0;
  for (std::size_t j = 0; j < cols; ++j) {
    point[j] /= largest;
    length += point[j] * point[j];
  }
  for (std::size_t j = 0; j < cols; ++j) point[j] /= std::sqrt(length);
  return true;
}

Rows::Rows(const TableView& x, Metric metric, const double* weight, std::size_t threads)
    : count_(x.rows), cols_(x.cols), metric_(metric), weight_(weight), in_tiles_(x.cols <= kNarrow),
      values_((in_tiles_ ? tiles() * kTile : x.rows) * x.cols), middle_(x.cols, 0.0), without_direction_(x.rows) {
  const std::vector<Column> columns = look_at_columns(x, metric == Metric::euclidean, threads);
  double largest = 0.0;
  for (std::size_t j = 0; j < cols_; ++j) {
    middle_[j] = columns[j].mean;
    largest = std::max(largest, columns[j].reach);
  }
  if (largest > 0.0) unit_ = std::ldexp(1.0, std::ilogb(largest));
  // A middle of few digits: values of few digits then keep them all, and distances that are equal stay equal.
  const double step = std::ldexp(unit_, -20);
  for (double& middle : middle_)
    if (std::isfinite(middle / step)) middle = std::round(middle / step) * step;
  double longest = fill(x, threads);
  if (on_sphere()) {
    to_sphere();
    longest = 1.0;
    std::fill(lengths_.begin(), lengths_.end(), 1.0);
    total_ = 0.0;
    for (std::size_t i = 0; i < count_; ++i) total_ += this->weight(i);
  }
  rounding_ = 4.0 * static_cast<double>(cols_ + 4) * std::numeric_limits<double>::epsilon() * longest;
}

// Gives the largest squared length of a row.
double Rows::fill(const TableView& x, std::size_t threads) {
  const std::size_t rows = in_tiles_ ? tiles() * kTile : count_;
  // Two factors, each a power of two: the inverse of the smallest unit would not be a number.
  const int power = -std::ilogb(unit_);
  const double half = std::ldexp(1.0, power / 2), other = std::ldexp(1.0, power - power / 2);
  std::vector<double> longest((rows + kStretch - 1) / kStretch, 0.0), sums(longest.size(), 0.0);
  if (in_tiles_) lengths_.resize(rows);
  in_parallel(longest.size(), threads, [&](std::size_t s) {
    const std::size_t end = std::min(rows, (s + 1) * kStretch);
    for (std::size_t from = s * kStretch; from < end; from += kTile) {  // a few rows at a time stay in the cache
      const std::size_t to = std::min(end, from + kTile);
      double length[kTile] = {};
      for (std::size_t j = 0; j < cols_; ++j) {
        const double* column = x.values + j * x.rows;
        for (std::size_t i = from; i < to; ++i) {
          const double value = (column[std::min(i, count_ - 1)] - middle_[j]) * half * other;
          *cell(i, j) = value;
          length[i - from] += value * value;
        }
      }
      for (std::size_t i = from; i < to; ++i) {
        longest[s] = std::max(longest[s], length[i - from]);
        if (i < count_) sums[s] += weight(i) * length[i - from];
      }
      if (in_tiles_) std::copy(length, length + kTile, lengths_.begin() + static_cast<std::ptrdiff_t>(from));
    }
  });
  for (double sum : sums) total_ += sum;
  return *std::max_element(longest.begin(), longest.end());
}

void Rows::to_sphere() {
  std::vector<double> point(cols_);
  for (std::size_t i = 0; i < count_; ++i) {
    for (std::size_t j = 0; j < cols_; ++j) point[j] = *cell(i, j);
    if (!to_direction(point.data(), cols_, metric_)) without_direction_ = std::min(without_direction_, i);
    for (std::size_t j = 0; j < cols_; ++j) *cell(i, j) = point[j];
  }
  for (std::size_t i = count_; in_tiles_ && i < tiles() * kTile; ++i)
    for (std::size_t j = 0; j < cols_; ++j) *cell(i, j) = *cell(count_ - 1, j);
  unit_ = 1.0;
}

const double* Rows::turned(std::size_t first, double* scratch) const {
  if (cols_ <= kPrefetched && first + (kAhead + 1) * kTile <= count_) {
    const double* next = values_.data() + (first + kAhead * kTile) * cols_;
    for (std::size_t at = 0; at < kTile * cols_; at += 8) prefetch(next + at);
  }
  const double* rows[kTile];
  for (std::size_t r = 0; r < kTile; ++r) rows[r] = values_.data() + std::min(first + r, count_ - 1) * cols_;
  tile_kernels().turn(rows, cols_, scratch);
  return scratch;
}

void Rows::gather(const int* list, std::size_t listed, double* scratch) const {
  if (in_tiles_) {
    for (std::size_t r = 0; r < kTile; ++r) {
      const std::size_t i = static_cast<std::size_t>(list[std::min(r, listed - 1)]);
      const double* from = values_.data() + i / kTile * kTile * cols_ + i % kTile;
      for (std::size_t j = 0; j < cols_; ++j) scratch[j * kTile + r] = from[j * kTile];
    }
    return;
  }
  const double* rows[kTile];
  for (std::size_t r = 0; r < kTile; ++r)
    rows[r] = values_.data() + static_cast<std::size_t>(list[std::min(r, listed - 1)]) * cols_;
  tile_kernels().turn(rows, cols_, scratch);
}

const double* Rows::row(std::size_t i, double* scratch) const {
  if (!in_tiles_) return values_.data() + i * cols_;
  const double* from = values_.data() + i / kTile * kTile * cols_ + i % kTile;
  for (std::size_t j = 0; j < cols_; ++j) scratch[j] = from[j * kTile];
  return scratch;
}

std::size_t Rows::distinct(std::size_t enough) const {
  std::vector<double> one(cols_), other(cols_);
  const auto hash = [&](std::size_t i) {
    const double* point = row(i, one.data());
    std::size_t h = 0;
    for (std::size_t j = 0; j < cols_; ++j)
      h = h * 1000003u ^ std::hash<double>()(point[j] + 0.0);
    return h;
  };
  const auto same = [&](std::size_t a, std::size_t b) {
    const double* left = row(a, one.data());
    const double* right = row(b, other.data());
    return std::equal(left, left + cols_, right);
  };
  std::unordered_set<std::size_t, decltype(hash), decltype(same)> seen(16, hash, same);
  for (std::size_t i = 0; i < count_ && seen.size() < enough; ++i)
    if (weight(i) > 0.0) seen.insert(i);
  return seen.size();
}

RowTable Rows::inward(const TableView& points) const {
  RowTable out(points.rows, points.cols);
  for (std::size_t i = 0; i < points.rows; ++i) {
    for (std::size_t j = 0; j < points.cols; ++j) out.row(i)[j] = (points.at(i, j) - middle_[j]) / unit_;
    if (on_sphere()) to_direction(out.row(i), points.cols, metric_);
  }
  return out;
}

void Rows::outward(RowTable& points) const {
  if (on_sphere()) return;
  for (std::size_t i = 0; i < points.rows; ++i)
    for (std::size_t j = 0; j < points.cols; ++j) points.row(i)[j] = points.row(i)[j] * unit_ + middle_[j];
}

}  // namespace fjordline
