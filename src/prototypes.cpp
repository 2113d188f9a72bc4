#include "prototypes.h"

#include <algorithm>
#include <limits>
#include <memory>

#include "stream.h"

namespace fjordline {
namespace {

constexpr double kInfinite = std::numeric_limits<double>::infinity();

class Run {
 public:
  Run(const RowTable& x, const Levels& levels, const std::vector<double>& charge, const std::vector<int>& most,
      const SearchSettings& settings, Stream stream, Watch& watch)
      : x_(x), levels_(levels), charge_(charge), most_(most), settings_(settings), stream_(stream), watch_(watch),
        n_(levels.rows), k_(settings.groups), group_(n_, -1), sizes_(k_, 0) {
    prototypes_.means = RowTable(k_, x.cols);
    prototypes_.modes.assign(k_ * levels.cols, 0);
  }

  bool go() {
    if (!seed()) return false;
    bool changed = true;
    while (changed && rounds_ < settings_.max_rounds) {
      ++rounds_;
      if (watch_.over(n_ * k_ * (x_.cols + levels_.cols))) return false;
      changed = assign();
      changed = refill() || changed;
      update();
    }
    converged_ = !changed;
    objective_ = 0.0;
    for (std::size_t i = 0; i < n_; ++i) objective_ += distance(i, group_[i]);
    return true;
  }

  void keep(PrototypeFit& fit) const {
    fit.prototypes = prototypes_;
    fit.group = group_;
    fit.objective = objective_;
    fit.rounds = rounds_;
    fit.converged = converged_;
  }

  double objective() const { return objective_; }
  std::size_t refilled() const { return refilled_; }

 private:
  double distance(std::size_t i, int g) const {
    double sum = squared_distance(x_.row(i), prototypes_.means.row(g), x_.cols);
    const int* mode = prototypes_.modes.data() + static_cast<std::size_t>(g) * levels_.cols;
    for (std::size_t c = 0; c < levels_.cols; ++c)
      if (levels_.at(i, c) != mode[c]) sum += charge_[c];
    return sum;
  }

  void place(std::size_t g, std::size_t row) {
    std::copy(x_.row(row), x_.row(row) + x_.cols, prototypes_.means.row(g));
    for (std::size_t c = 0; c < levels_.cols; ++c) prototypes_.modes[g * levels_.cols + c] = levels_.at(row, c);
  }

  // As k-means is seeded, by this distance: rows far from the prototypes so far are likelier.
  bool seed() {
    std::vector<double> nearest(n_, kInfinite);
    for (std::size_t g = 0; g < k_; ++g) {
      std::size_t row = stream_.below(n_);
      if (g > 0) {
        double sum = 0.0;
        for (double v : nearest) sum += v;
        double left = stream_.uniform() * sum;
        for (std::size_t i = 0; i < n_; ++i) {
          if (nearest[i] <= 0.0) continue;
          row = i;
          left -= nearest[i];
          if (left < 0.0) break;
        }
      }
      place(g, row);
      for (std::size_t i = 0; i < n_; ++i) nearest[i] = std::min(nearest[i], distance(i, static_cast<int>(g)));
      if (watch_.over(n_ * (x_.cols + levels_.cols))) return false;
    }
    return true;
  }

  // A row stays unless another prototype is strictly nearer.
  bool assign() {
    bool changed = false;
    for (std::size_t i = 0; i < n_; ++i) {
      int best = group_[i] < 0 ? 0 : group_[i];
      double least = distance(i, best);
      for (std::size_t g = 0; g < k_; ++g) {
        const double d = distance(i, static_cast<int>(g));
        if (d < least) {
          least = d;
          best = static_cast<int>(g);
        }
      }
      changed = changed || best != group_[i];
      group_[i] = best;
    }
    return changed;
  }

