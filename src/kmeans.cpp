#include "kmeans.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "stream.h"

namespace fjordline {
namespace {

constexpr double kTransferGain = 1e-10;

// One restart at work: rows, centres and memberships, all in row-major centred coordinates.
class Run {
 public:
  Run(const RowTable& x, const KmeansSettings& settings, Stream stream, Patience& patience)
      : x_(x), settings_(settings), stream_(stream), patience_(patience),
        centres_(settings.groups, x.cols), group_(x.rows, -1), sizes_(settings.groups, 0) {}

  bool go() {  // false when the user interrupted
    if (settings_.seeding == Seeding::spread) seed_spread(); else seed_rows();
    bool settled = false;
    while (!settled && rounds_ < settings_.max_rounds) {
      if (!lloyd()) return false;
      const int moved = transfer();
      if (moved < 0) return false;
      settled = moved == 0;
    }
    converged_ = settled;
    update_centres();
    return true;
  }

  double scatter() const {
    double sum = 0.0;
    for (std::size_t i = 0; i < x_.rows; ++i) sum += own_distance(i);
    return sum;
  }

  std::vector<double> group_scatter() const {
    std::vector<double> sums(settings_.groups, 0.0);
    for (std::size_t i = 0; i < x_.rows; ++i) sums[group_[i]] += own_distance(i);
    return sums;
  }

  const std::vector<int>& group() const { return group_; }
  const RowTable& centres() const { return centres_; }
  std::size_t rounds() const { return rounds_; }
  std::size_t refilled() const { return refilled_; }
  bool converged() const { return converged_; }

 private:
  double own_distance(std::size_t i) const {
    return squared_distance(x_.row(i), centres_.row(group_[i]), x_.cols);
  }

  void place_centre(std::size_t g, std::size_t row) {
    std::copy(x_.row(row), x_.row(row) + x_.cols, centres_.row(g));
  }

  // Distinct random rows. A draw equal to an earlier centre is redrawn, a bounded number of times.
  void seed_rows() {
    for (std::size_t g = 0; g < settings_.groups; ++g) {
      for (int tries = 0; tries < 50; ++tries) {
        place_centre(g, stream_.below(x_.rows));
        bool fresh = true;
        for (std::size_t h = 0; h < g && fresh; ++h)
          fresh = squared_distance(centres_.row(g), centres_.row(h), x_.cols) > 0.0;
        if (fresh) break;
      }
    }
  }

  // Arthur & Vassilvitskii (2007): each next centre drawn with probability proportional to the
  // squared distance from the nearest one so far; of 2 + log k draws the best is kept.
  void seed_spread() {
    const std::size_t n = x_.rows;
    const int candidates = 2 + static_cast<int>(std::log(static_cast<double>(settings_.groups)));
    std::vector<double> nearest(n, std::numeric_limits<double>::infinity());
    std::vector<double> trial(n), best(n);
    place_centre(0, stream_.below(n));
    for (std::size_t i = 0; i < n; ++i) nearest[i] = squared_distance(x_.row(i), centres_.row(0), x_.cols);
    for (std::size_t g = 1; g < settings_.groups; ++g) {
      double total = 0.0;
      for (double v : nearest) total += v;
      double best_left = std::numeric_limits<double>::infinity();
      std::size_t best_row = 0;
      for (int c = 0; c < candidates; ++c) {
        const std::size_t row = draw(nearest, total);
        double left = 0.0;
        for (std::size_t i = 0; i < n; ++i) {
          trial[i] = std::min(nearest[i], squared_distance(x_.row(i), x_.row(row), x_.cols));
          left += trial[i];
        }
        if (left < best_left) {
          best_left = left;
          best_row = row;
          best.swap(trial);
        }
      }
      place_centre(g, best_row);
      nearest.swap(best);
    }
  }

  // A row with probability proportional to its weight; never one of weight 0 while others exist.
  std::size_t draw(const std::vector<double>& weight, double total) {
    double left = stream_.uniform() * total;
    std::size_t last = 0;
    for (std::size_t i = 0; i < weight.size(); ++i) {
      if (weight[i] <= 0.0) continue;
      last = i;
      left -= weight[i];
      if (left < 0.0) break;
    }
    return last;
  }

  bool lloyd() {
    while (rounds_ < settings_.max_rounds) {
      ++rounds_;
      bool changed = false;
      for (std::size_t i = 0; i < x_.rows; ++i) {
        const int g = nearest_to(i);
        changed = changed || g != group_[i];
        group_[i] = g;
        if (patience_.over(settings_.groups * x_.cols)) return false;
      }
      const bool refilled = refill_empty();
      update_centres();
      if (!changed && !refilled) break;
    }
    return true;
  }

  // The nearest centre; a row stays where it is unless another is strictly nearer.
  int nearest_to(std::size_t i) const {
    int best = group_[i] < 0 ? 0 : group_[i];
    double best_distance = squared_distance(x_.row(i), centres_.row(best), x_.cols);
    for (std::size_t g = 0; g < settings_.groups; ++g) {
      const double distance = squared_distance(x_.row(i), centres_.row(g), x_.cols);
      if (distance < best_distance) {
        best_distance = distance;
        best = static_cast<int>(g);
      }
    }
    return best;
  }

