#include "mixture.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>

namespace fjordline {
namespace {

constexpr std::size_t kStretches = 32;    // most stretches of rows that keep sums of their own
constexpr std::size_t kFewestBlocks = 4;  // in a stretch
constexpr std::size_t kPlainRounds = 15;  // before the first leap
constexpr std::size_t kRoundsToJudge = 7;  // before a run may be given up
constexpr double kAllowed = 10.0;           // times what seems left to gain
constexpr std::size_t kFewCells = 16;
constexpr double kLeastChance = 1e-12;    // of a level no row of a component has: its logarithm is to be a number
constexpr double kLogTwoPi = 1.8378770664093454836;

double digamma(double x) {
  double out = 0.0;
  for (; x < 10.0; x += 1.0) out -= 1.0 / x;
  const double square = 1.0 / (x * x);
  return out + std::log(x) - 0.5 / x -
         square * (1.0 / 12 - square * (1.0 / 120 - square * (1.0 / 252 - square * (1.0 / 240 - square / 132))));
}

std::vector<double> column_variances(const BlockTable& rows) {
  std::vector<double> out(rows.cols());
  const double n = static_cast<double>(rows.rows());
  for (std::size_t j = 0; j < rows.cols(); ++j) {
    double sum = 0.0, squares = 0.0;
    for (std::size_t b = 0; b < rows.blocks(); ++b)
      for (std::size_t i = 0; i < rows.rows_in(b); ++i) sum += rows.column(b, j)[i];
    for (std::size_t b = 0; b < rows.blocks(); ++b)
      for (std::size_t i = 0; i < rows.rows_in(b); ++i) {
        const double gap = rows.column(b, j)[i] - sum / n;
        squares += gap * gap;
      }
    out[j] = squares / n;
  }
  double largest = 0.0;
  for (double v : out) largest = std::max(largest, v);
  for (double& v : out) v = std::max(v, largest > 0.0 ? 1e-12 * largest : 1.0);  // a constant column has none
  return out;
}

// Adds to `sums` the weights of the rows of each cell. Of few cells four tallies side by side, so that a sum need not
// wait for the one before it.
void add_by_cell(const int* code, const double* weight, std::size_t rows, std::size_t cells, Lined& tally,
                 double* sums) {
  if (cells > kFewCells) {
    for (std::size_t i = 0; i < rows; ++i)
      if (code[i] >= 0) sums[code[i]] += weight[i];
    return;
  }
  tally.assign(4 * cells, 0.0);
  double* part[4] = {tally.data(), tally.data() + cells, tally.data() + 2 * cells, tally.data() + 3 * cells};
  for (std::size_t i = 0; i + 4 <= rows; i += 4)
    for (std::size_t lane = 0; lane < 4; ++lane)
      if (code[i + lane] >= 0) part[lane][code[i + lane]] += weight[i + lane];
  for (std::size_t i = rows / 4 * 4; i < rows; ++i)
    if (code[i] >= 0) part[0][code[i]] += weight[i];
  for (std::size_t l = 0; l < cells; ++l) sums[l] += part[0][l] + part[1][l] + part[2][l] + part[3][l];
}

}  // namespace

// Sums over rows of memberships t and, for heavy tails, of t times the pull u a row has on the parameters.
struct Em::Sums {
  double log_likelihood = 0.0;
  double freedom = 0.0;                     // sum of t (log u - u)
  std::vector<double> rows, weight;         // sum of t, sum of t u
  std::vector<double> totals, about;        // about the means before
  std::vector<double> cells;                // sum of t over the rows of each level, or combination of levels

