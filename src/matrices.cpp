#include "matrices.h"

#include <algorithm>
#include <cmath>
#include <numeric>


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

// Jacobi's rotations (Golub & Van Loan 2013, section 8.5): pairs of axes are turned until nothing is left beside the
// diagonal.
bool eigen(const double* matrix, std::size_t size, std::vector<double>& values, Square* axes) {
  constexpr int kSweeps = 60;
  Square work(matrix, matrix + size * size), turned(axes ? size * size : 0, 0.0);
  for (std::size_t j = 0; axes && j < size; ++j) turned[j * size + j] = 1.0;
  double whole = 0.0;
  for (double v : work) whole += v * v;
  if (!std::isfinite(whole)) return false;
  for (int sweep = 0; sweep < kSweeps; ++sweep) {
    double beside = 0.0;
    for (std::size_t p = 0; p < size; ++p)
      for (std::size_t q = p + 1; q < size; ++q) beside += work[p * size + q] * work[p * size + q];
    if (beside <= 1e-32 * whole) break;
    for (std::size_t p = 0; p + 1 < size; ++p) {
      for (std::size_t q = p + 1; q < size; ++q) {
        const double off = work[p * size + q];
        if (off * off <= 1e-36 * whole) continue;
        const double tau = (work[q * size + q] - work[p * size + p]) / (2.0 * off);
        const double t = (tau >= 0.0 ? 1.0 : -1.0) / (std::fabs(tau) + std::sqrt(1.0 + tau * tau));
        const double c = 1.0 / std::sqrt(1.0 + t * t), s = t * c;
        double* row_p = work.data() + p * size;
        double* row_q = work.data() + q * size;
        for (std::size_t j = 0; j < size; ++j) {
          const double x = row_p[j], y = row_q[j];
          row_p[j] = c * x - s * y;
          row_q[j] = s * x + c * y;
        }
        for (std::size_t j = 0; j < size; ++j) {
          double* row = work.data() + j * size;
          const double x = row[p], y = row[q];
          row[p] = c * x - s * y;
          row[q] = s * x + c * y;
        }
        for (std::size_t j = 0; axes && j < size; ++j) {
          double& x = turned[p * size + j];
          double& y = turned[q * size + j];
          const double before = x;
          x = c * before - s * y;
          y = s * before + c * y;
        }
      }
    }
  }
  std::vector<std::size_t> order(size);
  std::iota(order.begin(), order.end(), 0);
  std::sort(order.begin(), order.end(),
            [&](std::size_t a, std::size_t b) { return work[a * size + a] > work[b * size + b]; });
  values.resize(size);
  if (axes) axes->resize(size * size);
  for (std::size_t r = 0; r < size; ++r) {
    values[r] = work[order[r] * size + order[r]];
    if (axes) std::copy_n(turned.begin() + order[r] * size, size, axes->begin() + r * size);
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
