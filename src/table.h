// A read-only view of a numeric table and a small owned one. No R types here.
#ifndef FJORDLINE_TABLE_H
#define FJORDLINE_TABLE_H

#include <cstddef>
#include <functional>
#include <vector>

namespace fjordline {

// Column-major, as R stores matrices.
struct TableView {
  const double* values;
  std::size_t rows;
  std::size_t cols;
  double at(std::size_t row, std::size_t col) const { return values[col * rows + row]; }
};

// Row-major, so that one row lies together in memory.
struct RowTable {
  std::size_t rows = 0;
  std::size_t cols = 0;
  std::vector<double> values;

  RowTable() = default;
  RowTable(std::size_t rows_, std::size_t cols_) : rows(rows_), cols(cols_), values(rows_ * cols_, 0.0) {}
  const double* row(std::size_t i) const { return values.data() + i * cols; }
  double* row(std::size_t i) { return values.data() + i * cols; }
};

inline RowTable by_rows(const TableView& x) {
  RowTable out(x.rows, x.cols);
  for (std::size_t j = 0; j < x.cols; ++j)
    for (std::size_t i = 0; i < x.rows; ++i) out.values[i * x.cols + j] = x.at(i, j);
  return out;
}

inline double squared_distance(const double* a, const double* b, std::size_t n) {
  double sum = 0.0;
  for (std::size_t j = 0; j < n; ++j) {
    const double gap = a[j] - b[j];
    sum += gap * gap;
  }
  return sum;
}

// Kernels call this now and then; true means the user wants to stop.
using Stop = std::function<bool()>;

// Asks `stop` about once every ten million elementary steps, so that asking costs nothing.
class Patience {
 public:
  explicit Patience(const Stop& stop) : stop_(stop) {}
  bool over(std::size_t steps) {
    spent_ += steps;
    if (spent_ < 10000000) return false;
    spent_ = 0;
    return stop_();
  }

 private:
  const Stop& stop_;
  std::size_t spent_ = 0;
};

}  // namespace fjordline

#endif
