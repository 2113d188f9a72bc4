#include "pairs.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace fjordline {
namespace {

constexpr std::size_t kBand = 16;  // tiles worked on together: their rows stay in the cache
constexpr std::size_t kCells = kTile * kTile;

// Bands of tiles meet in rounds in which no band appears twice, as players do in a tournament: every sum is added to by
// one thread at a time and in the same order for any number of threads. `work` gets two bands, in the first round one.
template <class Work>
bool tournament(std::size_t tiles, std::size_t threads, Watch& watch, std::size_t steps, const Work& work) {
  const std::size_t bands = (tiles + kBand - 1) / kBand;
  in_parallel(bands, threads, [&](std::size_t b) {
    if (!watch.over(steps / 2)) work(b, b);
  });
  const std::size_t players = bands + bands % 2;
  for (std::size_t round = 0; players > 1 && round + 1 < players && !watch.stopped(); ++round) {
    in_parallel(players / 2, threads, [&](std::size_t table) {
      const std::size_t wheel = players - 1;
      std::size_t a = table == 0 ? wheel : (round + table) % wheel;
      std::size_t b = (round + wheel - table) % wheel;
      if (a > b) std::swap(a, b);
      if (b < bands && !watch.over(steps)) work(a, b);
    });
  }
  return !watch.stopped();
}

std::size_t band_steps(std::size_t cost) { return kBand * kBand * kCells * cost; }

// Where each row's distances are added, by labeling: its group's place among the groups of all labelings.
struct Slots {
  std::size_t lists, width = 1;    // slot 0 takes what is left out
  std::vector<std::size_t> start;
  std::vector<int> of_row;         // tiles x 16 x lists

  Slots(const Labelings& labelings, std::size_t rows, std::size_t tiles) : lists(labelings.counts.size()) {
    for (int k : labelings.counts) {
      start.push_back(width);
      width += static_cast<std::size_t>(k);
    }
    of_row.assign(tiles * kTile * lists, 0);
    for (std::size_t m = 0; m < lists; ++m) {
      for (std::size_t i = 0; i < rows; ++i) {
        const int g = labelings.groups[m * rows + i];
        if (g > 0) of_row[i * lists + m] = static_cast<int>(start[m]) + g - 1;
      }
    }
  }
  const int* tile(std::size_t t) const { return of_row.data() + t * kTile * lists; }
};

void silhouettes(const int* group, std::size_t rows, std::size_t k, const std::vector<double>& size, PairSums& out,
                 const std::vector<const double*>& to_groups) {
  out.width.assign(rows, std::numeric_limits<double>::quiet_NaN());
  out.neighbour.assign(rows, 0);
  for (std::size_t i = 0; i < rows; ++i) {
    if (group[i] == 0 || k < 2) continue;
    const double* sum = to_groups[i];
    const std::size_t own = static_cast<std::size_t>(group[i] - 1);
    double nearest = std::numeric_limits<double>::infinity();
    for (std::size_t g = 0; g < k; ++g) {
      if (g == own || size[g] == 0.0) continue;
      const double mean = sum[g * kTile] / size[g];
      if (mean < nearest) {
        nearest = mean;
        out.neighbour[i] = static_cast<int>(g) + 1;
      }
    }
    if (out.neighbour[i] == 0) continue;
    const double within = size[own] > 1.0 ? sum[own * kTile] / (size[own] - 1.0) : 0.0;
    const double larger = std::max(within, nearest);
    out.width[i] = size[own] > 1.0 && larger > 0.0 ? (nearest - within) / larger : 0.0;
  }
}

}  // namespace

PairBlocks::PairBlocks(const TableView& x, Metric metric, std::size_t threads)
    : kernels_(tile_kernels()), rows_(x.rows), cols_(x.cols), metric_(metric) {
  const Rows rows(x, metric, nullptr, threads);
  root_ = metric == Metric::euclidean;
  unit_ = rows.on_sphere() ? 0.5 : std::sqrt(rows.squared_unit());
  tiles_.resize(tiles() * kTile * cols_);
  in_parallel(tiles(), rows_ > 4096 ? threads : 1, [&](std::size_t t) {
    double* to = tiles_.data() + t * kTile * cols_;
    const double* from = rows.tile(t * kTile, to);
    if (from != to) std::copy(from, from + kTile * cols_, to);
  });
}

