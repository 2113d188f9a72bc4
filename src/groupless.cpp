#include "groupless.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace fjordline {
namespace {

constexpr double kBentFrom = 0.25;  // share of an axis that follows the square of the first
constexpr double kHalfTurn = 3.14159265358979323846;

// Marsaglia & Tsang (2000), doi:10.1145/358407.358414
double gamma_number(double shape, Stream& stream) {
  if (shape < 1.0) return gamma_number(shape + 1.0, stream) * std::pow(1.0 - stream.uniform(), 1.0 / shape);
  const double d = shape - 1.0 / 3.0, c = 1.0 / std::sqrt(9.0 * d);
  for (;;) {
    const double z = stream.normal(), v = (1.0 + c * z) * (1.0 + c * z) * (1.0 + c * z);
    if (v > 0.0 && std::log(1.0 - stream.uniform()) < 0.5 * z * z + d - d * v + d * std::log(v)) return d * v;
  }
}

Form form_of(const Columns& x, const std::vector<double>& sd) {
  Form out;
  double beyond = 0.0;
  for (std::size_t j = 0; j < x.cols; ++j) {
    double cubes = 0.0, fourths = 0.0;
    for (std::size_t i = 0; i < x.rows; ++i) {
      const double z = sd[j] > 0.0 ? x.column(j)[i] / sd[j] : 0.0;
      cubes += z * z * z;
      fourths += z * z * z * z;
    }
    const double n = static_cast<double>(x.rows);
    out.skewness.push_back(std::max(-2.0, std::min(2.0, cubes / n)));
    beyond += (fourths / n - 3.0 - 1.5 * out.skewness[j] * out.skewness[j]) / static_cast<double>(x.cols);
  }
  if (beyond > 0.1) out.freedom = 4.0 + 6.0 / beyond;
  return out;
}

// The circle nearest to points with mean zero (Taubin 1991, doi:10.1109/34.103273), its least root found by Newton's
// steps from zero. False where they lie on a line.
bool circle_of(const std::vector<double>& u, const std::vector<double>& v, double& at_u, double& at_v, double& radius) {
  double uu = 0.0, vv = 0.0, uv = 0.0, uz = 0.0, vz = 0.0, zz = 0.0;
  const double n = static_cast<double>(u.size());
  for (std::size_t i = 0; i < u.size(); ++i) {
    const double z = u[i] * u[i] + v[i] * v[i];
    uu += u[i] * u[i] / n;
    vv += v[i] * v[i] / n;
    uv += u[i] * v[i] / n;
    uz += u[i] * z / n;
    vz += v[i] * z / n;
    zz += z * z / n;
  }
  const double z = uu + vv, plane = uu * vv - uv * uv, rest = zz - z * z;
  const double a3 = 4.0 * z, a2 = -3.0 * z * z - zz, a1 = rest * z + 4.0 * plane * z - uz * uz - vz * vz;
  const double a0 = uz * (uz * vv - vz * uv) + vz * (vz * uu - uz * uv) - rest * plane;
  double x = 0.0;
  for (int step = 0; step < 50; ++step) {
    const double slope = a1 + x * (2.0 * a2 + x * 3.0 * a3), next = x - (a0 + x * (a1 + x * (a2 + x * a3))) / slope;
    if (!std::isfinite(next) || std::fabs(next - x) <= 1e-12 * std::fabs(next)) break;
    x = next;
  }
  const double turn = 2.0 * (x * x - x * z + plane);
  at_u = (uz * (vv - x) - vz * uv) / turn;
  at_v = (vz * (uu - x) - uz * uv) / turn;
  radius = std::sqrt(at_u * at_u + at_v * at_v + z);
  return std::isfinite(radius);
}

void fit_parabola(Band& band, double share) {
  band.rest = std::sqrt(1.0 - share);
  band.scatter = std::min(band.rest, 0.5);
  // as far as gives the direction its spread, even along the band
  const double wanted = 1.0 - band.scatter * band.scatter;
  band.reach = std::sqrt(3.0 * wanted);
  for (int step = 0; step < 20; ++step) {
    double weight = 0.0, squares = 0.0;
    for (int i = 0; i < 200; ++i) {
      const double at = band.reach * (i + 0.5) / 200.0, dense = std::hypot(1.0, 2.0 * band.bend * at);
      weight += dense;
      squares += dense * at * at;
    }
    band.reach *= std::sqrt(wanted / (squares / weight));
  }
}

// The arc under whose width the points are most likely.
void fit_arc(Band& band, const std::vector<double>& along, const std::vector<double>& across) {
  const double n = static_cast<double>(along.size());
  double least = HUGE_VAL;
  std::vector<double> narrowed(across.size());
  for (double narrow = 1.0; narrow > 0.2; narrow *= 0.9) {
    for (std::size_t i = 0; i < across.size(); ++i) narrowed[i] = narrow * across[i];
    double at_u = 0.0, at_v = 0.0, radius = 0.0;
    if (!circle_of(along, narrowed, at_u, at_v, radius)) continue;
    double aside = 0.0, along_u = 0.0, along_v = 0.0, angles = 0.0;
    for (std::size_t i = 0; i < along.size(); ++i) {
      const double far = std::max(std::hypot(along[i] - at_u, narrowed[i] - at_v), 1e-300);
      aside += (far - radius) * (far - radius) / n;
      along_u += (along[i] - at_u) / far;
      along_v += (narrowed[i] - at_v) / far;
    }
    const double middle = std::atan2(along_v, along_u);
    for (std::size_t i = 0; i < along.size(); ++i) {
      const double angle = std::remainder(std::atan2(narrowed[i] - at_v, along[i] - at_u) - middle, 2.0 * kHalfTurn);
      angles += angle * angle / n;
    }
    // the scatter to the sides is as wide along the arc
    angles = std::max(1e-12, angles - aside / (radius * radius));
    // the likelihood of rows even along it, normal to the sides; narrowed rows are denser by themselves
    const double area = std::sqrt(aside * angles) * radius / narrow;
    if (!(area < least)) continue;
    least = area;
    band.narrow = narrow;
    band.at_along = at_u;
    band.at_across = at_v;
    band.radius = radius;
    band.middle = middle;
    band.half_angle = std::min(kHalfTurn, std::sqrt(3.0 * angles));
    band.aside = std::sqrt(aside);
  }
}

Band band_of(const Columns& x, const std::vector<double>& sd, const std::vector<double>& direction) {
  Band out;
  const std::size_t n = x.rows, d = x.cols;
  if (d < 2 || n < 20 || direction.size() != n) return out;
  const double rows = static_cast<double>(n);
  // the scores do not correlate: products with them are the direction's weights
  const double mean = std::accumulate(direction.begin(), direction.end(), 0.0) / rows;
  std::vector<double> along(n);
  double spread = 0.0;
  for (std::size_t i = 0; i < n; ++i) spread += (direction[i] - mean) * (direction[i] - mean) / (rows - 1.0);
  if (!(spread > 0.0)) return out;
  for (std::size_t i = 0; i < n; ++i) along[i] = (direction[i] - mean) / std::sqrt(spread);
  double fourths = 0.0, product = 0.0, share = 0.0;
  for (double t : along) fourths += t * t * t * t / rows;
  const double of_squares = fourths - 1.0;
  if (!(of_squares > 0.0)) return out;
  out.along.assign(d, 0.0);
  out.across.assign(d, 0.0);
  for (std::size_t j = 0; j < d; ++j) {
    for (std::size_t i = 0; i < n && sd[j] > 0.0; ++i) {
      const double z = x.column(j)[i] / sd[j];
      out.along[j] += z * along[i] / (rows - 1.0);
      out.across[j] += z * (along[i] * along[i] - 1.0) / std::sqrt(of_squares) / rows;
    }
    product += out.along[j] * out.across[j];
  }
  for (std::size_t j = 0; j < d; ++j) {
    out.across[j] -= product * out.along[j];
    share += out.across[j] * out.across[j];
  }
  // chance alone follows the square by as much
  const double beyond = share - static_cast<double>(d - 1) / rows;
  if (beyond < kBentFrom) return out;
  out.is = true;
  std::vector<double> across(n, 0.0);
  for (std::size_t j = 0; j < d; ++j) {
    out.across[j] /= std::sqrt(share);
    for (std::size_t i = 0; i < n && sd[j] > 0.0; ++i) across[i] += out.across[j] * x.column(j)[i] / sd[j];
  }
  out.bend = std::sqrt(beyond / of_squares);
  fit_parabola(out, std::min(1.0, beyond));
  fit_arc(out, along, across);
  return out;
}

// One row in the plane of the band.
void draw_parabola(const Band& band, Stream& stream, double& along, double& across) {
  const double most = std::hypot(1.0, 2.0 * band.bend * band.reach);
  double at = 0.0;
  do at = band.reach * (2.0 * stream.uniform() - 1.0);
  while (stream.uniform() * most > std::hypot(1.0, 2.0 * band.bend * at));
  along = at + band.scatter * stream.normal();
  across = band.bend * at * at + band.rest * stream.normal();
}

void draw_arc(const Band& band, Stream& stream, double& along, double& across) {
  const double angle = band.middle + band.half_angle * (2.0 * stream.uniform() - 1.0);
  along = band.at_along + band.radius * std::cos(angle) + band.aside * stream.normal();
  across = (band.at_across + band.radius * std::sin(angle) + band.aside * stream.normal()) / band.narrow;
}

void draw_bent(Columns& out, Groupless kind, const Heap& heap, Stream& stream) {
  const Band& band = heap.band;
  for (std::size_t i = 0; i < out.rows; ++i) {
    double along = 0.0, across = 0.0, off_along = 0.0, off_across = 0.0;
    if (kind == Groupless::arc && band.radius > 0.0) draw_arc(band, stream, along, across);
    else draw_parabola(band, stream, along, across);
    for (std::size_t j = 0; j < out.cols; ++j) {
      const double z = stream.normal();
      out.column(j)[i] = z;
      off_along += z * band.along[j];
      off_across += z * band.across[j];
    }
    for (std::size_t j = 0; j < out.cols; ++j) {
      double& cell = out.column(j)[i];
      cell = heap.sd[j] * (cell + (along - off_along) * band.along[j] + (across - off_across) * band.across[j]);
    }
  }
}

void draw_skewed(Columns& out, const Form& form, Stream& stream) {
  for (std::size_t j = 0; j < out.cols; ++j) {
    const double skew = form.skewness[j], shape = 4.0 / std::max(skew * skew, 1e-12);
    for (std::size_t i = 0; i < out.rows; ++i) {
      double& cell = out.column(j)[i];
      cell = std::fabs(skew) < 0.1 ? stream.normal()
                                   : (skew > 0.0 ? 1.0 : -1.0) * (gamma_number(shape, stream) - shape) / std::sqrt(shape);
    }
  }
  if (form.freedom == 0.0) return;
  for (std::size_t i = 0; i < out.rows; ++i) {
    const double pull = std::sqrt((form.freedom - 2.0) / (2.0 * gamma_number(0.5 * form.freedom, stream)));
    for (std::size_t j = 0; j < out.cols; ++j) out.column(j)[i] *= pull;
  }
}

}  // namespace

