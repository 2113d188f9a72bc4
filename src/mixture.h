// Mixtures of Gaussian or t components, fitted by EM in log space: Dempster, Laird & Rubin (1977); t components after
// Peel & McLachlan (2000), doi:10.1023/A:1008981510081. Long runs leap ahead along the way they go: Varadhan & Roland
// (2008), doi:10.1111/j.1467-9469.2007.00585.x
// Categories beside the numbers, or alone, are independent multinomials within a component: Lazarsfeld & Henry (1968);
// Hunt & Jorgensen (2003), doi:10.1016/S0167-9473(02)00190-1
#ifndef FJORDLINE_MIXTURE_H
#define FJORDLINE_MIXTURE_H

#include <cmath>
#include <vector>

#include "blocks.h"
#include "covariance.h"
#include "levels.h"
#include "parallel.h"

namespace fjordline {

enum class Tails { normal, heavy };

struct MixtureModel {
  Structure structure;
  Tails tails = Tails::normal;
};

struct EmSettings {
  double tolerance = 1e-8;         // of max(rows, |log-likelihood|)
  double floor = 1e-6;             // least variance along any axis, in units of the columns' own
  double freedom = 4.0;            // of heavy tails
  bool estimate_freedom = false;
  std::size_t threads = 1;
};

struct MixtureFit {
  MixtureModel model;
  std::size_t components = 0, cols = 0;
  std::vector<double> share;       // by component
  std::vector<double> mean;        // components x cols
  Covariances covariances;
  std::vector<double> chance;      // of each level: components x levels of all categories
  double freedom = 0.0;            // 0: normal tails
  double log_likelihood = 0.0;
  std::vector<double> trace;       // the log-likelihood before each round
  bool converged = false;
  bool floored = false;            // a component collapsed and was held by the floor
  bool failed = false;             // no covariances could be found
  bool hopeless = false;           // given up: it would not have come as far as another run had
  const double* mean_of(std::size_t j) const { return mean.data() + j * cols; }

  MixtureFit(const MixtureModel& model_, std::size_t components_, std::size_t cols_, std::size_t levels = 0)
      : model(model_), components(components_), cols(cols_), share(components_, 0.0), mean(components_ * cols_, 0.0),
        covariances(model_.structure, components_, cols_), chance(components_ * levels, 0.0) {}
};

// When a run ends: where a round changes the log-likelihood by less than `tolerance` times max(rows, |log-likelihood|),
// or where it is not going to beat what is there.
struct EmGoal {
  double tolerance;
  double beat = -HUGE_VAL;
};

// The rows of a table: their numbers, and the levels they have. Either may have no columns.
struct MixtureRows {
  const BlockTable& numbers;
  Levels levels;
  LevelPlaces places;
  LevelCells cells;

  explicit MixtureRows(const BlockTable& numbers_, const Levels& levels_ = {}, const LevelPlaces& places_ = {})
      : numbers(numbers_), levels(levels_), places(places_), cells(levels_, places_) {}
  MixtureRows(const MixtureRows&) = delete;  // the cells point into themselves
};

// Runs EM on one table. Sums are kept by stretch of rows, so that the result is the same for any number of threads.
class Em {
 public:
  Em(const MixtureRows& rows, const EmSettings& settings, Watch& watch);
  Em(Em&&);
  ~Em();

  // From a partition, 0-based; rows of other numbers belong to nobody.
  MixtureFit from_labels(const MixtureModel& model, const int* label, std::size_t components, std::size_t max_rounds,
                         const EmGoal& goal);
  // Goes on from where `fit` stands.
  void onward(MixtureFit& fit, std::size_t max_rounds, const EmGoal& goal);

  // The component of largest density, of every row.
  std::vector<int> labels(const MixtureFit& fit) const;
  // Sum over rows of the log probability of that component.
  double certainty(const MixtureFit& fit) const;
  // Log density of every row under each component, its share included: rows x components, component after component;
  // and, where asked for, squared Mahalanobis distances in the same places.
  void log_densities(const MixtureFit& fit, double* out, double* distance) const;

  const BlockTable& rows() const { return rows_; }
  const Levels& levels() const { return levels_; }
  const LevelPlaces& places() const { return places_; }
  const EmSettings& settings() const { return settings_; }

 private:
  struct Sums;
  struct Component;
  class Leap;
  class Course;
  struct Footing;
  struct Room;
  void prepare(const MixtureFit& fit, std::vector<Component>& out) const;
  Sums pass(const MixtureFit& fit, const std::vector<Component>* components, const int* label) const;
  void pass_stretch(const MixtureFit& fit, const std::vector<Component>* components, const int* label,
                    std::size_t begin, std::size_t end, Room& room, Sums& own) const;
  void weigh_block(const MixtureFit& fit, const std::vector<Component>& components, std::size_t block,
                   double* density, double* distance) const;
  bool refit(MixtureFit& fit, const Sums& sums);
  bool refit_covariances(MixtureFit& fit, Scatters& scatters);
  void refit_chances(MixtureFit& fit, const Sums& sums) const;
  bool leap_ahead(MixtureFit& fit, const Sums& sums, Leap& leap, Footing& footing);
  bool landed(MixtureFit& fit, Sums& sums, Leap& leap, Footing& footing);
  bool ends(MixtureFit& fit, double log_likelihood, std::size_t round, double tolerance) const;

  const BlockTable& rows_;
  const Levels& levels_;
  const LevelPlaces& places_;
  const LevelCells& cells_;
  EmSettings settings_;
  Watch& watch_;
  std::vector<double> variance_;    // of the columns
  mutable std::vector<Room> room_;  // of each stretch of rows, kept from round to round
};

}  // namespace fjordline

#endif