  // A group that emptied takes the row farthest from its own centre (the first of equals) out of
  // a group that has more than one row.
  bool refill_empty() {
    count_sizes();
    bool any = false;
    for (std::size_t g = 0; g < settings_.groups; ++g) {
      if (sizes_[g] > 0) continue;
      double farthest = -1.0;
      std::size_t row = 0;
      for (std::size_t i = 0; i < x_.rows; ++i) {
        if (sizes_[group_[i]] < 2) continue;
        const double distance = own_distance(i);
        if (distance > farthest) {
          farthest = distance;
          row = i;
        }
      }
      --sizes_[group_[row]];
      group_[row] = static_cast<int>(g);
      sizes_[g] = 1;
      place_centre(g, row);
      ++refilled_;
      any = true;
    }
    return any;
  }

  // Moves single rows while that lowers W; returns how many moved, -1 when interrupted.
  int transfer() {
    const double least = kTransferGain * scatter();
    int moved = 0;
    for (std::size_t i = 0; i < x_.rows; ++i) {
      const int from = group_[i];
      if (sizes_[from] < 2) continue;
      const double size = static_cast<double>(sizes_[from]);
      const double saved = size / (size - 1.0) * own_distance(i);
      int to = from;
      double least_cost = saved;
      for (std::size_t g = 0; g < settings_.groups; ++g) {
        if (static_cast<int>(g) == from) continue;
        const double other = static_cast<double>(sizes_[g]);
        const double cost = other / (other + 1.0) * squared_distance(x_.row(i), centres_.row(g), x_.cols);
        if (cost < least_cost) {
          least_cost = cost;
          to = static_cast<int>(g);
        }
      }
      if (to != from && saved - least_cost > least) {
        shift_centre(from, i, -1.0);
        shift_centre(to, i, 1.0);
        group_[i] = to;
        ++moved;
      }
      if (patience_.over(settings_.groups * x_.cols)) return -1;
    }
    if (moved > 0) update_centres();
    return moved;
  }

  void shift_centre(int g, std::size_t row, double sign) {
    const double size = static_cast<double>(sizes_[g]) + sign;
    double* centre = centres_.row(g);
    const double* point = x_.row(row);
    for (std::size_t j = 0; j < x_.cols; ++j) centre[j] += sign * (point[j] - centre[j]) / size;
    sizes_[g] = static_cast<std::size_t>(size);
  }

  void count_sizes() {
    std::fill(sizes_.begin(), sizes_.end(), 0);
    for (int g : group_) ++sizes_[g];
  }

  void update_centres() {
    count_sizes();
    std::fill(centres_.values.begin(), centres_.values.end(), 0.0);
    for (std::size_t i = 0; i < x_.rows; ++i) {
      double* centre = centres_.row(group_[i]);
      const double* point = x_.row(i);
      for (std::size_t j = 0; j < x_.cols; ++j) centre[j] += point[j];
    }
    for (std::size_t g = 0; g < settings_.groups; ++g)
      for (std::size_t j = 0; j < x_.cols; ++j) centres_.row(g)[j] /= static_cast<double>(sizes_[g]);
  }

  const RowTable& x_;
  const KmeansSettings& settings_;
  Stream stream_;
  Patience& patience_;
  RowTable centres_;
  std::vector<int> group_;
  std::vector<std::size_t> sizes_;
  std::size_t rounds_ = 0;
  std::size_t refilled_ = 0;
  bool converged_ = false;
};

// Subtracts the column means: differences of large, close numbers would lose their digits.
std::vector<double> centre_columns(RowTable& x) {
  std::vector<double> middle(x.cols, 0.0);
  for (std::size_t j = 0; j < x.cols; ++j) {
    for (std::size_t i = 0; i < x.rows; ++i) middle[j] += x.row(i)[j] / static_cast<double>(x.rows);
    for (std::size_t i = 0; i < x.rows; ++i) x.row(i)[j] -= middle[j];
  }
  return middle;
}

void keep(const Run& run, double scatter, KmeansFit& fit) {
  fit.group = run.group();
  fit.centres = run.centres();
  fit.group_scatter = run.group_scatter();
  fit.scatter = scatter;
  fit.rounds = run.rounds();
  fit.converged = run.converged();
}

}  // namespace

KmeansFit kmeans(const TableView& x, const KmeansSettings& settings, const Stop& stop) {
  RowTable rows = by_rows(x);
  const std::vector<double> middle = centre_columns(rows);
  Patience patience(stop);
  KmeansFit fit;
  fit.scatter = std::numeric_limits<double>::infinity();
  for (std::size_t r = 0; r < settings.restarts; ++r) {
    Run run(rows, settings, Stream(settings.seed, {settings.groups, r}), patience);
    if (!run.go()) {
      fit.stopped = true;
      return fit;
    }
    const double scatter = run.scatter();
    fit.restart_scatter.push_back(scatter);
    fit.refilled += run.refilled();
    if (scatter < fit.scatter || fit.group.empty()) keep(run, scatter, fit);
  }
  for (std::size_t g = 0; g < settings.groups; ++g)
    for (std::size_t j = 0; j < x.cols; ++j) fit.centres.row(g)[j] += middle[j];
  return fit;
}

Nearest nearest_centres(const TableView& x, const TableView& centres) {
  const RowTable rows = by_rows(x);
  const RowTable targets = by_rows(centres);
  Nearest out;
  out.group.resize(x.rows);
  out.distance.resize(x.rows);
  for (std::size_t i = 0; i < x.rows; ++i) {
    double best = std::numeric_limits<double>::infinity();
    for (std::size_t g = 0; g < targets.rows; ++g) {
      const double distance = squared_distance(rows.row(i), targets.row(g), x.cols);
      if (distance < best) {
        best = distance;
        out.group[i] = static_cast<int>(g);
      }
    }
    out.distance[i] = std::sqrt(best);
  }
  return out;
}

}  // namespace fjordline
