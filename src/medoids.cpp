#include "medoids.h"

#include <algorithm>
#include <limits>

#include "stream.h"

namespace fjordline {
namespace {

// Candidates looked at from the same state, whatever the threads; the best of them is swapped in.
constexpr std::size_t kBatch = 32;
constexpr double kGain = 1e-10;  // of the objective
constexpr double kInfinite = std::numeric_limits<double>::infinity();

class Swapper {
 public:
  Swapper(const Distances& distances, const SearchSettings& settings, Stream stream, Watch& watch)
      : distances_(distances), settings_(settings), stream_(stream), watch_(watch), n_(distances.rows()),
        k_(settings.groups), to_medoid_(k_, n_), medoid_(k_), nearest_(n_), second_(n_), is_medoid_(n_, false),
        loss_(k_) {}

  bool go() {
    seed();
    find_nearest();
    std::size_t since = 0, candidate = 0, looked = 0;
    while (since < n_ && looked < settings_.max_rounds * n_) {
      const std::size_t many = std::min(kBatch, n_ - since);
      std::vector<Swap> found(many);
      std::vector<std::vector<double>> row(many);
      // Small tables are not worth the threads' coming and going.
      in_parallel(many, n_ < 2000 ? 1 : settings_.threads, [&](std::size_t c) {
        if (watch_.over(n_ * 8)) return;
        const std::size_t at = (candidate + c) % n_;
        if (is_medoid_[at]) return;
        row[c].resize(n_);
        distances_.from(at, row[c].data());
        found[c] = evaluate(row[c].data());
      });
      if (watch_.stopped()) return false;
      std::size_t best = 0;
      for (std::size_t c = 1; c < many; ++c)
        if (found[c].change < found[best].change) best = c;
      looked += many;
      if (found[best].change < -kGain * objective_) {
        apply((candidate + best) % n_, found[best].slot, row[best]);
        ++swaps_;
        since = 0;
      } else {
        since += many;
      }
      candidate = (candidate + many) % n_;
    }
    converged_ = since >= n_;
    return true;
  }

  void keep(MedoidFit& fit) const {
    fit.medoid.assign(medoid_.begin(), medoid_.end());
    fit.group.assign(nearest_.begin(), nearest_.end());
    for (std::size_t g = 0; g < k_; ++g) fit.group[medoid_[g]] = static_cast<int>(g);
    fit.objective = objective_;
    fit.swaps = swaps_;
    fit.converged = converged_;
  }

  double objective() const { return objective_; }

 private:
  struct Swap {
    double change = kInfinite;
    std::size_t slot = 0;
  };

  // Each next medoid a row drawn with probability proportional to its distance from the nearest one so far.
  void seed() {
    std::vector<double> nearest(n_, kInfinite);
    for (std::size_t g = 0; g < k_ && !watch_.over(n_); ++g) {
      std::size_t row = n_;
      if (g == 0) {
        row = stream_.below(n_);
      } else {
        double sum = 0.0;
        for (double v : nearest) sum += v;
        double left = stream_.uniform() * sum;
        for (std::size_t i = 0; i < n_; ++i) {
          if (is_medoid_[i]) continue;
          if (row == n_ || nearest[i] > 0.0) row = i;
          left -= nearest[i];
          if (left < 0.0 && nearest[i] > 0.0) break;
        }
      }
      medoid_[g] = static_cast<int>(row);
      is_medoid_[row] = true;
      distances_.from(row, to_medoid_.row(g));
      for (std::size_t i = 0; i < n_; ++i) nearest[i] = std::min(nearest[i], to_medoid_.row(g)[i]);
    }
  }

  double distance(std::size_t i, int slot) const { return slot < 0 ? kInfinite : to_medoid_.row(slot)[i]; }

  void find_nearest() {
    for (std::size_t i = 0; i < n_; ++i) find_nearest(i);
    sum_up();
  }

  void find_nearest(std::size_t i) {
    // The first medoid stands until one is nearer: every row has a nearest one, whatever its distances are.
    nearest_[i] = 0;
    second_[i] = -1;
    for (std::size_t g = 1; g < k_; ++g) {
      const double d = to_medoid_.row(g)[i];
      if (d < distance(i, nearest_[i])) {
        second_[i] = nearest_[i];
        nearest_[i] = static_cast<int>(g);
      } else if (second_[i] < 0 || d < distance(i, second_[i])) {
        second_[i] = static_cast<int>(g);
      }
    }
  }

  // The objective, and what it would lose if a medoid were removed.
  void sum_up() {
    objective_ = 0.0;
    std::fill(loss_.begin(), loss_.end(), 0.0);
    for (std::size_t i = 0; i < n_; ++i) {
      const double own = distance(i, nearest_[i]);
      objective_ += own;
      if (k_ > 1) loss_[nearest_[i]] += distance(i, second_[i]) - own;
    }
  }

  // The best medoid to give up for a candidate at these distances.
  Swap evaluate(const double* candidate) const {
    std::vector<double> change(loss_);
    double shared = 0.0;
    for (std::size_t i = 0; i < n_; ++i) {
      const double d = candidate[i];
      const double own = distance(i, nearest_[i]);
      if (k_ == 1) {
        shared += d - own;
        continue;
      }
      const double other = distance(i, second_[i]);
      if (d < own) {
        shared += d - own;
        change[nearest_[i]] += own - other;
      } else if (d < other) {
        change[nearest_[i]] += d - other;
      }
    }
    Swap best;
    for (std::size_t g = 0; g < k_; ++g) {
      if (change[g] + shared < best.change) {
        best.change = change[g] + shared;
        best.slot = g;
      }
    }
    return best;
  }

  void apply(std::size_t row, std::size_t slot, const std::vector<double>& candidate) {
    is_medoid_[medoid_[slot]] = false;
    is_medoid_[row] = true;
    medoid_[slot] = static_cast<int>(row);
    std::copy(candidate.begin(), candidate.end(), to_medoid_.row(slot));
    const int gone = static_cast<int>(slot);
    for (std::size_t i = 0; i < n_; ++i) {
      if (nearest_[i] == gone || second_[i] == gone) {
        find_nearest(i);
      } else if (candidate[i] < distance(i, nearest_[i])) {
        second_[i] = nearest_[i];
        nearest_[i] = gone;
      } else if (candidate[i] < distance(i, second_[i])) {
        second_[i] = gone;
      }
    }
    sum_up();
  }

  const Distances& distances_;
  const SearchSettings& settings_;
  Stream stream_;
  Watch& watch_;
  std::size_t n_, k_;
  RowTable to_medoid_;  // k x n
  std::vector<int> medoid_, nearest_, second_;
  std::vector<bool> is_medoid_;
  std::vector<double> loss_;
  double objective_ = 0.0;
  std::size_t swaps_ = 0;
  bool converged_ = false;
};

}  // namespace

MedoidFit medoids(const Distances& distances, const SearchSettings& settings, const Stop& stop) {
  Watch watch(stop);
  MedoidFit fit;
  for (std::size_t r = 0; r < settings.restarts; ++r) {
    Swapper swapper(distances, settings, Stream(settings.seed, {settings.groups, r}), watch);
    if (!swapper.go()) {
      fit.stopped = true;
      return fit;
    }
    if (fit.reached.empty() || swapper.objective() < fit.objective) swapper.keep(fit);
    fit.reached.push_back(swapper.objective());
  }
  return fit;
}

}  // namespace fjordline