  // An emptied group takes the farthest row (the first of equals) out of a group with more than one.
  bool refill() {
    std::fill(sizes_.begin(), sizes_.end(), 0);
    for (int g : group_) ++sizes_[g];
    bool any = false;
    for (std::size_t g = 0; g < k_; ++g) {
      if (sizes_[g] > 0) continue;
      std::size_t row = n_;
      double farthest = -1.0;
      for (std::size_t i = 0; i < n_; ++i) {
        if (sizes_[group_[i]] < 2) continue;
        const double d = distance(i, group_[i]);
        if (d > farthest) {
          farthest = d;
          row = i;
        }
      }
      --sizes_[group_[row]];
      group_[row] = static_cast<int>(g);
      sizes_[g] = 1;
      place(g, row);
      ++refilled_;
      any = true;
    }
    return any;
  }

  // Means, and the commonest levels, the first of equals; a tie keeps the level there was.
  void update() {
    std::fill(prototypes_.means.values.begin(), prototypes_.means.values.end(), 0.0);
    for (std::size_t i = 0; i < n_; ++i)
      for (std::size_t j = 0; j < x_.cols; ++j) prototypes_.means.row(group_[i])[j] += x_.row(i)[j];
    for (std::size_t g = 0; g < k_; ++g)
      for (std::size_t j = 0; j < x_.cols; ++j) prototypes_.means.row(g)[j] /= static_cast<double>(sizes_[g]);
    for (std::size_t c = 0; c < levels_.cols; ++c) {
      const std::size_t width = static_cast<std::size_t>(most_[c]) + 1;
      std::vector<std::size_t> seen(k_ * width, 0);
      for (std::size_t i = 0; i < n_; ++i)
        if (levels_.at(i, c) >= 0) ++seen[static_cast<std::size_t>(group_[i]) * width + levels_.at(i, c)];
      for (std::size_t g = 0; g < k_; ++g) {
        int& mode = prototypes_.modes[g * levels_.cols + c];
        for (std::size_t l = 0; l < width; ++l)
          if (mode < 0 || seen[g * width + l] > seen[g * width + mode]) mode = static_cast<int>(l);
      }
    }
  }

  const RowTable& x_;
  const Levels& levels_;
  const std::vector<double>& charge_;
  const std::vector<int>& most_;
  const SearchSettings& settings_;
  Stream stream_;
  Watch& watch_;
  std::size_t n_, k_;
  Prototypes prototypes_;
  std::vector<int> group_;
  std::vector<std::size_t> sizes_;
  double objective_ = kInfinite;
  std::size_t rounds_ = 0, refilled_ = 0;
  bool converged_ = false;
};

}  // namespace

PrototypeFit mixed_prototypes(const TableView& numbers, const Levels& levels, const std::vector<double>& charge,
                              const SearchSettings& settings, const Stop& stop) {
  constexpr std::size_t kWave = 8;  // restarts at work together
  const RowTable x = by_rows(numbers);
  std::vector<int> most(levels.cols, 0);
  for (std::size_t c = 0; c < levels.cols; ++c)
    for (std::size_t i = 0; i < levels.rows; ++i) most[c] = std::max(most[c], levels.at(i, c));
  Watch watch(stop);
  PrototypeFit fit;
  for (std::size_t from = 0; from < settings.restarts; from += kWave) {
    std::vector<std::unique_ptr<Run>> wave(std::min(kWave, settings.restarts - from));
    in_parallel(wave.size(), settings.threads, [&](std::size_t r) {
      wave[r] = std::make_unique<Run>(x, levels, charge, most, settings,
                                      Stream(settings.seed, {settings.groups, from + r}), watch);
      wave[r]->go();
    });
    if (watch.stopped()) {
      fit.stopped = true;
      return fit;
    }
    for (const auto& run : wave) {
      if (fit.reached.empty() || run->objective() < fit.objective) run->keep(fit);
      fit.reached.push_back(run->objective());
      fit.refilled += run->refilled();
    }
  }
  return fit;
}

}  // namespace fjordline