  Sums(std::size_t k, std::size_t d, std::size_t size, std::size_t cell_count)
      : rows(k, 0.0), weight(k, 0.0), totals(k * d, 0.0), about(k * size, 0.0), cells(k * cell_count, 0.0) {}
  void add(const Sums& other) {
    log_likelihood += other.log_likelihood;
    freedom += other.freedom;
    const auto plus = [](std::vector<double>& to, const std::vector<double>& from) {
      for (std::size_t i = 0; i < to.size(); ++i) to[i] += from[i];
    };
    plus(rows, other.rows);
    plus(weight, other.weight);
    plus(totals, other.totals);
    plus(about, other.about);
    plus(cells, other.cells);
  }
};

// What the density of a component needs.
struct Em::Component {
  Lined triangle;                // packed inverse root of the covariance
  std::vector<double> factor;    // or inverse variances
  double constant = 0.0;         // log density at the mean, share included
  std::vector<double> chance;    // log of every cell's
};

struct Em::Room {
  Lined gaps, pulled, member, distance, log_sum, weight, tally;
  void fit(std::size_t k, std::size_t d) {
    gaps.resize(d * kBlockRows);
    pulled.resize(d * kBlockRows);
    member.resize(k * kBlockRows);
    distance.resize(k * kBlockRows);
    log_sum.resize(kBlockRows);
    weight.resize(kBlockRows);
  }
};

Em::Em(Em&&) = default;
Em::~Em() = default;

Em::Em(const MixtureRows& rows, const EmSettings& settings, Watch& watch)
    : rows_(rows.numbers), levels_(rows.levels), places_(rows.places), cells_(rows.cells), settings_(settings),
      watch_(watch), variance_(column_variances(rows.numbers)) {}

void Em::prepare(const MixtureFit& fit, std::vector<Component>& out) const {
  const std::size_t d = fit.cols;
  const double half = 0.5 * static_cast<double>(d), nu = fit.freedom;
  out.resize(fit.components);
  for (std::size_t j = 0; j < fit.components; ++j) {
    if (fit.model.structure.along_columns()) {
      out[j].factor.resize(d);
      for (std::size_t v = 0; v < d; ++v) out[j].factor[v] = 1.0 / fit.covariances.of(j)[v];
    } else {
      pack_triangle(fit.covariances.inverse_root(j).data(), d, out[j].triangle);
    }
    const double peak = fit.model.tails == Tails::normal
                            ? -half * kLogTwoPi
                            : std::lgamma(0.5 * nu + half) - std::lgamma(0.5 * nu) - half * std::log(nu * M_PI);
    out[j].constant = std::log(fit.share[j]) - fit.covariances.log_root(j) + peak;
    std::vector<double> logs(places_.all());
    for (std::size_t l = 0; l < places_.all(); ++l) logs[l] = std::log(fit.chance[j * places_.all() + l]);
    out[j].chance.resize(cells_.places().all());
    cells_.add_up(logs.data(), out[j].chance.data());
  }
}

// Log densities of a block's rows under each component (kBlockRows apart), shares included, and the squared distances.
// A level that is not known says nothing.
void Em::weigh_block(const MixtureFit& fit, const std::vector<Component>& components, std::size_t block,
                     double* density, double* distance) const {
  const BlockKernels& kernels = block_kernels();
  const std::size_t rows = rows_.padded(block), real = rows_.rows_in(block), d = fit.cols;
  const double* values = rows_.column(block, 0);
  for (std::size_t j = 0; j < fit.components; ++j) {
    const Component& own = components[j];
    double* out = density + j * kBlockRows;
    double* apart = distance + j * kBlockRows;
    if (own.factor.empty()) kernels.lengths(values, fit.mean_of(j), own.triangle.data(), rows, d, apart);
    else kernels.weighted(values, fit.mean_of(j), own.factor.data(), rows, d, apart);
    if (fit.model.tails == Tails::normal) kernels.normal(apart, own.constant, rows, out);
    else kernels.heavy(apart, own.constant, 0.5 * (fit.freedom + static_cast<double>(d)), fit.freedom, rows, out);
    for (std::size_t c = 0; c < cells_.places().categories(); ++c) {
      const int* code = cells_.codes().column(c) + rows_.first(block);
      const double* chance = own.chance.data() + cells_.places().begin[c];
      for (std::size_t i = 0; i < real; ++i)
        if (code[i] >= 0) out[i] += chance[code[i]];
    }
  }
}

Em::Sums Em::pass(const MixtureFit& fit, const std::vector<Component>* components, const int* label) const {
  const std::size_t each = std::max(kFewestBlocks, (rows_.blocks() + kStretches - 1) / kStretches);
  const std::size_t stretches = (rows_.blocks() + each - 1) / each;
  std::vector<Sums> parts(stretches, Sums(fit.components, fit.cols, fit.covariances.size(), cells_.places().all()));
  room_.resize(stretches);
  in_parallel(stretches, settings_.threads, [&](std::size_t s) {
    pass_stretch(fit, components, label, s * each, std::min(rows_.blocks(), (s + 1) * each), room_[s], parts[s]);
  });
  for (std::size_t s = 1; s < stretches; ++s) parts[0].add(parts[s]);
  return std::move(parts[0]);
}

void Em::pass_stretch(const MixtureFit& fit, const std::vector<Component>* components, const int* label,
                      std::size_t begin, std::size_t end, Room& room, Sums& own) const {
  const BlockKernels& kernels = block_kernels();
  const std::size_t k = fit.components, d = fit.cols, size = fit.covariances.size();
  const bool heavy = fit.model.tails == Tails::heavy && components;
  room.fit(k, d);
  for (std::size_t b = begin; b < end; ++b) {
    if (watch_.over(k * size * kBlockRows / 8)) return;
    const std::size_t rows = rows_.padded(b), real = rows_.rows_in(b);
    if (label) {
      for (std::size_t j = 0; j < k; ++j)
        for (std::size_t i = 0; i < real; ++i)
          room.member[j * kBlockRows + i] = label[rows_.first(b) + i] == static_cast<int>(j) ? 1.0 : 0.0;
    } else {
      weigh_block(fit, *components, b, room.member.data(), room.distance.data());
      kernels.memberships(room.member.data(), k, rows, room.log_sum.data());
      for (std::size_t i = 0; i < real; ++i) own.log_likelihood += room.log_sum[i];
    }
    for (std::size_t j = 0; j < k; ++j) {
      double* m = room.member.data() + j * kBlockRows;
      std::fill(m + real, m + rows, 0.0);  // the copies that fill the block
      const double all = kernels.total(m, rows);
      if (all == 0.0) continue;
      own.rows[j] += all;
      const LevelPlaces& places = cells_.places();
      for (std::size_t c = 0; c < places.categories(); ++c)
        add_by_cell(cells_.codes().column(c) + rows_.first(b), m, real, places.begin[c + 1] - places.begin[c],
                    room.tally, own.cells.data() + j * places.all() + places.begin[c]);
      if (heavy) {
        own.freedom += kernels.pull(room.distance.data() + j * kBlockRows, m, fit.freedom + static_cast<double>(d),
                                    fit.freedom, rows, room.weight.data());
        m = room.weight.data();
      }
      own.weight[j] += heavy ? kernels.total(m, rows) : all;
      kernels.gaps(rows_.column(b, 0), fit.mean_of(j), m, rows, d, room.gaps.data(), room.pulled.data(),
                   own.totals.data() + j * d);
      (size == d ? kernels.squares : kernels.products)(room.pulled.data(), room.gaps.data(), rows, d,
                                                       own.about.data() + j * size);
    }
  }
}

// Covariances for these scatters; where a component collapses, with the floor added to every scatter from then on.
bool Em::refit_covariances(MixtureFit& fit, Scatters& scatters) {
  const std::size_t d = fit.cols;
  Covariances& covariances = fit.covariances;
  if (!fit.floored) {
    if (covariances.update(scatters) && !covariances.collapsed(variance_, settings_.floor)) return true;
    fit.floored = true;
    covariances = Covariances(fit.model.structure, fit.components, d);
  }
  for (std::size_t j = 0; j < fit.components; ++j) {
    const double add = settings_.floor * (scatters.rows[j] = std::max(scatters.rows[j], 1e-8));
    for (std::size_t v = 0; v < d; ++v)
      scatters.about[j * scatters.size + (scatters.size == d ? v : v * d + v)] += add * variance_[v];
  }
  return covariances.update(scatters);
}

void Em::refit_chances(MixtureFit& fit, const Sums& sums) const {
  std::vector<double> sum(places_.all());
  for (std::size_t j = 0; j < fit.components; ++j) {
    cells_.count(sums.cells.data() + j * cells_.places().all(), sum.data());
    for (std::size_t c = 0; c < places_.categories(); ++c) {
      double* chance = fit.chance.data() + j * places_.all();
      double all = 0.0;
      for (std::size_t l = places_.begin[c]; l < places_.begin[c + 1]; ++l) all += std::max(0.0, sum[l]);
      if (!(all > 0.0)) continue;
      for (std::size_t l = places_.begin[c]; l < places_.begin[c + 1]; ++l)
        chance[l] = std::max(kLeastChance, sum[l] / all);
    }
  }
}

bool Em::refit(MixtureFit& fit, const Sums& sums) {
  const std::size_t k = fit.components, d = fit.cols, size = fit.covariances.size();
  Scatters scatters{sums.rows, sums.about, size};
  for (std::size_t j = 0; j < k; ++j) {
    double* about = scatters.about.data() + j * size;
    const double weight = sums.weight[j];
    fit.share[j] = sums.rows[j] / static_cast<double>(rows_.rows());
    if (!(weight > 0.0)) continue;
    const double* totals = sums.totals.data() + j * d;
    for (std::size_t r = 0; r < d; ++r) {
      if (size == d) about[r] = std::max(0.0, about[r] - totals[r] * totals[r] / weight);
      else for (std::size_t c = 0; c <= r; ++c) about[r * d + c] -= totals[r] * totals[c] / weight;
      fit.mean[j * d + r] += totals[r] / weight;
    }
    if (size > d)
      for (std::size_t r = 0; r < d; ++r)
        for (std::size_t c = 0; c < r; ++c) about[c * d + r] = about[r * d + c];
  }
  if (fit.freedom > 0.0 && settings_.estimate_freedom) {
    // The equation of Peel & McLachlan for one number of degrees of freedom, by halving.
    const double before = 0.5 * (fit.freedom + static_cast<double>(d));
    const double n = static_cast<double>(rows_.rows());
    const double rest = 1.0 + sums.freedom / n + digamma(before) - std::log(before);
    double low = 1.0, high = 200.0;
    for (int step = 0; step < 60; ++step) {
      const double middle = 0.5 * (low + high);
      (std::log(0.5 * middle) - digamma(0.5 * middle) + rest > 0.0 ? low : high) = middle;
    }
    fit.freedom = 0.5 * (low + high);
  }
  refit_chances(fit, sums);
  return refit_covariances(fit, scatters);
}

// Squared extrapolation of the sums, from which the parameters follow, so that every structure is kept. All about the
// means with which the three rounds before a leap began.
class Em::Leap {
 public:
  Leap(const MixtureFit& fit, const std::vector<double>& variance) : fit_(fit), variance_(variance) {}