std::vector<double> deviations(const Columns& scores) {
  std::vector<double> out(scores.cols);
  for (std::size_t j = 0; j < scores.cols; ++j)
    out[j] = std::sqrt(std::inner_product(scores.column(j), scores.column(j) + scores.rows, scores.column(j), 0.0) /
                       static_cast<double>(std::max<std::size_t>(1, scores.rows - 1)));
  return out;
}

Heap heap_of(const Columns& scores, const std::vector<double>& along) {
  Heap out;
  out.sd = deviations(scores);
  out.form = form_of(scores, out.sd);
  out.band = band_of(scores, out.sd, along);
  return out;
}

Columns groupless(Groupless kind, const Columns& like, const Heap& heap, Stream& stream) {
  const std::size_t n = like.rows, d = like.cols;
  const std::vector<double>& sd = heap.sd;
  Columns out(n, d);
  if (kind == Groupless::parabola || kind == Groupless::arc) {
    draw_bent(out, kind, heap, stream);
    return out;
  }
  if (kind == Groupless::skewed) {
    draw_skewed(out, heap.form, stream);
    for (std::size_t j = 0; j < d; ++j)
      for (std::size_t i = 0; i < n; ++i) out.column(j)[i] *= sd[j];
    return out;
  }
  for (std::size_t j = 0; j < d; ++j) {
    const auto ends = std::minmax_element(like.column(j), like.column(j) + n);
    for (std::size_t i = 0; i < n; ++i) {
      double& cell = out.column(j)[i];
      if (kind == Groupless::box) cell = (stream.uniform() - 0.5) * std::sqrt(12.0) * sd[j];
      else if (kind == Groupless::ranges) cell = *ends.first + stream.uniform() * (*ends.second - *ends.first);
      else cell = stream.normal();
    }
  }
  if (kind == Groupless::ellipsoid) {  // directions of Gaussians, lengths as in a ball with unit variances
    for (std::size_t i = 0; i < n; ++i) {
      double length = 0.0;
      for (std::size_t j = 0; j < d; ++j) length += out.column(j)[i] * out.column(j)[i];
      const double dims = static_cast<double>(d);
      const double to = std::sqrt(dims + 2.0) * std::pow(stream.uniform(), 1.0 / dims) / std::sqrt(length);
      for (std::size_t j = 0; j < d; ++j) out.column(j)[i] *= to;
    }
  }
  if (kind == Groupless::gaussian || kind == Groupless::ellipsoid)
    for (std::size_t j = 0; j < d; ++j)
      for (std::size_t i = 0; i < n; ++i) out.column(j)[i] *= sd[j];
  return out;
}

std::vector<double> along_chord(const Columns& drawn, const Heap& heap) {
  std::vector<double> out(drawn.rows, 0.0);
  for (std::size_t j = 0; j < drawn.cols; ++j)
    for (std::size_t i = 0; i < drawn.rows && heap.sd[j] > 0.0; ++i)
      out[i] += heap.band.along[j] * drawn.column(j)[i] / heap.sd[j];
  return out;
}

}  // namespace fjordline
