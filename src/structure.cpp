#include "structure.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "dip.h"
#include "kmeans.h"
#include "parallel.h"
#include "spanning-tree.h"
#include "stream.h"
#include "tiles.h"

namespace fjordline {
namespace {

constexpr std::size_t kKinds = 4;
constexpr std::size_t kStarts = 3;   // of 2-means
constexpr std::size_t kFewest = 10;  // rows of a part
constexpr double kShares[] = {1.0, 0.7, 0.5, 0.35, 0.25, 0.175, 0.125};

struct Columns {
  std::size_t rows, cols;
  std::vector<double> values;
  Columns(std::size_t rows_, std::size_t cols_) : rows(rows_), cols(cols_), values(rows_ * cols_) {}
  double* column(std::size_t j) { return values.data() + j * rows; }
  const double* column(std::size_t j) const { return values.data() + j * rows; }
  TableView view() const { return {values.data(), rows, cols}; }
};

// Eigenvectors of a small symmetric matrix by rotations (Jacobi 1846), as columns.
std::vector<double> eigenvectors(std::vector<double> a, std::size_t d) {
  std::vector<double> v(d * d, 0.0);
  for (std::size_t j = 0; j < d; ++j) v[j * d + j] = 1.0;
  double all = 0.0;
  for (double x : a) all += x * x;
  for (int sweep = 0; sweep < 50; ++sweep) {
    double off = 0.0;
    for (std::size_t p = 0; p < d; ++p)
      for (std::size_t q = p + 1; q < d; ++q) off += a[p * d + q] * a[p * d + q];
    if (off <= 1e-24 * all) break;
    for (std::size_t p = 0; p < d; ++p) {
      for (std::size_t q = p + 1; q < d; ++q) {
        if (a[p * d + q] == 0.0) continue;
        const double theta = (a[q * d + q] - a[p * d + p]) / (2.0 * a[p * d + q]);
        const double t = (theta >= 0.0 ? 1.0 : -1.0) / (std::fabs(theta) + std::sqrt(theta * theta + 1.0));
        const double c = 1.0 / std::sqrt(t * t + 1.0), s = t * c;
        for (std::size_t i = 0; i < d; ++i) {
          const double x = a[i * d + p], y = a[i * d + q];
          a[i * d + p] = c * x - s * y;
          a[i * d + q] = s * x + c * y;
        }
        for (std::size_t i = 0; i < d; ++i) {
          const double x = a[p * d + i], y = a[q * d + i];
          a[p * d + i] = c * x - s * y;
          a[q * d + i] = s * x + c * y;
        }
        for (std::size_t i = 0; i < d; ++i) {
          const double x = v[p * d + i], y = v[q * d + i];
          v[p * d + i] = c * x - s * y;
          v[q * d + i] = s * x + c * y;
        }
      }
    }
  }
  return v;
}

// Centred, turned to its principal axes.
Columns on_axes(Columns x) {
  const std::size_t n = x.rows, d = x.cols;
  for (std::size_t j = 0; j < d; ++j) {
    double* column = x.column(j);
    const double mean = std::accumulate(column, column + n, 0.0) / static_cast<double>(n);
    for (std::size_t i = 0; i < n; ++i) column[i] -= mean;
  }
  std::vector<double> products(d * d);
  for (std::size_t p = 0; p < d; ++p)
    for (std::size_t q = p; q < d; ++q)
      products[p * d + q] = products[q * d + p] = std::inner_product(x.column(p), x.column(p) + n, x.column(q), 0.0);
  const std::vector<double> turn = eigenvectors(products, d);
  Columns out(n, d);
  for (std::size_t p = 0; p < d; ++p)
    for (std::size_t j = 0; j < d; ++j)
      for (std::size_t i = 0; i < n; ++i) out.column(p)[i] += turn[p * d + j] * x.column(j)[i];
  return out;
}

std::vector<double> deviations(const Columns& scores) {
  std::vector<double> out(scores.cols);
  for (std::size_t j = 0; j < scores.cols; ++j)
    out[j] = std::sqrt(std::inner_product(scores.column(j), scores.column(j) + scores.rows, scores.column(j), 0.0) /
                       static_cast<double>(std::max<std::size_t>(1, scores.rows - 1)));
  return out;
}

// In rows, a part dips no deeper than what it is a part of: most parts need not be looked at.
void offer(const std::vector<double>& along, std::size_t direction, Structure& best) {
  std::vector<double> sorted = along;
  std::sort(sorted.begin(), sorted.end());
  const std::size_t n = sorted.size();
  const double rows = static_cast<double>(n);
  double deepest[2] = {rows, rows};  // at most, of the last part from below and from above
  for (double share : kShares) {
    const std::size_t many = static_cast<std::size_t>(share * rows);
    if (share < 1.0 && many < kFewest) break;
    for (bool upper : {false, true}) {
      if (upper && share == 1.0) continue;
      const double root = std::sqrt(share), part = static_cast<double>(many);
      const double beaten = best.dip / root * (1.0 - 1e-12);
      if (deepest[upper] <= beaten * part) continue;
      const DipWithin found = dip_over(beaten, sorted.data() + (upper ? n - many : 0), many);
      deepest[upper] = found.limit * part * (1.0 + 1e-12);
      if (share == 1.0) deepest[1] = deepest[0];
      if (root * found.value <= best.dip) continue;
      best.dip = root * found.value;
      best.direction = direction;
      best.part = {share, upper};
      best.along = along;
    }
  }
}

std::vector<double> between_centres(const Columns& x, std::uint64_t seed) {
  KmeansSettings settings;
  settings.groups = 2;
  settings.restarts = kStarts;
  settings.seed = seed;
  const Stop never = [] { return false; };
  const KmeansFit fit = kmeans(x.view(), settings, nullptr, nullptr, never);
  std::vector<double> out(x.rows, 0.0);
  if (fit.group.empty()) return out;
  for (std::size_t j = 0; j < x.cols; ++j) {
    const double way = fit.centres.row(1)[j] - fit.centres.row(0)[j];
    for (std::size_t i = 0; i < x.rows; ++i) out[i] += way * x.column(j)[i];
  }
  return out;
}

double runt(const TableView& x) {
  const Stop never = [] { return false; };
  Watch watch(never);
  std::vector<Edge> edges = spanning_tree(x, nullptr, 1, watch);
  std::sort(edges.begin(), edges.end());
  Joined groups(x.rows);
  int best = 0;
  for (const Edge& edge : edges) {
    const int a = groups.lowest(edge.low), b = groups.lowest(edge.high);
    best = std::max(best, std::min(groups.size(a), groups.size(b)));
    groups.join(a, b);
  }
  return static_cast<double>(best);
}

Structure structure_of(const Columns& scores, std::uint64_t seed, bool with_dip) {
  Structure out;
  out.runt = runt(scores.view());
  if (!with_dip) return out;
  Columns sphered = scores;
  const std::vector<double> sd = deviations(scores);
  for (std::size_t j = 0; j < scores.cols; ++j)
    for (std::size_t i = 0; i < scores.rows; ++i) sphered.column(j)[i] /= sd[j] > 0.0 ? sd[j] : 1.0;
  offer(between_centres(scores, seed), 0, out);
  offer(between_centres(sphered, seed), 1, out);
  for (std::size_t j = 0; j < scores.cols; ++j)
    offer(std::vector<double>(scores.column(j), scores.column(j) + scores.rows), 2 + j, out);
  return out;
}

Columns groupless(Groupless kind, const Columns& like, const std::vector<double>& sd, Stream& stream) {
  const std::size_t n = like.rows, d = like.cols;
  Columns out(n, d);
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

}  // namespace

StructureTest structure_test(const TableView& x, std::size_t sets, std::uint64_t seed, std::size_t threads,
                             const Stop& stop) {
  Columns scores(x.rows, x.cols);
  std::copy(x.values, x.values + x.rows * x.cols, scores.values.begin());
  const std::vector<double> sd = deviations(scores);
  StructureTest out;
  out.observed = structure_of(scores, seed, true);
  out.dips.assign(sets * kKinds, 0.0);
  out.runts.assign(sets * kKinds, 0.0);
  Watch watch(stop);
  in_parallel(sets * kKinds, threads, [&](std::size_t task) {
    if (watch.over(x.rows * x.rows * x.cols)) return;
    const Groupless kind = static_cast<Groupless>(task / sets);
    Stream stream(seed, {task / sets, task % sets});
    const Columns table = on_axes(groupless(kind, scores, sd, stream));
    const Structure found = structure_of(table, seed_at(seed, {task}), kind != Groupless::ranges);
    out.dips[task] = found.dip;
    out.runts[task] = found.runt;
  });
  out.stopped = watch.stopped();
  return out;
}

}  // namespace fjordline