  // The sums of a round with these means.
  void see(const Sums& sums, const std::vector<double>& mean) {
    if (sums_.empty()) origin_ = mean;
    sums_.push_back(moved(sums, mean, origin_));
  }
  bool ready() const { return sums_.size() == 3; }
  void forget() { sums_.clear(); }
  // The sums the last three rounds lead to, about `mean`; false where that is no farther than a round.
  bool to(const std::vector<double>& mean, Sums* out);
  void judge(bool up) { longest_ = up ? (step_ < longest_ ? longest_ : 4.0 * longest_) : std::max(1.0, 0.5 * step_); }

 private:
  Sums moved(Sums sums, const std::vector<double>& from, const std::vector<double>& to) const;
  template <typename Each>
  void each(Each&& each) const;  // of the sums, with the square of its unit
  double length(bool bend) const;

  const MixtureFit& fit_;
  const std::vector<double>& variance_;
  std::vector<Sums> sums_;
  std::vector<double> origin_;
  double step_ = 1.0, longest_ = 4.0;
};

Em::Sums Em::Leap::moved(Sums sums, const std::vector<double>& from, const std::vector<double>& to) const {
  const std::size_t k = fit_.components, d = fit_.cols, size = fit_.covariances.size();
  for (std::size_t j = 0; j < k; ++j) {
    double* totals = sums.totals.data() + j * d;
    double* about = sums.about.data() + j * size;
    const double weight = sums.weight[j];
    std::vector<double> gap(d);
    for (std::size_t v = 0; v < d; ++v) gap[v] = from[j * d + v] - to[j * d + v];
    for (std::size_t r = 0; r < d; ++r) {
      if (size == d) about[r] += gap[r] * (2.0 * totals[r] + weight * gap[r]);
      else
        for (std::size_t c = 0; c <= r; ++c)
          about[r * d + c] += totals[r] * gap[c] + gap[r] * totals[c] + weight * gap[r] * gap[c];
    }
    for (std::size_t v = 0; v < d; ++v) totals[v] += weight * gap[v];
  }
  return sums;
}

template <typename Each>
void Em::Leap::each(Each&& each) const {
  const std::size_t k = fit_.components, d = fit_.cols, size = fit_.covariances.size();
  each([](const Sums& s) { return &s.freedom; }, 1.0);
  for (std::size_t j = 0; j < k; ++j) {
    each([j](const Sums& s) { return &s.rows[j]; }, 1.0);
    each([j](const Sums& s) { return &s.weight[j]; }, 1.0);
    for (std::size_t v = 0; v < d; ++v) {
      each([j, d, v](const Sums& s) { return &s.totals[j * d + v]; }, variance_[v]);
      for (std::size_t c = 0; c <= (size == d ? 0 : v); ++c) {
        const std::size_t at = j * size + (size == d ? v : v * d + c);
        each([at](const Sums& s) { return &s.about[at]; }, variance_[v] * variance_[size == d ? v : c]);
      }
    }
  }
  for (std::size_t l = 0; l < sums_[0].cells.size(); ++l) each([l](const Sums& s) { return &s.cells[l]; }, 1.0);
}

double Em::Leap::length(bool bend) const {
  double out = 0.0;
  each([&](auto&& of, double square) {
    const double a = *of(sums_[0]), b = *of(sums_[1]), c = *of(sums_[2]);
    const double by = bend ? c - 2.0 * b + a : b - a;
    out += by * by / square;
  });
  return std::sqrt(out);
}

bool Em::Leap::to(const std::vector<double>& mean, Sums* out) {
  const double bend = length(true);
  step_ = bend > 0.0 ? std::min(longest_, length(false) / bend) : longest_;
  if (longest_ == 1.0) longest_ = 4.0;  // three plain rounds after a failure
  if (!(step_ > 1.0)) return false;
  Sums& ahead = *out = sums_[0];
  each([&](auto&& of, double) {
    const double a = *of(sums_[0]), b = *of(sums_[1]), c = *of(sums_[2]);
    *const_cast<double*>(of(ahead)) = a + 2.0 * step_ * (b - a) + step_ * step_ * (c - 2.0 * b + a);
  });
  for (std::size_t j = 0; j < fit_.components; ++j)
    if (!(ahead.rows[j] > 0.0) || !(ahead.weight[j] > 0.0)) return false;
  ahead = moved(std::move(ahead), origin_, mean);
  return true;
}

// Where a leap began, until the pass after it tells whether to stay.
struct Em::Footing {
  std::unique_ptr<MixtureFit> fit;
  Sums sums = Sums(0, 0, 0, 0);
};

// A leap; false, and `fit` as it was, where none can be made. The trace is long and no part of the place.
bool Em::leap_ahead(MixtureFit& fit, const Sums& sums, Leap& leap, Footing& footing) {
  std::vector<double> trace;
  trace.swap(fit.trace);
  footing.fit.reset(new MixtureFit(fit));
  footing.sums = sums;
  Sums ahead(0, 0, 0, 0);
  const bool made = leap.to(fit.mean, &ahead) && refit(fit, ahead) && fit.floored == footing.fit->floored;
  leap.forget();
  if (!made) {
    fit = std::move(*footing.fit);
    footing.fit.reset();
  }
  fit.trace = std::move(trace);
  return made;
}

// Whether a leap that ended with these sums went up; if not, `fit` and `sums` are again what they were before it.
bool Em::landed(MixtureFit& fit, Sums& sums, Leap& leap, Footing& footing) {
  const std::unique_ptr<MixtureFit> before = std::move(footing.fit);
  const bool up = sums.log_likelihood >= before->log_likelihood;
  leap.judge(up);
  if (up) return true;
  before->trace = std::move(fit.trace);
  fit = std::move(*before);
  sums = std::move(footing.sums);
  return false;
}

// The log-likelihood of a round; whether the run ends with it.
bool Em::ends(MixtureFit& fit, double log_likelihood, std::size_t round, double tolerance) const {
  const double before = fit.log_likelihood, n = static_cast<double>(rows_.rows());
  fit.log_likelihood = log_likelihood;
  fit.failed = !std::isfinite(log_likelihood);
  if (fit.failed) return true;
  // A run that goes on begins with the pass it ended with.
  if (round > 0 || fit.trace.empty()) fit.trace.push_back(log_likelihood);
  const double least = tolerance * std::max(n, std::fabs(log_likelihood));
  fit.converged = round > 0 && std::fabs(log_likelihood - before) <= least;
  return fit.converged;
}

// Where the log-likelihoods of the last plain rounds lead: gains that shrink by the same factor sum to a limit (Aitken
// 1926, doi:10.1017/S0370164600022070). Early gains shrink faster than later ones, so that much more is allowed.
class Em::Course {
 public:
  void forget() { seen_ = 0; }
  void see(double log_likelihood) {
    gain_before_ = gain_;
    gain_ = log_likelihood - last_;
    last_ = log_likelihood;
    ++seen_;
  }
  bool stays_below(double beat) const {
    if (seen_ < 3 || !(gain_ > 0.0) || !(gain_ < gain_before_)) return false;
    const double factor = gain_ / gain_before_, left = gain_ * factor / (1.0 - factor);
    return last_ + kAllowed * left + 1e-6 * std::fabs(beat) < beat;
  }

