#include "box-tree.h"

#include <algorithm>
#include <numeric>

namespace fjordline {
namespace {

constexpr std::size_t kLeaf = 16;

}  // namespace

BoxTree::BoxTree(const TableView& x) : cols_(x.cols), row_(x.rows), points_(x.rows * x.cols) {
  std::iota(row_.begin(), row_.end(), 0);
  nodes_.reserve(x.rows / 4 + 2);
  build(x, 0, x.rows);
  for (std::size_t place = 0; place < x.rows; ++place)
    for (std::size_t j = 0; j < cols_; ++j) points_[place * cols_ + j] = x.at(row_[place], j);
}

int BoxTree::build(const TableView& x, std::size_t from, std::size_t to) {
  const int at = static_cast<int>(nodes_.size());
  nodes_.push_back({from, to});
  boxes_.resize(nodes_.size() * 2 * cols_);
  std::size_t widest = 0;
  double width = 0.0;
  for (std::size_t j = 0; j < cols_; ++j) {
    double least = x.at(row_[from], j), most = least;
    for (std::size_t place = from + 1; place < to; ++place) {
      const double value = x.at(row_[place], j);
      least = std::min(least, value);
      most = std::max(most, value);
    }
    boxes_[(2 * at) * cols_ + j] = least;
    boxes_[(2 * at + 1) * cols_ + j] = most;
    if (most - least > width) {
      width = most - least;
      widest = j;
    }
  }
  if (to - from <= kLeaf || !(width > 0.0)) {
    std::sort(row_.begin() + from, row_.begin() + to);
    return at;
  }
  // About half on each side; rows of one value stay together, so that equal rows end in one leaf.
  const double* column = x.values + widest * x.rows;
  const auto first = row_.begin() + from, last = row_.begin() + to;
  std::nth_element(first, first + (to - from) / 2, last, [&](int a, int b) { return column[a] < column[b]; });
  const double half = column[row_[from + (to - from) / 2]];
  auto cut = std::partition(first, last, [&](int a) { return column[a] < half; });
  if (cut == first) cut = std::partition(first, last, [&](int a) { return column[a] <= half; });
  const std::size_t middle = static_cast<std::size_t>(cut - row_.begin());
  const int left = build(x, from, middle), right = build(x, middle, to);
  nodes_[at].left = left;
  nodes_[at].right = right;
  return at;
}

double BoxTree::apart(const double* a, const double* b) const {
  double sum = 0.0;
  for (std::size_t j = 0; j < cols_; ++j) sum += (a[j] - b[j]) * (a[j] - b[j]);
  return sum;
}

double BoxTree::least(int at, const double* point) const {
  double sum = 0.0;
  for (std::size_t j = 0; j < cols_; ++j) {
    const double gap = std::max({low(at)[j] - point[j], point[j] - high(at)[j], 0.0});
    sum += gap * gap;
  }
  return sum;
}

double BoxTree::most(int at, const double* point) const {
  double sum = 0.0;
  for (std::size_t j = 0; j < cols_; ++j) {
    const double gap = std::max(high(at)[j] - point[j], point[j] - low(at)[j]);
    sum += gap * gap;
  }
  return sum;
}

double BoxTree::least(int a, int b) const {
  double sum = 0.0;
  for (std::size_t j = 0; j < cols_; ++j) {
    const double gap = std::max({low(a)[j] - high(b)[j], low(b)[j] - high(a)[j], 0.0});
    sum += gap * gap;
  }
  return sum;
}

double BoxTree::most(int a, int b) const {
  double sum = 0.0;
  for (std::size_t j = 0; j < cols_; ++j) {
    const double gap = std::max(high(a)[j] - low(b)[j], high(b)[j] - low(a)[j]);
    sum += gap * gap;
  }
  return sum;
}

}  // namespace fjordline
