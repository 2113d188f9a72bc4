// A read-only view of a numeric table and a small owned one. No R types here.
#ifndef FJORDLINE_TABLE_H
#define FJORDLINE_TABLE_H

#include <cstddef>
#include <functional>
#include <new>
#include <utility>
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

// Uninitialised memory that begins at a cache line. Much of it is asked for in large pages: the system hands those out
// in a fraction of the time.
void* lined_memory(std::size_t bytes);
void free_lined(void* at, std::size_t bytes);

// Wide loads that straddle two lines take twice as long.
template <class T>
struct LineAllocator {
  using value_type = T;
  LineAllocator() = default;
  template <class U>
  LineAllocator(const LineAllocator<U>&) {}
  T* allocate(std::size_t n) { return static_cast<T*>(lined_memory(n * sizeof(T))); }
  void deallocate(T* p, std::size_t n) { free_lined(p, n * sizeof(T)); }
  // Without a value nothing is written: what is filled at once need not be zeroed first.
  template <class U>
  void construct(U* p) { ::new (static_cast<void*>(p)) U; }
  template <class U, class... Given>
  void construct(U* p, Given&&... given) { ::new (static_cast<void*>(p)) U(std::forward<Given>(given)...); }
  template <class U>
  bool operator==(const LineAllocator<U>&) const { return true; }
  template <class U>
  bool operator!=(const LineAllocator<U>&) const { return false; }
};

using Lined = std::vector<double, LineAllocator<double>>;

// Four sums side by side, so that no addition waits for the one before it.
inline double squared_distance(const double* a, const double* b, std::size_t n) {
  double sum[4] = {0.0, 0.0, 0.0, 0.0};
  std::size_t j = 0;
  for (; j + 4 <= n; j += 4) {
    for (std::size_t l = 0; l < 4; ++l) {
      const double gap = a[j + l] - b[j + l];
      sum[l] += gap * gap;
    }
  }
  for (; j < n; ++j) {
    const double gap = a[j] - b[j];
    sum[0] += gap * gap;
  }
  return (sum[0] + sum[1]) + (sum[2] + sum[3]);
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
