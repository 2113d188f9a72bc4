// Tables and slow definitions for the tests of the kernels.
#ifndef FJORDLINE_TEST_HELPER_H
#define FJORDLINE_TEST_HELPER_H

#include <cmath>
#include <limits>
#include <random>
#include <vector>

#include "table.h"

struct Table {
  std::size_t rows, cols;
  std::vector<double> values;  // column after column
  Table(std::size_t rows_, std::size_t cols_) : rows(rows_), cols(cols_), values(rows_ * cols_) {}
  double& at(std::size_t i, std::size_t j) { return values[j * rows + i]; }
  double at(std::size_t i, std::size_t j) const { return values[j * rows + i]; }
  fjordline::TableView view() const { return {values.data(), rows, cols}; }
};

inline Table heaps(std::size_t rows, std::size_t cols, std::size_t k, double apart, unsigned seed) {
  std::mt19937_64 random(seed);
  std::normal_distribution<double> normal;
  std::vector<double> centre(k * cols);
  for (double& c : centre) c = apart * normal(random);
  Table x(rows, cols);
  for (std::size_t i = 0; i < rows; ++i) {
    const std::size_t g = random() % k;
    for (std::size_t j = 0; j < cols; ++j) x.at(i, j) = centre[g * cols + j] + normal(random);
  }
  return x;
}

inline double naive_square(const Table& x, std::size_t i, const fjordline::RowTable& centres, std::size_t g) {
  double sum = 0.0;
  for (std::size_t j = 0; j < x.cols; ++j) sum += std::pow(x.at(i, j) - centres.row(g)[j], 2);
  return sum;
}

inline bool never() { return false; }

#endif
