#include "structure.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "dip.h"
#include "kmeans.h"
#include "matrices.h"
#include "parallel.h"
#include "spanning-tree.h"
#include "stream.h"
#include "tiles.h"

namespace fjordline {
namespace {

constexpr std::size_t kKinds = 6;
constexpr double kBentFrom = 0.25;  // share of an axis that follows the square of the first
constexpr std::size_t kMostGroups = 6;
constexpr std::size_t kMostThinned = 500;  // rows that discriminants are looked for in
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

// Whether a third centre lies within the ball between two: then rows of that group are missing between theirs (Gabriel &
// Sokal 1969).
bool neighbours(const RowTable& centres, std::size_t a, std::size_t b, std::size_t k, std::size_t d) {
  for (std::size_t c = 0; c < k; ++c) {
    if (c == a || c == b) continue;
    double product = 0.0;
    for (std::size_t j = 0; j < d; ++j)
      product += (centres.row(a)[j] - centres.row(c)[j]) * (centres.row(b)[j] - centres.row(c)[j]);
    if (product < 0.0) return false;
  }
  return true;
}

// The inverse root of the covariance within groups; drawn towards round where rows are few for the columns.
bool within_root(const Columns& x, const KmeansFit& fit, std::size_t k, Square& root) {
  const std::size_t n = x.rows, d = x.cols;
  Square within(d * d, 0.0);
  std::vector<double> gap(d);
  for (std::size_t i = 0; i < n; ++i) {
    const double* centre = fit.centres.row(static_cast<std::size_t>(fit.group[i]));
    for (std::size_t j = 0; j < d; ++j) gap[j] = x.column(j)[i] - centre[j];
    for (std::size_t p = 0; p < d; ++p)
      for (std::size_t q = 0; q <= p; ++q) within[p * d + q] += gap[p] * gap[q];
  }
  const double rows = static_cast<double>(n > k ? n - k : 1);
  const double drawn = std::min(1.0, static_cast<double>(d) / rows);
  double spread = 0.0;
  for (std::size_t p = 0; p < d; ++p) spread += within[p * d + p] / rows / static_cast<double>(d);
  if (!(spread > 0.0)) return false;
  for (std::size_t p = 0; p < d; ++p) {
    for (std::size_t q = 0; q < p; ++q) within[q * d + p] = within[p * d + q] *= (1.0 - drawn) / rows;
    within[p * d + p] = within[p * d + p] * (1.0 - drawn) / rows + (drawn + 1e-9) * spread;
  }
  if (!lower_root(within.data(), d, root)) return false;
  invert_lower(root, d);
  return true;
}

double dip_beyond(double beaten, std::vector<double>& values) {
  if (values.size() < kFewest) return 0.0;
  std::sort(values.begin(), values.end());
  return dip_over(beaten, values.data(), values.size()).value;
}

std::size_t thinned_row(std::size_t i, std::size_t rows) { return rows <= kMostThinned ? i : i * rows / kMostThinned; }

// Every so many-th row: hundreds of rows show what there is along a discriminant.
Columns thinned(const Columns& x) {
  if (x.rows <= kMostThinned) return x;
  Columns out(kMostThinned, x.cols);
  for (std::size_t j = 0; j < x.cols; ++j)
    for (std::size_t i = 0; i < kMostThinned; ++i) out.column(j)[i] = x.column(j)[thinned_row(i, x.rows)];
  return out;
}

// The largest dip along the discriminants between the groups of one fit, each of the rows of two groups that no third lies
// between.
double between_groups(const Columns& x, std::size_t k, std::uint64_t seed, Between* kept) {
  const std::size_t n = x.rows, d = x.cols;
  KmeansSettings settings;
  settings.groups = k;
  settings.restarts = 1;
  settings.max_rounds = 20;
  settings.seed = seed;
  const Stop never = [] { return false; };
  const KmeansFit fit = kmeans(x.view(), settings, nullptr, nullptr, never);
  Square root;
  if (fit.group.empty() || !within_root(x, fit, k, root)) return 0.0;
  double best = 0.0;
  std::vector<double> way(d), turned(d), all(n), pair;
  std::vector<int> rows;
  for (std::size_t a = 0; a < k; ++a) {
    for (std::size_t b = a + 1; b < k; ++b) {
      for (std::size_t p = 0; p < d; ++p) {
        turned[p] = 0.0;
        for (std::size_t q = 0; q <= p; ++q) turned[p] += root[p * d + q] * (fit.centres.row(b)[q] - fit.centres.row(a)[q]);
      }
      for (std::size_t q = 0; q < d; ++q) {
        way[q] = 0.0;
        for (std::size_t p = q; p < d; ++p) way[q] += root[p * d + q] * turned[p];
      }
      std::fill(all.begin(), all.end(), 0.0);
      for (std::size_t q = 0; q < d; ++q)
        for (std::size_t i = 0; i < n; ++i) all[i] += way[q] * x.column(q)[i];
      if (!neighbours(fit.centres, a, b, k, d)) continue;
      pair.clear();
      rows.clear();
      for (std::size_t i = 0; i < n; ++i) {
        if (fit.group[i] != static_cast<int>(a) && fit.group[i] != static_cast<int>(b)) continue;
        pair.push_back(all[i]);
        rows.push_back(static_cast<int>(i));
      }
      std::vector<double> sorted = pair;
      const double share = std::sqrt(static_cast<double>(pair.size()) / static_cast<double>(n));
      const double found = share * dip_beyond(best / share, sorted);
      if (found <= best) continue;
      best = found;
      if (kept) {
        double middle = 0.0;
        for (std::size_t q = 0; q < d; ++q) middle += 0.5 * way[q] * (fit.centres.row(a)[q] + fit.centres.row(b)[q]);
        *kept = {rows, pair, middle};
      }
    }
  }
  return best;
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

Structure structure_of(const Columns& scores, std::uint64_t seed, bool with_dip, bool discriminants, bool keep) {
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
  if (!discriminants) return out;
  const Columns fewer = thinned(scores);
  out.between.assign(kMostGroups - 1, 0.0);
  for (std::size_t k = 2; k <= kMostGroups; ++k) {
    Between kept;
    out.between[k - 2] = between_groups(fewer, k, seed_at(seed, {k}), keep ? &kept : nullptr);
    if (!keep) continue;
    for (int& row : kept.rows) row = static_cast<int>(thinned_row(static_cast<std::size_t>(row), scores.rows));
    out.pairs.push_back(std::move(kept));
  }
  return out;
}

// Marsaglia & Tsang (2000), doi:10.1145/358407.358414
double gamma_number(double shape, Stream& stream) {
  if (shape < 1.0) return gamma_number(shape + 1.0, stream) * std::pow(1.0 - stream.uniform(), 1.0 / shape);
  const double d = shape - 1.0 / 3.0, c = 1.0 / std::sqrt(9.0 * d);
  for (;;) {
    const double z = stream.normal(), v = (1.0 + c * z) * (1.0 + c * z) * (1.0 + c * z);
    if (v > 0.0 && std::log(1.0 - stream.uniform()) < 0.5 * z * z + d - d * v + d * std::log(v)) return d * v;
  }
}

// By axis the skewness, at most 2; and the degrees of freedom of the tails beyond that, 0 where there are none.
struct Form {
  std::vector<double> skewness;
  double freedom = 0.0;
};

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

// How each axis follows the square of the first: s_j = bend_j (s_1^2 - mean) + rest.
struct Band {
  std::vector<double> bend, rest;  // rest: standard deviations
  double steep = 0.0, reach = 0.0; // root of the sum of squared bends; the band goes from -reach to reach
  bool is = false;
};

Band band_of(const Columns& x, const std::vector<double>& sd) {
  Band out;
  const std::size_t n = x.rows, d = x.cols;
  out.bend.assign(d, 0.0);
  out.rest = sd;
  if (d < 2 || n < 20) return out;
  const double* first = x.column(0);
  double mean = 0.0, spread = 0.0, least = HUGE_VAL;
  for (std::size_t i = 0; i < n; ++i) mean += first[i] * first[i] / static_cast<double>(n);
  for (std::size_t i = 0; i < n; ++i) spread += (first[i] * first[i] - mean) * (first[i] * first[i] - mean);
  for (std::size_t j = 1; j < d && spread > 0.0; ++j) {
    double product = 0.0, squares = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
      product += (first[i] * first[i] - mean) * x.column(j)[i];
      squares += x.column(j)[i] * x.column(j)[i];
    }
    const double share = squares > 0.0 ? product * product / (spread * squares) : 0.0;
    if (share < kBentFrom) continue;
    out.is = true;
    out.bend[j] = product / spread;
    out.rest[j] = sd[j] * std::sqrt(1.0 - share);
    least = std::min(least, out.rest[j]);
  }
  if (!out.is) return out;
  for (double b : out.bend) out.steep += b * b;
  out.steep = std::sqrt(out.steep);
  out.rest[0] = std::min(least, 0.5 * sd[0]);
  // as far as gives the first axis its spread, even along the band
  const double wanted = sd[0] * sd[0] - out.rest[0] * out.rest[0];
  out.reach = std::sqrt(3.0 * wanted);
  for (int step = 0; step < 20; ++step) {
    double weight = 0.0, squares = 0.0;
    for (int i = 0; i < 200; ++i) {
      const double at = out.reach * (i + 0.5) / 200.0, dense = std::hypot(1.0, 2.0 * out.steep * at);
      weight += dense;
      squares += dense * at * at;
    }
    out.reach *= std::sqrt(wanted / (squares / weight));
  }
  return out;
}

void draw_bent(Columns& out, const Band& band, Stream& stream) {
  const double most = std::hypot(1.0, 2.0 * band.steep * band.reach);
  for (std::size_t i = 0; i < out.rows; ++i) {
    double at = 0.0;
    do at = band.reach * (2.0 * stream.uniform() - 1.0);
    while (stream.uniform() * most > std::hypot(1.0, 2.0 * band.steep * at));
    for (std::size_t j = 0; j < out.cols; ++j)
      out.column(j)[i] = (j == 0 ? at : band.bend[j] * at * at) + band.rest[j] * stream.normal();
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

Columns groupless(Groupless kind, const Columns& like, const std::vector<double>& sd, const Form& form, const Band& band,
                  Stream& stream) {
  const std::size_t n = like.rows, d = like.cols;
  Columns out(n, d);
  if (kind == Groupless::bent) {
    draw_bent(out, band, stream);
    return out;
  }
  if (kind == Groupless::skewed) {
    draw_skewed(out, form, stream);
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

}  // namespace

StructureTest structure_test(const TableView& x, std::size_t sets, std::uint64_t seed, bool discriminants,
                             std::size_t threads, const Stop& stop) {
  Columns scores(x.rows, x.cols);
  std::copy(x.values, x.values + x.rows * x.cols, scores.values.begin());
  const std::vector<double> sd = deviations(scores);
  StructureTest out;
  const Form form = form_of(scores, sd);
  const Band band = band_of(scores, sd);
  const std::size_t numbers = discriminants ? kMostGroups - 1 : 0;
  out.observed = structure_of(scores, seed, true, discriminants, true);
  out.dips.assign(sets * kKinds, 0.0);
  out.runts.assign(sets * kKinds, 0.0);
  out.betweens.assign(sets * kKinds * numbers, 0.0);
  Watch watch(stop);
  in_parallel(sets * kKinds, threads, [&](std::size_t task) {
    if (watch.over(x.rows * x.rows * x.cols)) return;
    const Groupless kind = static_cast<Groupless>(task / sets);
    if (kind == Groupless::bent && !band.is) return;
    Stream stream(seed, {task / sets, task % sets});
    const Columns table = on_axes(groupless(kind, scores, sd, form, band, stream));
    const Structure found = structure_of(table, seed_at(seed, {task}), kind != Groupless::ranges, discriminants, false);
    out.dips[task] = found.dip;
    out.runts[task] = found.runt;
    for (std::size_t m = 0; m < found.between.size(); ++m)
      out.betweens[(task / sets * numbers + m) * sets + task % sets] = found.between[m];
  });
  out.bent = band.is;
  out.stopped = watch.stopped();
  return out;
}

}  // namespace fjordline