PairBlocks::PairBlocks(const TableView& square)
    : kernels_(tile_kernels()), rows_(square.rows), cols_(square.cols), square_(square.values) {}

void PairBlocks::block(std::size_t first, std::size_t second, double* out) const {
  if (square_) {
    for (std::size_t l = 0; l < kTile; ++l)
      for (std::size_t i = 0; i < kTile; ++i)
        out[l * kTile + i] = square_[std::min(second * kTile + l, rows_ - 1) * rows_ +
                                     std::min(first * kTile + i, rows_ - 1)];
    return;
  }
  const std::size_t how = metric_ == Metric::manhattan ? 1 : metric_ == Metric::chebyshev ? 2 : 0;
  kernels_.pairs[how](tiles_.data() + first * kTile * cols_, tiles_.data() + second * kTile * cols_, cols_, out);
  if (root_) kernels_.roots(out);
}

bool pair_sums(const PairBlocks& pairs, const Labelings& labelings, std::size_t threads, const Stop& stop,
               std::vector<PairSums>& out) {
  const TileKernels& kernels = tile_kernels();
  const std::size_t rows = pairs.rows(), tiles = pairs.tiles();
  const Slots slots(labelings, rows, tiles);
  Lined sums(tiles * slots.width * kTile);
  std::fill(sums.begin(), sums.end(), 0.0);
  const auto sums_of = [&](std::size_t t) { return sums.data() + t * slots.width * kTile; };
  Watch watch(stop);
  const bool done = tournament(tiles, threads, watch, band_steps(20 + slots.lists), [&](std::size_t a, std::size_t b) {
    Lined block(kCells), turned(kCells);
    const double* lines[kTile];
    for (std::size_t l = 0; l < kTile; ++l) lines[l] = block.data() + l * kTile;
    for (std::size_t t = a * kBand; t < std::min(tiles, (a + 1) * kBand); ++t) {
      for (std::size_t u = std::max(t, b * kBand); u < std::min(tiles, (b + 1) * kBand); ++u) {
        pairs.block(t, u, block.data());
        kernels.spread(block.data(), slots.tile(u), slots.lists, sums_of(t));
        if (t == u) continue;
        kernels.turn(lines, kTile, turned.data());
        kernels.spread(turned.data(), slots.tile(t), slots.lists, sums_of(u));
      }
    }
  });
  if (!done) return false;

  out.assign(slots.lists, PairSums());
  in_parallel(slots.lists, threads, [&](std::size_t m) {
    const int* group = labelings.groups + m * rows;
    const std::size_t k = static_cast<std::size_t>(labelings.counts[m]);
    std::vector<double> size(k, 0.0);
    std::vector<const double*> to_groups(rows);
    out[m].between.assign(k * k, 0.0);
    for (std::size_t i = 0; i < rows; ++i) {
      to_groups[i] = sums_of(i / kTile) + slots.start[m] * kTile + i % kTile;
      if (group[i] == 0) continue;
      const std::size_t own = static_cast<std::size_t>(group[i] - 1);
      size[own] += 1.0;
      for (std::size_t g = 0; g < k; ++g) out[m].between[own * k + g] += to_groups[i][g * kTile];
    }
    for (double& sum : out[m].between) sum *= pairs.unit();
    silhouettes(group, rows, k, size, out[m], to_groups);
  });
  return true;
}

bool pair_ends(const PairBlocks& pairs, const Labelings& labelings, std::size_t threads, const Stop& stop,
               std::vector<PairEnds>& out) {
  const std::size_t rows = pairs.rows(), tiles = pairs.tiles(), lists = labelings.counts.size();
  const std::size_t bands = (tiles + kBand - 1) / kBand;
  const PairEnds none{std::numeric_limits<double>::infinity(), 0.0};
  std::vector<std::vector<PairEnds>> of_band(bands, std::vector<PairEnds>(lists, none));
  Watch watch(stop);
  const bool done = tournament(tiles, threads, watch, band_steps(20 + 4 * lists), [&](std::size_t a, std::size_t b) {
    Lined block(kCells);
    for (std::size_t t = a * kBand; t < std::min(tiles, (a + 1) * kBand); ++t) {
      for (std::size_t u = std::max(t, b * kBand); u < std::min(tiles, (b + 1) * kBand); ++u) {
        pairs.block(t, u, block.data());
        for (std::size_t m = 0; m < lists; ++m) {
          const int* group = labelings.groups + m * rows;
          PairEnds& ends = of_band[a][m];
          for (std::size_t l = 0; l < kTile && u * kTile + l < rows; ++l) {
            const int other = group[u * kTile + l];
            if (other == 0) continue;
            for (std::size_t i = 0; i < kTile && t * kTile + i < rows; ++i) {
              const int own = group[t * kTile + i];
              const double d = block[l * kTile + i];
              if (own == other) ends.within = std::max(ends.within, d);
              else if (own > 0) ends.between = std::min(ends.between, d);
            }
          }
        }
      }
    }
  });
  if (!done) return false;
  out.assign(lists, none);
  for (const auto& band : of_band) {
    for (std::size_t m = 0; m < lists; ++m) {
      out[m].between = std::min(out[m].between, band[m].between);
      out[m].within = std::max(out[m].within, band[m].within);
    }
  }
  for (PairEnds& ends : out) {
    ends.between *= pairs.unit();
    ends.within *= pairs.unit();
  }
  return true;
}

