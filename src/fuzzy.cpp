#include "fuzzy.h"

#include <algorithm>
#include <cmath>

#include "seeding.h"
#include "stream.h"

namespace fjordline {
namespace {

constexpr std::size_t kStretch = 4096;

// Squared distances to k centres, `step` apart, become memberships. Those at distance 0 share the row.
void share(double* value, std::size_t k, std::size_t step, double fuzziness) {
  double least = value[0];
  for (std::size_t g = 1; g < k; ++g) least = std::min(least, value[g * step]);
  double sum = 0.0;
  for (std::size_t g = 0; g < k; ++g) {
    double& v = value[g * step];
    if (least == 0.0) v = v == 0.0 ? 1.0 : 0.0;
    else v = fuzziness == 2.0 ? least / v : std::pow(least / v, 1.0 / (fuzziness - 1.0));
    sum += v;
  }
  for (std::size_t g = 0; g < k; ++g) value[g * step] /= sum;
}

struct Part {
  std::vector<double> sum, mass;
  double objective = 0.0;
};

class Run {
 public:
  Run(const Rows& rows, const FuzzySettings& settings, Watch& watch, RowTable centres)
      : rows_(rows), settings_(settings), watch_(watch), centres_(std::move(centres)),
        parts_((rows.count() + kStretch - 1) / kStretch) {}

  bool go(double spread) {
    const double least = settings_.tolerance * settings_.tolerance * spread;
    while (!converged_ && rounds_ < settings_.max_rounds) {
      ++rounds_;
      if (!round()) return false;
      converged_ = move() <= least;
    }
    return round();  // the objective of the last centres
  }

  const RowTable& centres() const { return centres_; }
  std::size_t rounds() const { return rounds_; }
  bool converged() const { return converged_; }
  double objective() const {
    double sum = 0.0;
    for (const Part& part : parts_) sum += part.objective;
    return sum;
  }

 private:
  bool round() {
    CentreBlocks blocks;
    blocks.pack(centres_, nullptr, centres_.rows, true);
    in_parallel(parts_.size(), settings_.threads, [&](std::size_t s) { stretch(s, blocks); });
    return !watch_.stopped();
  }

  void stretch(std::size_t s, const CentreBlocks& blocks) {
    const std::size_t k = centres_.rows, cols = centres_.cols;
    const std::size_t end = std::min(rows_.count(), (s + 1) * kStretch);
    Part& part = parts_[s];
    part.sum.assign(k * cols, 0.0);
    part.mass.assign(k, 0.0);
    part.objective = 0.0;
    if (watch_.over((end - s * kStretch) * k * cols)) return;
    Lined scratch(cols * kTile), value((k + kBlock) * kTile);
    std::vector<double> squared(k), one(cols);
    for (std::size_t from = s * kStretch; from < end; from += kTile) {
      const double* tile = rows_.tile(from, scratch.data());
      tile_kernels().distances(tile, cols, blocks, value.data());
      for (std::size_t r = 0; r < kTile && from + r < end; ++r) {
        for (std::size_t g = 0; g < k; ++g) squared[g] = value[g * kTile + r];
        share(value.data() + r, k, kTile, settings_.fuzziness);
        const double* point = rows_.row(from + r, one.data());
        for (std::size_t g = 0; g < k; ++g) {
          const double u = value[g * kTile + r];
          const double weight = settings_.fuzziness == 2.0 ? u * u : std::pow(u, settings_.fuzziness);
          part.mass[g] += weight;
          part.objective += weight * squared[g];
          double* to = part.sum.data() + g * cols;
          for (std::size_t j = 0; j < cols; ++j) to[j] += weight * point[j];
        }
      }
    }
  }

  // Centres to their weighted means; the farthest squared move.
  double move() {
    double farthest = 0.0;
    std::vector<double> mean(centres_.cols);
    for (std::size_t g = 0; g < centres_.rows; ++g) {
      double mass = 0.0;
      std::fill(mean.begin(), mean.end(), 0.0);
      for (const Part& part : parts_) {
        mass += part.mass[g];
        for (std::size_t j = 0; j < centres_.cols; ++j) mean[j] += part.sum[g * centres_.cols + j];
      }
      if (!(mass > 0.0)) continue;
      for (double& m : mean) m /= mass;
      farthest = std::max(farthest, squared_distance(mean.data(), centres_.row(g), centres_.cols));
      std::copy(mean.begin(), mean.end(), centres_.row(g));
    }
    return farthest;
  }

  const Rows& rows_;
  const FuzzySettings& settings_;
  Watch& watch_;
  RowTable centres_;
  std::vector<Part> parts_;
  std::size_t rounds_ = 0;
  bool converged_ = false;
};

// Mean squared distance from the middle, which is the origin of Rows.
double mean_square(const Rows& rows) {
  std::vector<double> one(rows.cols()), origin(rows.cols(), 0.0);
  double sum = 0.0;
  for (std::size_t i = 0; i < rows.count(); ++i)
    sum += squared_distance(rows.row(i, one.data()), origin.data(), rows.cols());
  return sum / static_cast<double>(rows.count());
}

}  // namespace

FuzzyFit fuzzy_means(const TableView& x, const FuzzySettings& settings, const Stop& stop) {
  const Rows rows(x, Metric::euclidean, nullptr, settings.threads);
  Watch watch(stop);
  FuzzyFit fit;
  fit.distinct = rows.distinct(settings.groups);
  if (fit.distinct < settings.groups) return fit;
  const double spread = mean_square(rows);
  for (std::size_t r = 0; r < settings.restarts; ++r) {
    Stream stream(settings.seed, {settings.groups, r});
    Run run(rows, settings, watch, seeds(rows, settings.groups, Seeding::spread, stream, settings.threads, watch));
    if (watch.stopped() || !run.go(spread)) {
      fit.stopped = true;
      return fit;
    }
    const double objective = run.objective() * rows.squared_unit();
    if (fit.reached.empty() || objective < fit.objective) {
      fit.objective = objective;
      fit.centres = run.centres();
      fit.rounds = run.rounds();
      fit.converged = run.converged();
    }
    fit.reached.push_back(objective);
  }
  rows.outward(fit.centres);
  return fit;
}

std::vector<double> memberships(const TableView& x, const TableView& centres, double fuzziness, std::size_t threads) {
  const RowTable targets = by_rows(centres);
  std::vector<double> out(x.rows * targets.rows);
  in_parallel((x.rows + kStretch - 1) / kStretch, threads, [&](std::size_t s) {
    std::vector<double> point(x.cols), value(targets.rows);
    for (std::size_t i = s * kStretch; i < std::min(x.rows, (s + 1) * kStretch); ++i) {
      for (std::size_t j = 0; j < x.cols; ++j) point[j] = x.at(i, j);
      for (std::size_t g = 0; g < targets.rows; ++g)
        value[g] = squared_distance(point.data(), targets.row(g), x.cols);
      share(value.data(), targets.rows, 1, fuzziness);
      for (std::size_t g = 0; g < targets.rows; ++g) out[g * x.rows + i] = value[g];
    }
  });
  return out;
}

}  // namespace fjordline
