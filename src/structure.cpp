#include "structure.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "dip.h"
#include "groupless.h"
#include "kmeans.h"
#include "matrices.h"
#include "parallel.h"
#include "spanning-tree.h"
#include "stream.h"
#include "tiles.h"

namespace fjordline {
namespace {

constexpr std::size_t kMostGroups = 6;
constexpr std::size_t kMostThinned = 500;  // rows that discriminants are looked for in
constexpr std::size_t kStarts = 3;   // of 2-means
constexpr std::size_t kFewest = 10;  // rows of a part
constexpr double kShares[] = {1.0, 0.7, 0.5, 0.35, 0.25, 0.175, 0.125};

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

// In rows, a part dips no deeper than what it is a part of: most parts need not be looked at.
void offer(const std::vector<double>& along, std::size_t direction, GroupSigns& best) {
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

// Whether a third centre lies within the ball between two: then rows of that group are missing between theirs (Gabriel
// & Sokal 1969).
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

// The largest dip along the discriminants between the groups of one fit, each of the rows of two groups that no third
// lies between.
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

// `chord`: one more direction, of the rows along a bent band, which 2-means finds in some tables only.
GroupSigns structure_of(const Columns& scores, std::uint64_t seed, bool with_dip, bool discriminants, bool keep,
                       const std::vector<double>& chord = {}) {
  GroupSigns out;
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
  if (!chord.empty()) offer(chord, 0, out);
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

}  // namespace

StructureTest structure_test(const TableView& x, std::size_t from, std::size_t sets, std::uint64_t seed,
                             bool discriminants, std::size_t threads, const Stop& stop) {
  Columns scores(x.rows, x.cols);
  std::copy(x.values, x.values + x.rows * x.cols, scores.values.begin());
  StructureTest out;
  const std::size_t numbers = discriminants ? kMostGroups - 1 : 0;
  out.observed = structure_of(scores, seed, true, discriminants, true);
  const Heap heap = heap_of(scores, out.observed.along);
  const std::size_t kinds = heap.band.is ? kGrouplessKinds : kStraightKinds;
  out.dips.assign(sets * kinds, 0.0);
  out.runts.assign(sets * kinds, 0.0);
  out.betweens.assign(sets * kinds * numbers, 0.0);
  Watch watch(stop);
  in_parallel(sets * kinds, threads, [&](std::size_t task) {
    if (watch.over(x.rows * x.rows * x.cols)) return;
    const Groupless kind = static_cast<Groupless>(task / sets);
    const std::size_t number = from + task % sets;
    Stream stream(seed, {task / sets, number});
    const Columns drawn = groupless(kind, scores, heap, stream);
    const std::vector<double> chord = task / sets < kStraightKinds ? std::vector<double>() : along_chord(drawn, heap);
    const GroupSigns found = structure_of(on_axes(drawn), seed_at(seed, {task / sets, number, 1}),
                                          kind != Groupless::ranges, discriminants, false, chord);
    out.dips[task] = found.dip;
    out.runts[task] = found.runt;
    for (std::size_t m = 0; m < found.between.size(); ++m)
      out.betweens[(task / sets * numbers + m) * sets + task % sets] = found.between[m];
  });
  out.stopped = watch.stopped();
  return out;
}

}  // namespace fjordline
