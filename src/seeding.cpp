#include "seeding.h"

#include <algorithm>
#include <cmath>

namespace fjordline {
namespace {

constexpr std::size_t kStretch = 4096;

// Four sums side by side, in the same order on every processor: no addition waits for the one before it.
double sum_of(const double* tile_values) {
  double sum[4] = {0.0, 0.0, 0.0, 0.0};
  for (std::size_t r = 0; r < kTile; r += 4)
    for (std::size_t l = 0; l < 4; ++l) sum[l] += tile_values[r + l];
  return (sum[0] + sum[1]) + (sum[2] + sum[3]);
}

void place(const Rows& rows, std::size_t row, double* centre) {
  const double* point = rows.row(row, centre);
  if (point != centre) std::copy(point, point + rows.cols(), centre);
}

RowTable spread_seeds(const Rows& rows, std::size_t groups, Stream& stream, std::size_t threads, Watch& watch) {
  const std::size_t draws = std::min<std::size_t>(kBlock, 2 + static_cast<std::size_t>(std::log(groups)));
  RowTable centres(groups, rows.cols());
  Spread spread(rows, threads, watch);
  place(rows, spread.draw(stream), centres.row(0));
  spread.add(centres.row(0));
  RowTable candidates(draws, rows.cols());
  for (std::size_t g = 1; g < groups && !watch.stopped(); ++g) {
    for (std::size_t c = 0; c < draws; ++c) place(rows, spread.draw(stream), candidates.row(c));
    const std::vector<double> sums = spread.sums_with(candidates);
    const std::size_t best = std::min_element(sums.begin(), sums.end()) - sums.begin();
    std::copy(candidates.row(best), candidates.row(best) + rows.cols(), centres.row(g));
    spread.add_one_of(candidates, best);
  }
  return centres;
}

// A draw equal to an earlier centre is drawn again, a bounded number of times.
RowTable row_seeds(const Rows& rows, std::size_t groups, Stream& stream) {
  RowTable centres(groups, rows.cols());
  for (std::size_t g = 0; g < groups; ++g) {
    for (int tries = 0; tries < 50; ++tries) {
      std::size_t row = stream.below(rows.count());
      for (int more = 0; more < 1000 && !(rows.weight(row) > 0.0); ++more) row = stream.below(rows.count());
      place(rows, row, centres.row(g));
      bool fresh = true;
      for (std::size_t h = 0; h < g && fresh; ++h)
        fresh = squared_distance(centres.row(g), centres.row(h), rows.cols()) > 0.0;
      if (fresh) break;
    }
  }
  return centres;
}

RowTable group_means(const Rows& rows, const std::vector<int>& group, std::size_t groups) {
  RowTable centres(groups, rows.cols());
  std::vector<double> mass(groups, 0.0), one(rows.cols());
  for (std::size_t i = 0; i < rows.count(); ++i) {
    const double* point = rows.row(i, one.data());
    double* centre = centres.row(group[i]);
    for (std::size_t j = 0; j < rows.cols(); ++j) centre[j] += rows.weight(i) * point[j];
    mass[group[i]] += rows.weight(i);
  }
  for (std::size_t g = 0; g < groups; ++g)
    for (std::size_t j = 0; j < rows.cols() && mass[g] > 0.0; ++j) centres.row(g)[j] /= mass[g];
  if (rows.on_sphere())
    for (std::size_t g = 0; g < groups; ++g) to_direction(centres.row(g), rows.cols(), Metric::cosine);
  return centres;
}

RowTable partition_seeds(const Rows& rows, std::size_t groups, Stream& stream) {
  std::vector<int> group(rows.count());
  for (int& g : group) g = static_cast<int>(stream.below(groups));
  return group_means(rows, group, groups);
}

struct Piece {
  std::vector<int> rows;
  double scatter = 0.0;   // of all columns
  std::size_t widest = 0;
  double mean = 0.0;      // of the widest column
};

void look_at(const Rows& rows, Piece& piece) {
  const std::size_t cols = rows.cols();
  std::vector<double> mean(cols, 0.0), squares(cols, 0.0), one(cols);
  double mass = 0.0;
  for (int i : piece.rows) {
    const double w = rows.weight(i);
    if (w <= 0.0) continue;
    mass += w;
    const double* point = rows.row(i, one.data());
    for (std::size_t j = 0; j < cols; ++j) {
      const double gap = point[j] - mean[j];
      mean[j] += w / mass * gap;
      squares[j] += w * gap * (point[j] - mean[j]);
    }
  }
  piece.widest = std::max_element(squares.begin(), squares.end()) - squares.begin();
  piece.mean = mean[piece.widest];
  piece.scatter = 0.0;
  for (double s : squares) piece.scatter += s;
}

RowTable split_seeds(const Rows& rows, std::size_t groups, Watch& watch) {
  std::vector<Piece> pieces(1);
  pieces[0].rows.resize(rows.count());
  for (std::size_t i = 0; i < rows.count(); ++i) pieces[0].rows[i] = static_cast<int>(i);
  look_at(rows, pieces[0]);
  std::vector<double> one(rows.cols());
  while (pieces.size() < groups) {
    std::size_t widest = 0;
    for (std::size_t p = 1; p < pieces.size(); ++p)
      if (pieces[p].scatter > pieces[widest].scatter) widest = p;
    if (!(pieces[widest].scatter > 0.0)) break;
    Piece& whole = pieces[widest];
    Piece low, high;
    for (int i : whole.rows)
      (rows.row(i, one.data())[whole.widest] <= whole.mean ? low : high).rows.push_back(i);
    if (watch.over(whole.rows.size() * rows.cols())) break;
    if (low.rows.empty() || high.rows.empty()) {
      whole.scatter = 0.0;
      continue;
    }
    look_at(rows, low);
    look_at(rows, high);
    whole = std::move(low);
    pieces.push_back(std::move(high));
  }
  std::vector<int> group(rows.count(), 0);
  for (std::size_t p = 0; p < pieces.size(); ++p)
    for (int i : pieces[p].rows) group[i] = static_cast<int>(p);
  return group_means(rows, group, groups);
}

}  // namespace

// Before the first centre every row counts by its weight. Rows past the end stay zero.
Spread::Spread(const Rows& rows, std::size_t threads, Watch& watch)
    : rows_(rows), threads_(threads), watch_(watch), nearest_(rows.tiles() * kTile), by_tile_(rows.tiles()),
      sums_(stretches(), 0.0) {
  std::fill(nearest_.begin(), nearest_.end(), 0.0);
  for (std::size_t i = 0; i < rows.count(); ++i) nearest_[i] = rows.weight(i);
  for (std::size_t t = 0; t < by_tile_.size(); ++t) {
    by_tile_[t] = sum_of(nearest_.data() + t * kTile);
    sums_[t * kTile / kStretch] += by_tile_[t];
  }
}

std::size_t Spread::stretches() const { return (rows_.count() + kStretch - 1) / kStretch; }

double Spread::sum() const {
  double sum = 0.0;
  for (double s : sums_) sum += s;
  return sum;
}

void Spread::weigh(std::size_t from, double* distance) const {
  if (!rows_.weighted()) return;
  for (std::size_t r = 0; r < kTile && from + r < rows_.count(); ++r) distance[r] *= rows_.weight(from + r);
}

void Spread::add(const double* centre) {
  const bool plain = !fresh_ && !rows_.weighted();
  in_parallel(stretches(), threads_, [&](std::size_t s) {
    const std::size_t end = std::min(rows_.count(), (s + 1) * kStretch);
    if (watch_.over((end - s * kStretch) * rows_.cols())) return;
    Lined scratch(rows_.in_tiles() ? 0 : rows_.cols() * kTile);
    alignas(64) double out[kTile];
    double sum = 0.0;
    for (std::size_t from = s * kStretch; from < end; from += kTile) {
      double* nearest = nearest_.data() + from;
      const double* tile = rows_.tile(from, scratch.data());
      if (plain && from + kTile <= rows_.count()) {
        by_tile_[from / kTile] = tile_kernels().lower(tile, rows_.cols(), centre, nearest);
      } else {
        tile_kernels().distance_to(tile, rows_.cols(), centre, out);
        weigh(from, out);
        const std::size_t full = std::min(kTile, rows_.count() - from);
        for (std::size_t r = 0; r < full; ++r) nearest[r] = fresh_ ? out[r] : std::min(nearest[r], out[r]);
        by_tile_[from / kTile] = sum_of(nearest);
      }
      sum += by_tile_[from / kTile];
    }
    sums_[s] = sum;
  });
  fresh_ = false;
}

std::size_t Spread::draw(Stream& stream) const {
  double left = stream.uniform() * sum();
  std::size_t s = 0;
  while (s + 1 < sums_.size() && left >= sums_[s]) left -= sums_[s++];
  std::size_t t = s * kStretch / kTile;
  const std::size_t end = std::min(by_tile_.size(), t + kStretch / kTile);
  while (t + 1 < end && left >= by_tile_[t]) left -= by_tile_[t++];
  std::size_t last = rows_.count();
  for (std::size_t i = t * kTile; i < rows_.count(); ++i) {
    if (nearest_[i] <= 0.0) continue;
    last = i;
    left -= nearest_[i];
    if (left < 0.0) break;
  }
  if (last < rows_.count()) return last;
  for (std::size_t i = 0; i < rows_.count(); ++i)  // rounding went past the end
    if (nearest_[i] > 0.0) last = i;
  return last < rows_.count() ? last : 0;
}

void Spread::add_one_of(const RowTable& candidates, std::size_t which) {
  if (kept_.empty()) {
    add(candidates.row(which));
    return;
  }
  sums_[0] = 0.0;
  for (std::size_t t = 0; t < by_tile_.size(); ++t) {
    double* nearest = nearest_.data() + t * kTile;
    const double* distance = kept_.data() + (t * kBlock + which) * kTile;
    const std::size_t full = std::min(kTile, rows_.count() - t * kTile);
    for (std::size_t r = 0; r < full; ++r) nearest[r] = std::min(nearest[r], distance[r]);
    by_tile_[t] = sum_of(nearest);
    sums_[0] += by_tile_[t];
  }
}

std::vector<double> Spread::sums_with(const RowTable& candidates) {
  blocks_.pack(candidates, nullptr, candidates.rows, true);
  std::vector<double> by_stretch(stretches() * kBlock, 0.0);
  const bool keep = stretches() == 1;
  if (keep) kept_.resize(by_tile_.size() * kBlock * kTile);
  in_parallel(stretches(), threads_, [&](std::size_t s) {
    const std::size_t end = std::min(rows_.count(), (s + 1) * kStretch);
    if (watch_.over((end - s * kStretch) * rows_.cols() * candidates.rows)) return;
    Lined scratch(rows_.in_tiles() ? 0 : rows_.cols() * kTile);
    alignas(64) double room[kBlock * kTile];
    alignas(64) double lanes[kBlock * kTile] = {};
    for (std::size_t from = s * kStretch; from < end; from += kTile) {
      double* out = keep ? kept_.data() + from * kBlock : room;
      tile_kernels().distances(rows_.tile(from, scratch.data()), rows_.cols(), blocks_, out);
      for (std::size_t c = 0; c < candidates.rows; ++c) {
        weigh(from, out + c * kTile);
        tile_kernels().add_smaller(nearest_.data() + from, out + c * kTile, lanes + c * kTile);
      }
    }
    for (std::size_t c = 0; c < candidates.rows; ++c) by_stretch[s * kBlock + c] = sum_of(lanes + c * kTile);
  });
  std::vector<double> sums(candidates.rows, 0.0);
  for (std::size_t s = 0; s < stretches(); ++s)
    for (std::size_t c = 0; c < candidates.rows; ++c) sums[c] += by_stretch[s * kBlock + c];
  return sums;
}

RowTable seeds(const Rows& rows, std::size_t groups, Seeding seeding, Stream& stream, std::size_t threads,
               Watch& watch) {
  switch (seeding) {
    case Seeding::rows: return row_seeds(rows, groups, stream);
    case Seeding::partition: return partition_seeds(rows, groups, stream);
    case Seeding::splits: return split_seeds(rows, groups, watch);
    default: return spread_seeds(rows, groups, stream, threads, watch);
  }
}

}  // namespace fjordline
