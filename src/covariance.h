// The fourteen covariance structures of Gaussian components, Sigma_j = volume_j D_j A_j D_j': Banfield & Raftery
// (1993), doi:10.2307/2532201; Celeux & Govaert (1995), doi:10.1016/0031-3203(94)00125-6.
#ifndef FJORDLINE_COVARIANCE_H
#define FJORDLINE_COVARIANCE_H

#include <cstddef>
#include <vector>

#include "matrices.h"

namespace fjordline {

enum class Form { spherical, diagonal, general };

// What may differ between components is free; the rest is common.
struct Structure {
  Form form = Form::general;
  bool volume = true, shape = true, orientation = true;  // shape and orientation are false where the form has none
  bool along_columns() const { return form != Form::general; }
};

std::size_t covariance_parameters(const Structure& structure, std::size_t components, std::size_t cols);

// How rows scatter about the means: by component their number (a sum of memberships) and `size` numbers, the cols x
// cols products or, where the structure lies along the columns, the sums of squares alone.
struct Scatters {
  std::vector<double> rows;
  std::vector<double> about;
  std::size_t size = 0;
  double all() const;
};

// Keeps the covariances of one structure, and what the next update starts from.
class Covariances {
 public:
  Covariances(const Structure& structure, std::size_t components, std::size_t cols);

  // The covariances of largest likelihood for these scatters. Where that has no closed form a few steps uphill are
  // taken from the covariances before. False when a component has no volume.
  bool update(const Scatters& scatters);

  const Structure& structure() const { return structure_; }
  std::size_t size() const { return size_; }  // numbers a component
  const double* of(std::size_t component) const { return values_.data() + component * size_; }
  // Of the last update: the lower triangle that turns gaps into lengths of one (form general), and the log of the
  // volume's root.
  const Square& inverse_root(std::size_t component) const { return inverse_[shared() ? 0 : component]; }
  double log_root(std::size_t component) const { return log_root_[shared() ? 0 : component]; }
  // Whether the variance along some axis is below `floor`, in units of the columns' own variances.
  bool collapsed(const std::vector<double>& variance, double floor) const;
  bool set(const double* values);  // as told by of(), all components

 private:
  bool shared() const { return !structure_.volume && !structure_.shape && !structure_.orientation; }
  bool renew(const Scatters& scatters);
  bool invert();
  bool split(const std::vector<double>& squares, std::vector<double>& variances);
  bool common_axes(const Scatters& scatters);
  bool own_axes(const Scatters& scatters);
  bool common_shape(const Scatters& scatters);
  bool own_shapes(const Scatters& scatters);
  void turn_axes(std::vector<Square>& seen);

  Structure structure_;
  std::size_t k_, d_, size_;
  std::vector<double> values_;
  std::vector<double> rows_;      // of the last update
  std::vector<double> volumes_;   // where they are free beside a common shape
  std::vector<double> variances_; // along the axes, components x cols
  Square axes_;                   // common ones, as rows
  std::vector<Square> inverse_;
  std::vector<double> log_root_;
};

}  // namespace fjordline

#endif
