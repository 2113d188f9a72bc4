// Small symmetric matrices, row-major: too small for a library of large ones to be fast on them.
#ifndef FJORDLINE_MATRICES_H
#define FJORDLINE_MATRICES_H

#include <cstddef>
#include <vector>

namespace fjordline {

using Square = std::vector<double>;  // size x size

// The lower triangle L with L L' = matrix, zeros above. False when the matrix is not positive definite.
bool lower_root(const double* matrix, std::size_t size, Square& root);

void invert_lower(Square& root, std::size_t size);  // in place

// Eigenvalues, the largest first; the rows of `axes` are the eigenvectors (none when it is null). False for what is no
// number.
bool eigen(const double* matrix, std::size_t size, std::vector<double>& values, Square* axes);

// axes * matrix * axes', the matrix seen along the axes, which are rows.
Square along(const Square& axes, const double* matrix, std::size_t size);

// sum of values[j] * axis_j axis_j'
void from_axes(const Square& axes, const double* values, std::size_t size, double* out);

}  // namespace fjordline

#endif