 private:
  std::size_t seen_ = 0;
  double last_ = 0.0, gain_ = 0.0, gain_before_ = 0.0;
};

void Em::onward(MixtureFit& fit, std::size_t max_rounds, const EmGoal& goal) {
  Leap leap(fit, variance_);
  Course course;
  Footing footing;
  std::vector<Component> components;
  for (std::size_t round = 0; !fit.failed; ++round) {
    prepare(fit, components);
    Sums sums = pass(fit, &components, nullptr);
    if (watch_.stopped()) return;
    if (footing.fit) course.forget();
    const bool on = !footing.fit || landed(fit, sums, leap, footing);
    if (on && ends(fit, sums.log_likelihood, round, goal.tolerance)) return;
    if (round >= max_rounds) return;
    if (on) course.see(fit.log_likelihood);
    fit.hopeless = std::isfinite(goal.beat) &&
                   (fit.floored || (fit.trace.size() >= kRoundsToJudge && course.stays_below(goal.beat)));
    if (fit.hopeless) return;
    if (on && fit.trace.size() > kPlainRounds) leap.see(sums, fit.mean);
    if (leap.ready() && leap_ahead(fit, sums, leap, footing)) continue;
    const bool floored = fit.floored;
    fit.failed = !refit(fit, sums);
    if (fit.floored != floored) leap.forget();
  }
}

MixtureFit Em::from_labels(const MixtureModel& model, const int* label, std::size_t components,
                           std::size_t max_rounds, const EmGoal& goal) {
  const std::size_t k = components, d = rows_.cols();
  MixtureFit fit(model, k, d, places_.all());
  fit.freedom = model.tails == Tails::heavy ? settings_.freedom : 0.0;
  std::vector<double> rows(k, 0.0);
  for (std::size_t i = 0; i < rows_.rows(); ++i) {
    if (label[i] < 0 || label[i] >= static_cast<int>(k)) continue;
    rows[label[i]] += 1.0;
    for (std::size_t v = 0; v < d; ++v) fit.mean[label[i] * d + v] += rows_.at(i, v);
  }
  for (std::size_t j = 0; j < k; ++j)
    for (std::size_t v = 0; v < d; ++v) fit.mean[j * d + v] /= std::max(1.0, rows[j]);
  Sums sums = pass(fit, nullptr, label);
  // A group of few rows has no covariance to speak of, and none of most levels: each begins with some rows of the
  // average scatter and levels added.
  const std::size_t size = fit.covariances.size();
  const double all = static_cast<double>(rows_.rows()), added = static_cast<double>(d) + 1.0;
  const auto blend = [&](std::vector<double>& sum, std::size_t many) {
    std::vector<double> pooled(many, 0.0);
    for (std::size_t j = 0; j < k; ++j)
      for (std::size_t v = 0; v < many; ++v) pooled[v] += sum[j * many + v];
    for (std::size_t j = 0; j < k; ++j)
      for (std::size_t v = 0; v < many; ++v) sum[j * many + v] += added / all * pooled[v];
  };
  blend(sums.about, size);
  blend(sums.cells, cells_.places().all());
  for (double& rows_of : sums.rows) rows_of += added;
  if (!refit(fit, sums)) {
    fit.failed = true;
    return fit;
  }
  for (double& s : fit.share) s *= all / (all + added * static_cast<double>(k));
  onward(fit, max_rounds, goal);
  return fit;
}

std::vector<int> Em::labels(const MixtureFit& fit) const {
  const std::size_t n = rows_.rows();
  std::vector<double> density(n * fit.components);
  log_densities(fit, density.data(), nullptr);
  std::vector<int> out(n, 0);
  for (std::size_t j = 1; j < fit.components; ++j)
    for (std::size_t i = 0; i < n; ++i)
      if (density[j * n + i] > density[out[i] * n + i]) out[i] = static_cast<int>(j);
  return out;
}

double Em::certainty(const MixtureFit& fit) const {
  const std::size_t n = rows_.rows(), k = fit.components;
  std::vector<double> density(n * k);
  log_densities(fit, density.data(), nullptr);
  double out = 0.0;
  for (std::size_t i = 0; i < n; ++i) {
    double most = density[i], sum = 0.0;
    for (std::size_t j = 1; j < k; ++j) most = std::max(most, density[j * n + i]);
    for (std::size_t j = 0; j < k; ++j) sum += std::exp(density[j * n + i] - most);
    out -= std::log(sum);
  }
  return out;
}

void Em::log_densities(const MixtureFit& fit, double* out, double* distance) const {
  const std::size_t k = fit.components, n = rows_.rows();
  std::vector<Component> components;
  prepare(fit, components);
  in_parallel(rows_.blocks(), settings_.threads, [&](std::size_t b) {
    Lined density(k * kBlockRows), apart(k * kBlockRows);
    weigh_block(fit, components, b, density.data(), apart.data());
    for (std::size_t j = 0; j < k; ++j)
      for (std::size_t i = 0; i < rows_.rows_in(b); ++i) {
        out[j * n + rows_.first(b) + i] = density[j * kBlockRows + i];
        if (distance) distance[j * n + rows_.first(b) + i] = apart[j * kBlockRows + i];
      }
  });
}

}  // namespace fjordline
