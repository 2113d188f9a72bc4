#include "covariance.h"

#include <algorithm>
#include <cmath>

namespace fjordline {
namespace {

constexpr int kSteps = 4;          // most alternations of an update without a closed form: the next rounds go on
constexpr double kSettled = 1e-12; // relative change of the volumes, or of the axes' objective, that ends them

double geometric_mean(const double* values, std::size_t count) {
  double sum = 0.0;
  for (std::size_t j = 0; j < count; ++j) sum += std::log(values[j]);
  return std::exp(sum / static_cast<double>(count));
}

bool proper(double value) { return std::isfinite(value) && value > 0.0; }

// |matrix|^(1/size); not a number when it is not positive definite.
double volume_of(const double* matrix, std::size_t size) {
  Square root;
  if (!lower_root(matrix, size, root)) return std::nan("");
  double sum = 0.0;
  for (std::size_t j = 0; j < size; ++j) sum += std::log(root[j * size + j]);
  return std::exp(2.0 * sum / static_cast<double>(size));
}

}  // namespace

std::size_t covariance_parameters(const Structure& s, std::size_t k, std::size_t d) {
  if (d == 0) return 0;
  std::size_t out = s.volume ? k : 1;
  if (s.form != Form::spherical) out += (s.shape ? k : 1) * (d - 1);
  if (s.form == Form::general) out += (s.orientation ? k : 1) * (d * (d - 1) / 2);
  return out;
}

double Scatters::all() const {
  double sum = 0.0;
  for (double r : rows) sum += r;
  return sum;
}

Covariances::Covariances(const Structure& structure, std::size_t components, std::size_t cols)
    : structure_(structure), k_(components), d_(cols), size_(structure.along_columns() ? cols : cols * cols),
      values_(components * size_, 0.0), volumes_(components, 1.0) {}

bool Covariances::update(const Scatters& scatters) { return renew(scatters) && invert(); }

bool Covariances::set(const double* values) {
  values_.assign(values, values + k_ * size_);
  return invert();
}

bool Covariances::invert() {
  const std::size_t many = shared() ? 1 : k_;
  inverse_.resize(many);
  log_root_.assign(many, 0.0);
  for (std::size_t j = 0; j < many; ++j) {
    if (structure_.along_columns()) {
      for (std::size_t v = 0; v < d_; ++v) {
        if (!(of(j)[v] > 0.0)) return false;
        log_root_[j] += 0.5 * std::log(of(j)[v]);
      }
      continue;
    }
    if (!lower_root(of(j), d_, inverse_[j])) return false;
    for (std::size_t v = 0; v < d_; ++v) log_root_[j] += std::log(inverse_[j][v * d_ + v]);
    invert_lower(inverse_[j], d_);
  }
  return true;
}

bool Covariances::renew(const Scatters& scatters) {
  rows_ = scatters.rows;
  if (structure_.along_columns()) return split(scatters.about, values_);
  if (structure_.orientation) return structure_.shape ? own_shapes(scatters) : own_axes(scatters);
  return structure_.shape ? common_axes(scatters) : common_shape(scatters);
}

// Variances along known axes from the sums of squares along them.
bool Covariances::split(const std::vector<double>& squares, std::vector<double>& variances) {
  variances.resize(k_ * d_);
  double all = 0.0;
  for (double r : rows_) all += r;
  const double d = static_cast<double>(d_);
  const auto own = [&](std::size_t j) { return squares.data() + j * d_; };
  const auto total = [&](std::size_t j) { double s = 0.0; for (std::size_t v = 0; v < d_; ++v) s += own(j)[v]; return s; };
  const auto fill = [&](std::size_t j, const std::vector<double>& shape, double volume) {
    for (std::size_t v = 0; v < d_; ++v) variances[j * d_ + v] = volume * shape[v];
  };
  if (structure_.form == Form::spherical) {
    const std::vector<double> round(d_, 1.0);
    double sum = 0.0;
    for (std::size_t j = 0; j < k_; ++j) sum += total(j);
    for (std::size_t j = 0; j < k_; ++j) fill(j, round, structure_.volume ? total(j) / (rows_[j] * d) : sum / (all * d));
  } else if (structure_.shape && structure_.volume) {
    for (std::size_t j = 0; j < k_; ++j)
      for (std::size_t v = 0; v < d_; ++v) variances[j * d_ + v] = own(j)[v] / rows_[j];
  } else if (structure_.shape) {
    std::vector<double> means(k_);
    double sum = 0.0;
    for (std::size_t j = 0; j < k_; ++j) sum += means[j] = geometric_mean(own(j), d_);
    for (std::size_t j = 0; j < k_; ++j)
      for (std::size_t v = 0; v < d_; ++v) variances[j * d_ + v] = sum / all * own(j)[v] / means[j];
  } else {
    std::vector<double> shape(d_), before;
    for (int step = 0; step < (structure_.volume ? kSteps : 1); ++step) {
      std::fill(shape.begin(), shape.end(), 0.0);
      for (std::size_t j = 0; j < k_; ++j)
        for (std::size_t v = 0; v < d_; ++v) shape[v] += own(j)[v] / (structure_.volume ? volumes_[j] : all);
      if (!structure_.volume) break;
      const double scale = geometric_mean(shape.data(), d_);
      for (double& s : shape) s /= scale;
      before = volumes_;
      double change = 0.0;
      for (std::size_t j = 0; j < k_; ++j) {
        volumes_[j] = 0.0;
        for (std::size_t v = 0; v < d_; ++v) volumes_[j] += own(j)[v] / shape[v];
        volumes_[j] /= rows_[j] * d;
        if (!proper(volumes_[j])) return false;
        change = std::max(change, std::fabs(volumes_[j] / before[j] - 1.0));
      }
      if (change < kSettled) break;
    }
    for (std::size_t j = 0; j < k_; ++j) fill(j, shape, structure_.volume ? volumes_[j] : 1.0);
  }
  return std::all_of(variances.begin(), variances.end(), proper);
}

// Each component its own axes, the eigenvectors of its scatter; the shape is common, largest with largest.
bool Covariances::own_axes(const Scatters& scatters) {
  std::vector<Square> axes(k_);
  std::vector<double> squares(k_ * d_), values;
  for (std::size_t j = 0; j < k_; ++j) {
    if (!eigen(scatters.about.data() + j * size_, d_, values, &axes[j])) return false;
    for (std::size_t v = 0; v < d_; ++v) squares[j * d_ + v] = std::max(0.0, values[v]);
  }
  if (!split(squares, variances_)) return false;
  for (std::size_t j = 0; j < k_; ++j) from_axes(axes[j], variances_.data() + j * d_, d_, values_.data() + j * size_);
  return true;
}

bool Covariances::own_shapes(const Scatters& scatters) {
  std::vector<double> volume(k_);
  double sum = 0.0;
  for (std::size_t j = 0; j < k_; ++j) {
    const double* about = scatters.about.data() + j * size_;
    volume[j] = structure_.volume ? rows_[j] : volume_of(about, d_);
    if (!proper(volume[j])) return false;
    sum += volume[j];
  }
  const double common = structure_.volume ? 1.0 : sum / scatters.all();
  for (std::size_t j = 0; j < k_; ++j)
    for (std::size_t v = 0; v < size_; ++v)
      values_[j * size_ + v] = common * scatters.about[j * size_ + v] / volume[j];
  return true;
}

// One shape and orientation for all: pooled, each component in units of its volume.
bool Covariances::common_shape(const Scatters& scatters) {
  Square pooled(size_), root;
  const double all = scatters.all();
  for (int step = 0; step < (structure_.volume ? kSteps : 1); ++step) {
    std::fill(pooled.begin(), pooled.end(), 0.0);
    for (std::size_t j = 0; j < k_; ++j)
      for (std::size_t v = 0; v < size_; ++v)
        pooled[v] += scatters.about[j * size_ + v] / (structure_.volume ? volumes_[j] : all);
    if (!structure_.volume) break;
    const double volume = volume_of(pooled.data(), d_);
    if (!proper(volume)) return false;
    for (double& p : pooled) p /= volume;
    lower_root(pooled.data(), d_, root);
    invert_lower(root, d_);
    const std::vector<double> before = volumes_;
    double change = 0.0;
    for (std::size_t j = 0; j < k_; ++j) {
      const Square seen = along(root, scatters.about.data() + j * size_, d_);
      volumes_[j] = 0.0;
      for (std::size_t v = 0; v < d_; ++v) volumes_[j] += seen[v * d_ + v];
      volumes_[j] /= rows_[j] * static_cast<double>(d_);
      if (!proper(volumes_[j])) return false;
      change = std::max(change, std::fabs(volumes_[j] / before[j] - 1.0));
    }
    if (change < kSettled) break;
  }
  for (std::size_t j = 0; j < k_; ++j)
    for (std::size_t v = 0; v < size_; ++v) values_[j * size_ + v] = pooled[v] * (structure_.volume ? volumes_[j] : 1.0);
  return true;
}

// Common axes, shapes of their own: by turns, rotations of pairs of axes (after Flury & Gautschi 1986,
// doi:10.1137/0907013) and the variances along the axes.
bool Covariances::common_axes(const Scatters& scatters) {
  if (axes_.empty()) {
    Square pooled(size_, 0.0);
    std::vector<double> values;
    for (std::size_t j = 0; j < k_; ++j)
      for (std::size_t v = 0; v < size_; ++v) pooled[v] += scatters.about[j * size_ + v];
    if (!eigen(pooled.data(), d_, values, &axes_)) return false;
  }
  std::vector<Square> seen(k_);
  for (std::size_t j = 0; j < k_; ++j) seen[j] = along(axes_, scatters.about.data() + j * size_, d_);
  std::vector<double> squares(k_ * d_);
  double before = 0.0;
  for (int step = 0; step < kSteps; ++step) {
    if (!variances_.empty()) turn_axes(seen);
    for (std::size_t j = 0; j < k_; ++j)
      for (std::size_t v = 0; v < d_; ++v) squares[j * d_ + v] = seen[j][v * d_ + v];
    if (!split(squares, variances_)) return false;
    double objective = 0.0;  // sum of rows times log volume: what the turns lower
    for (std::size_t j = 0; j < k_; ++j)
      for (std::size_t v = 0; v < d_; ++v) objective += rows_[j] * std::log(variances_[j * d_ + v]);
    if (step > 0 && std::fabs(before - objective) <= kSettled * std::max(scatters.all(), std::fabs(objective))) break;
    before = objective;
  }
  for (std::size_t j = 0; j < k_; ++j) from_axes(axes_, variances_.data() + j * d_, d_, values_.data() + j * size_);
  return true;
}

// One round over the pairs of axes. With the variances held, turning two axes by an angle changes the objective by
// a cos(2 angle) + b sin(2 angle), whose least value has a closed form. `seen`: the scatters along the axes, turned
// too.
void Covariances::turn_axes(std::vector<Square>& seen) {
  for (std::size_t p = 0; p + 1 < d_; ++p) {
    for (std::size_t q = p + 1; q < d_; ++q) {
      double a = 0.0, b = 0.0;
      for (std::size_t j = 0; j < k_; ++j) {
        const double gain = 1.0 / variances_[j * d_ + p] - 1.0 / variances_[j * d_ + q];
        a += gain * 0.5 * (seen[j][p * d_ + p] - seen[j][q * d_ + q]);
        b += gain * seen[j][p * d_ + q];
      }
      if (a == 0.0 && b == 0.0) continue;
      const double angle = 0.5 * std::atan2(-b, -a);
      const double c = std::cos(angle), s = std::sin(angle);
      const auto turn = [&](double* first, double* second, std::size_t stride) {
        for (std::size_t v = 0; v < d_; ++v) {
          const double x = first[v * stride], y = second[v * stride];
          first[v * stride] = c * x + s * y;
          second[v * stride] = c * y - s * x;
        }
      };
      turn(axes_.data() + p * d_, axes_.data() + q * d_, 1);
      for (Square& one : seen) {
        turn(one.data() + p * d_, one.data() + q * d_, 1);
        turn(one.data() + p, one.data() + q, d_);
      }
    }
  }
}

bool Covariances::collapsed(const std::vector<double>& variance, double floor) const {
  if (d_ == 0) return false;
  const std::size_t many = shared() ? 1 : k_;
  if (structure_.form == Form::spherical) {  // every column must have shrunk
    const double unit = *std::min_element(variance.begin(), variance.end());
    for (std::size_t j = 0; j < many; ++j)
      if (!(of(j)[0] >= floor * unit)) return true;
    return false;
  }
  if (structure_.along_columns()) {
    for (std::size_t j = 0; j < many; ++j)
      for (std::size_t v = 0; v < d_; ++v)
        if (!(of(j)[v] >= floor * variance[v])) return true;
    return false;
  }
  std::vector<double> values;
  Square scaled(size_);
  for (std::size_t j = 0; j < many; ++j) {
    // The sum of the inverse variances along the axes is at least the inverse of the smallest.
    double inverse = 0.0;
    for (std::size_t r = 0; r < d_; ++r)
      for (std::size_t c = 0; c <= r; ++c) inverse += inverse_[j][r * d_ + c] * inverse_[j][r * d_ + c] * variance[c];
    if (inverse * floor <= 1.0) continue;
    for (std::size_t r = 0; r < d_; ++r)
      for (std::size_t c = 0; c < d_; ++c)
        scaled[r * d_ + c] = of(j)[r * d_ + c] / std::sqrt(variance[r] * variance[c]);
    if (!eigen(scaled.data(), d_, values, nullptr) || !(values.back() >= floor)) return true;
  }
  return false;
}

}  // namespace fjordline