namespace {

struct Pair {
  double distance;
  int a, b;
};

std::vector<Pair> sorted_pairs(const PairBlocks& pairs) {
  std::vector<Pair> out;
  out.reserve(pairs.rows() * (pairs.rows() - 1) / 2);
  Lined block(kCells);
  for (std::size_t t = 0; t < pairs.tiles(); ++t) {
    for (std::size_t u = t; u < pairs.tiles(); ++u) {
      pairs.block(t, u, block.data());
      for (std::size_t i = t * kTile; i < std::min(pairs.rows(), (t + 1) * kTile); ++i)
        for (std::size_t l = std::max(i + 1, u * kTile); l < std::min(pairs.rows(), (u + 1) * kTile); ++l)
          out.push_back({block[l % kTile * kTile + i % kTile], static_cast<int>(i), static_cast<int>(l)});
    }
  }
  std::sort(out.begin(), out.end(), [](const Pair& x, const Pair& y) { return x.distance < y.distance; });
  return out;
}

PairOrder order_of(const std::vector<Pair>& sorted, const int* group, double unit) {
  PairOrder out;
  double all = 0.0, squares = 0.0, within_pairs = 0.0, covered = 0.0;
  for (const Pair& pair : sorted) {
    if (group[pair.a] == 0 || group[pair.b] == 0) continue;
    covered += 1.0;
    all += pair.distance;
    squares += pair.distance * pair.distance;
    if (group[pair.a] != group[pair.b]) continue;
    within_pairs += 1.0;
    out.within += pair.distance;
  }
  double place = 0.0, within_before = 0.0, between_before = 0.0;
  for (std::size_t from = 0; from < sorted.size();) {
    double within = 0.0, between = 0.0;  // of equal distance
    std::size_t at = from;
    for (; at < sorted.size() && sorted[at].distance == sorted[from].distance; ++at) {
      const int a = group[sorted[at].a], b = group[sorted[at].b];
      if (a == 0 || b == 0) continue;
      if (place < within_pairs) out.smallest += sorted[at].distance;
      if (place >= covered - within_pairs) out.largest += sorted[at].distance;
      place += 1.0;
      (a == b ? within : between) += 1.0;
    }
    out.concordant += between * within_before;
    out.discordant += within * between_before;
    within_before += within;
    between_before += between;
    from = at;
  }
  const double between_pairs = covered - within_pairs;
  const double share = between_pairs / covered, mean = all / covered;
  const double spread = (squares / covered - mean * mean) * share * (1.0 - share);
  out.correlation = spread > 1e-20 * squares ? ((all - out.within) / covered - mean * share) / std::sqrt(spread)
                                             : std::numeric_limits<double>::quiet_NaN();
  for (double* sum : {&out.within, &out.smallest, &out.largest}) *sum *= unit;
  return out;
}

}  // namespace

bool pair_order(const PairBlocks& pairs, const Labelings& labelings, std::size_t threads, const Stop& stop,
                std::vector<PairOrder>& out) {
  Watch watch(stop);
  if (watch.over(10000000)) return false;
  const std::vector<Pair> sorted = sorted_pairs(pairs);
  out.assign(labelings.counts.size(), PairOrder());
  in_parallel(out.size(), threads, [&](std::size_t m) {
    if (!watch.over(sorted.size())) out[m] = order_of(sorted, labelings.groups + m * pairs.rows(), pairs.unit());
  });
  return !watch.stopped();
}

}  // namespace fjordline
