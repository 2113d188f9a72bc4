#include "matrices.h"

#include <algorithm>
#include <cmath>

#define USE_FC_LEN_T
#include <R_ext/Lapack.h>
#ifndef FCONE
#define FCONE
#endif

namespace fjordline {

bool lower_root(const double* matrix, std::size_t size, Square& root) {
  root.assign(size * size, 0.0);
  for (std::size_t r = 0; r < size; ++r) {
    double* row = root.data() + r * size;
    for (std::size_t c = 0; c <= r; ++c) {
      const double* other = root.data() + c * size;
      double sum = matrix[r * size + c];
      for (std::size_t j = 0; j < c; ++j) sum -= row[j] * other[j];
      if (c < r) {
        row[c] = sum / other[c];
      } else if (sum > 0.0) {  // false for what is not a number
        row[r] = std::sqrt(sum);
      } else {
        return false;
      }
    }
  }
  return true;
}

void invert_lower(Square& root, std::size_t size) {
  for (std::size_t c = 0; c < size; ++c) {
    root[c * size + c] = 1.0 / root[c * size + c];
    for (std::size_t r = c + 1; r < size; ++r) {
      double sum = 0.0;
      for (std::size_t j = c; j < r; ++j) sum += root[r * size + j] * root[j * size + c];
      root[r * size + c] = -sum / root[r * size + r];
    }
  }
}

bool eigen(const double* matrix, std::size_t size, std::vector<double>& values, Square* axes) {
  Square work(matrix, matrix + size * size);
  const int n = static_cast<int>(size);
  const int room = std::max(1, 34 * n);
  std::vector<double> scratch(room);
  values.assign(size, 0.0);
  int info = 0;
  F77_CALL(dsyev)(axes ? "V" : "N", "U", &n, work.data(), &n, values.data(), scratch.data(), &room, &info FCONE FCONE);
  if (info != 0) return false;
  std::reverse(values.begin(), values.end());
  if (axes) {
    axes->resize(size * size);
    for (std::size_t r = 0; r < size; ++r)
      std::copy_n(work.begin() + (size - 1 - r) * size, size, axes->begin() + r * size);
  }
  return true;
}

Square along(const Square& axes, const double* matrix, std::size_t size) {
  Square half(size * size, 0.0), out(size * size, 0.0);
  for (std::size_t r = 0; r < size; ++r)
    for (std::size_t j = 0; j < size; ++j)
      for (std::size_t c = 0; c < size; ++c) half[r * size + c] += axes[r * size + j] * matrix[j * size + c];
  for (std::size_t r = 0; r < size; ++r)
    for (std::size_t c = 0; c < size; ++c)
      for (std::size_t j = 0; j < size; ++j) out[r * size + c] += half[r * size + j] * axes[c * size + j];
  return out;
}

void from_axes(const Square& axes, const double* values, std::size_t size, double* out) {
  std::fill_n(out, size * size, 0.0);
  for (std::size_t j = 0; j < size; ++j) {
    const double* axis = axes.data() + j * size;
    for (std::size_t r = 0; r < size; ++r)
      for (std::size_t c = 0; c < size; ++c) out[r * size + c] += values[j] * axis[r] * axis[c];
  }
}

}  // namespace fjordline
