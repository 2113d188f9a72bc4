#include "descent.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace fjordline {
namespace {

constexpr double kTransferGain = 1e-10;      // of the objective; less is not worth a transfer
constexpr std::size_t kStretch = 4096;
constexpr std::size_t kLong = 64;            // columns above which fetching a row costs more than scoring it
constexpr std::size_t kFew = 32;             // against so many centres
constexpr std::size_t kMostBounded = 2048;   // groups up to which distances between all centres are kept
constexpr double kInfinite = std::numeric_limits<double>::infinity();
constexpr float kUnbounded = std::numeric_limits<float>::infinity();

// Bounds are kept in single precision, rounded to the safe side.
float up(double value) { return static_cast<float>(value * (1.0 + 2e-7)); }
float down(double value) { return static_cast<float>(value * (1.0 - 2e-7)); }
double root(double value) { return value > 0.0 ? std::sqrt(value) : 0.0; }

std::size_t lowest(unsigned marks) { return static_cast<std::size_t>(__builtin_ctz(marks)); }

}  // namespace

struct Descent::Part {
  std::vector<double> sum, mass, scatter;
  std::vector<long long> held;
  std::vector<int> candidates;
  std::size_t changed = 0, looked_at = 0;
  bool touched = false;

  void clear() {
    changed = looked_at = 0;
    touched = false;
    candidates.clear();
  }

  void touch(std::size_t k, std::size_t cols) {
    if (touched) return;
    sum.assign(k * cols, 0.0);
    mass.assign(k, 0.0);
    held.assign(k, 0);
    touched = true;
  }

  void add(int g, double sign, double weight, const double* point, std::size_t cols) {
    double* to = sum.data() + static_cast<std::size_t>(g) * cols;
    const double factor = sign * weight;
    for (std::size_t j = 0; j < cols; ++j) to[j] += factor * point[j];
    mass[g] += factor;
    if (weight > 0.0) held[g] += sign > 0.0 ? 1 : -1;
  }
};

struct Descent::Scratch {
  Scratch(std::size_t k, std::size_t cols) : tile(cols * kTile), one(cols), starts(k + 1) {}
  Lined tile;
  std::vector<double> one;
  std::vector<int> waiting, ordered, left, list;
  std::vector<std::size_t> starts;
  CentreBlocks listed;
  alignas(64) double best[kTile];
  alignas(64) double second[kTile];
  alignas(64) double own_length[kTile];
  const double* length = own_length;
  int which[kTile];

  // Squared distances to the nearest centre and the next, from what the kernels give.
  double near(std::size_t r, bool exact) const { return exact ? best[r] : length[r] + 2.0 * best[r]; }
  double far(std::size_t r, bool exact) const { return exact ? second[r] : length[r] + 2.0 * second[r]; }
};

// How much nearer another centre may be, in squared distance: by group where all rows weigh the same.
struct Descent::Rivalry {
  std::vector<double> allowed;
  double most = 0.0;
  bool by_group = true;
};

// What moving the bounds of a row takes, by its group. In single precision: `kSafe` covers the rounding.
struct Descent::Steps {
  std::vector<float> up, gap, allowed;
  BoundMoves moves;
};

Descent::~Descent() = default;

// One stretch keeps its room from round to round; of many, only those at work have one.
Descent::Scratch& Descent::room(std::unique_ptr<Scratch>& own) {
  std::unique_ptr<Scratch>& used = parts_.size() == 1 ? scratch_ : own;
  if (!used) used.reset(new Scratch(k_, cols_));
  return *used;
}

Descent::Descent(const Rows& rows, const DescentSettings& settings, Watch& watch, RowTable centres)
    : rows_(rows), settings_(settings), watch_(watch), kernels_(tile_kernels()), n_(rows.count()), cols_(rows.cols()),
      k_(centres.rows), stretch_(std::max(kStretch, k_ * kTile)), centres_(std::move(centres)), sums_(k_, cols_),
      mass_(k_, 0.0), held_(k_, 0), pull_(k_, 0.0), group_(n_, -1), scatter_(k_, 0.0),
      parts_((n_ + stretch_ - 1) / stretch_), changed_(n_), looked_at_(n_), moved_(k_, 0.0), half_gap_(k_, kInfinite) {
  bounds_allowed_ = settings.rounds == Rounds::bounded ||
                    (settings.rounds == Rounds::automatic && n_ >= kStretch && (cols_ > 8 || k_ > 16));
  bounds_allowed_ = bounds_allowed_ && k_ <= kMostBounded;
}

bool Descent::go() {
  while (!converged_ && rounds_ < settings_.max_rounds)
    if (!lloyd(settings_.max_rounds) || !transfer()) return false;
  return fresh_ || recount();
}

bool Descent::begin(std::size_t rounds) { return lloyd(std::min(rounds, settings_.max_rounds)); }

double Descent::objective() const {
  double sum = 0.0;
  for (double s : scatter_) sum += s;
  return rows_.on_sphere() ? 0.5 * sum : sum;
}

double Descent::about_objective() const {
  double left = rows_.total();
  for (std::size_t g = 0; g < k_; ++g) {
    if (rows_.on_sphere()) {
      left -= pull_[g];
      continue;
    }
    double squared = 0.0;
    for (std::size_t j = 0; j < cols_; ++j) squared += sums_.row(g)[j] * sums_.row(g)[j];
    if (mass_[g] > 0.0) left -= squared / mass_[g];
  }
  return std::max(left, 1e-14 * rows_.total());
}

bool Descent::lloyd(std::size_t most_rounds) {
  settled_ = false;
  while (!settled_ && rounds_ < most_rounds) {
    ++rounds_;
    look_at_centres();
    const bool calm = settings_.rounds == Rounds::bounded || changed_ < n_ / 5;
    const bool started = group_[0] >= 0;
    bool done;
    if (bounds_ready_ && (settings_.rounds == Rounds::bounded || looked_at_ < n_ / 10 * 7)) {
      done = survey(Task::lloyd);
    } else {
      done = scan_all(Task::lloyd, bounds_allowed_ && started && calm);
    }
    if (!done) return false;
    const RowTable before = bounds_ready_ ? centres_ : RowTable();
    add_up();
    const bool refilled = refill();
    means();
    note_moves(before);
    settled_ = changed_ == 0 && !refilled;
    fresh_ = fresh_ && settled_;
  }
  return true;
}

// What the rounds need to know of the centres: how far apart they are, and whether products tell them apart.
void Descent::look_at_centres() {
  double least = kInfinite;
  if (bounds_allowed_) {
    gaps_.assign(k_ * k_, 0.0);
    std::vector<double> nearest(k_, kInfinite);
    in_parallel(k_, k_ * k_ * cols_ > 100000 ? settings_.threads : 1, [&](std::size_t g) {
      for (std::size_t h = 0; h < k_; ++h) {
        if (h == g) continue;
        const double gap = std::sqrt(squared_distance(centres_.row(g), centres_.row(h), cols_));
        gaps_[g * k_ + h] = gap;
        nearest[g] = std::min(nearest[g], gap);
      }
    });
    for (std::size_t g = 0; g < k_; ++g) {
      half_gap_[g] = 0.5 * nearest[g];
      least = std::min(least, half_gap_[g] * half_gap_[g]);
    }
  } else {
    for (std::size_t g = 1; g < k_; ++g)
      for (std::size_t h = 0; h < g; ++h)
        least = std::min(least, 0.25 * squared_distance(centres_.row(g), centres_.row(h), cols_));
  }
  exact_ = rows_.rounding() * 1e6 > least;
  blocks_.pack(centres_, nullptr, k_, exact_);
}

// How much nearer another centre may be, in squared distance, before a row has to be looked at: 1 for Lloyd's rounds;
// for transfers what leaving the own group saves over what joining another costs at the least.
double Descent::allowance(Task task, int own, double w) const {
  if (task == Task::lloyd) return 1.0;
  if (w <= 0.0) return 1.0;
  if (held_[own] < 2) return 0.0;
  const double other = least_pull_ == own ? next_pull_value_ : least_pull_value_;
  const double leave = pull_[own] - w;
  if (rows_.on_sphere()) {
    const double join = other - w;
    return leave > 0.0 && join > w ? (1.0 + w / leave) / (1.0 - w / join) : kInfinite;
  }
  return leave > 0.0 ? pull_[own] / leave * (other + w) / other : kInfinite;
}

// Every row against every centre.
bool Descent::scan_all(Task task, bool set_bounds) {
  if (set_bounds) {
    upper_.resize(n_);
    lower_.resize(n_);
  }
  const Rivalry rivalry = rivalry_of(task);
  in_parallel(parts_.size(), settings_.threads, [&](std::size_t s) {
    Part& part = parts_[s];
    part.clear();
    if (watch_.over((last(s) - first(s)) * cols_ * k_ / 8)) return;
    std::unique_ptr<Scratch> own;
    Scratch& scratch = room(own);
    if (task == Task::screen) screen_stretch(s, rivalry, part, scratch);
    else if (set_bounds) bound_stretch(s, part, scratch);
    else lloyd_stretch(s, part, scratch);
  });
  if (watch_.stopped()) return false;
  bounds_ready_ = set_bounds;
  std::fill(moved_.begin(), moved_.end(), 0.0);
  return true;
}

Descent::Rivalry Descent::rivalry_of(Task task) const {
  Rivalry out;
  if (task == Task::lloyd) return out;
  out.by_group = !by_row(task);
  for (std::size_t g = 0; g < k_ && out.by_group; ++g) {
    out.allowed.push_back(allowance(task, static_cast<int>(g), 1.0));
    out.most = std::max(out.most, out.allowed.back());
  }
  return out;
}

// Most tiles are soon settled as a whole.
void Descent::lloyd_stretch(std::size_t s, Part& part, Scratch& scratch) {
  const bool begins = group_[first(s)] < 0;
  const bool skip = !exact_ && rows_.in_tiles() && !begins;
  for (std::size_t from = first(s); from < last(s); from += kTile) {
    bool known = false;  // whether `which` tells of this tile already
    if (skip) {
      const std::size_t whole = (last(s) - from) / kTile;
      const std::size_t same = kernels_.unchanged(rows_.tile(from, nullptr), whole, cols_, blocks_,
                                                  group_.data() + from, scratch.which);
      from += kTile * same;
      if (from == last(s)) break;
      known = same < whole;
    }
    const double* tile = rows_.tile(from, scratch.tile.data());
    if (exact_) kernels_.nearest_exact(tile, cols_, blocks_, scratch.best, scratch.second, scratch.which);
    else if (!known) kernels_.nearest(tile, cols_, blocks_, scratch.best, scratch.which);
    if (begins) {
      place(from, tile, part, scratch);
      continue;
    }
    for (unsigned left = elsewhere(from, scratch); left != 0; left &= left - 1) {
      const std::size_t r = lowest(left);
      settle(from + r, scratch.which[r], part, scratch);
    }
  }
}

// The rows for which joining another group could pay.
void Descent::screen_stretch(std::size_t s, const Rivalry& rivalry, Part& part, Scratch& scratch) {
  const double slack = exact_ ? 0.0 : rows_.rounding();
  for (std::size_t from = first(s); from < last(s); from += kTile) {
    score_two(from, scratch);
    const unsigned all = (1u << std::min(kTile, last(s) - from)) - 1u;
    unsigned left = all;
    if (rivalry.by_group && !exact_)
      left &= elsewhere(from, scratch) | kernels_.rivals(scratch.best, scratch.second, scratch.length, slack, rivalry.most);
    for (; left != 0; left &= left - 1) {
      const std::size_t r = lowest(left);
      const int own = group_[from + r];
      const double most = rivalry.by_group ? rivalry.allowed[own] : allowance(Task::screen, own, rows_.weight(from + r));
      if (scratch.which[r] != own || scratch.far(r, exact_) - slack <= (scratch.near(r, exact_) + slack) * most)
        part.candidates.push_back(static_cast<int>(from + r));
    }
  }
}

void Descent::bound_stretch(std::size_t s, Part& part, Scratch& scratch) {
  const double slack = exact_ ? 0.0 : rows_.rounding();
  for (std::size_t from = first(s); from < last(s); from += kTile) {
    score_two(from, scratch);
    const std::size_t full = std::min(kTile, last(s) - from);
    for (std::size_t r = 0; r < full; ++r) {
      const std::size_t i = from + r;
      const int to = scratch.which[r];
      const double best = scratch.near(r, exact_), second = scratch.far(r, exact_);
      const bool stays = to != group_[i] && !settle(i, to, part, scratch);
      upper_[i] = up(root(best + (stays ? 2.0 * slack : slack)) * (1.0 + 1e-12));
      lower_[i] = down(root((stays ? best : second) - slack));
    }
  }
}

// The nearest two centres of the rows of a tile.
void Descent::score_two(std::size_t from, Scratch& scratch) {
  const double* tile = rows_.tile(from, scratch.tile.data());
  if (exact_) {
    kernels_.nearest_exact(tile, cols_, blocks_, scratch.best, scratch.second, scratch.which);
  } else {
    kernels_.nearest_two(tile, cols_, blocks_, scratch.best, scratch.second, scratch.which);
    if (rows_.in_tiles()) scratch.length = rows_.lengths(from);
    else kernels_.lengths(tile, cols_, scratch.own_length);
  }
}

// Marks the rows of a tile whose nearest centre is another than that of their group.
unsigned Descent::elsewhere(std::size_t from, const Scratch& scratch) const {
  if (n_ - from >= kTile) return kernels_.differ(scratch.which, group_.data() + from);
  unsigned out = 0;
  for (std::size_t r = 0; from + r < n_; ++r) out |= static_cast<unsigned>(scratch.which[r] != group_[from + r]) << r;
  return out;
}

// Only rows whose bounds meet.
bool Descent::survey(Task task) {
  const Steps by_group = steps(task);
  in_parallel(parts_.size(), settings_.threads, [&](std::size_t s) {
    parts_[s].clear();
    if (watch_.over((last(s) - first(s)) * 8)) return;
    std::unique_ptr<Scratch> own;
    Scratch& scratch = room(own);
    survey_stretch(task, s, by_group, scratch);
  });
  if (watch_.stopped()) return false;
  std::fill(moved_.begin(), moved_.end(), 0.0);
  return true;
}

Descent::Steps Descent::steps(Task task) const {
  std::size_t farthest = 0;
  for (std::size_t g = 1; g < k_; ++g)
    if (moved_[g] > moved_[farthest]) farthest = g;
  double next = 0.0;
  for (std::size_t g = 0; g < k_; ++g)
    if (g != farthest) next = std::max(next, moved_[g]);
  Steps out;
  for (std::size_t g = 0; g < k_; ++g) {
    out.up.push_back(up(moved_[g]));
    out.gap.push_back(down(2.0 * half_gap_[g]));
    // Where rows weigh differently, all are listed first.
    out.allowed.push_back(by_row(task) ? kUnbounded : up(allowance(task, static_cast<int>(g), 1.0)));
  }
  const float slack = up(exact_ ? 0.0 : 2.0 * rows_.rounding());
  out.moves = {out.up.data(), out.gap.data(), task == Task::lloyd ? nullptr : out.allowed.data(),
               static_cast<int>(farthest), up(moved_[farthest]), up(next), slack};
  return out;
}

// Whether the bounds of a row show that it stays.
inline bool Descent::safe(float own, float lower, float gap, float allowed, float slack) {
  const float beyond = gap - own;
  const float other = lower > beyond ? lower : beyond;
  return other > 0.0f && own * own * allowed * kSafe + slack < other * other;
}

void Descent::survey_stretch(Task task, std::size_t s, const Steps& steps, Scratch& scratch) {
  Part& part = parts_[s];
  const std::size_t begin = first(s), rows = last(s) - begin;
  std::vector<int>& waiting = scratch.waiting;
  waiting.resize(rows);
  waiting.resize(kernels_.move_bounds(steps.moves, group_.data() + begin, rows, upper_.data() + begin,
                                      lower_.data() + begin, waiting.data()));
  for (int& i : waiting) i += static_cast<int>(begin);
  if (by_row(task)) {
    waiting.erase(std::remove_if(waiting.begin(), waiting.end(), [&](int i) {
      return safe(upper_[i], lower_[i], steps.gap[group_[i]], up(allowance(task, group_[i], rows_.weight(i))),
                  steps.moves.slack);
    }), waiting.end());
  }
  part.looked_at = waiting.size();
  std::fill(scratch.starts.begin(), scratch.starts.end(), 0);
  for (int i : waiting) ++scratch.starts[group_[i] + 1];
  for (std::size_t g = 0; g < k_; ++g) scratch.starts[g + 1] += scratch.starts[g];
  scratch.ordered.resize(waiting.size());
  std::vector<std::size_t> place(scratch.starts.begin(), scratch.starts.end() - 1);
  for (int i : waiting) scratch.ordered[place[group_[i]]++] = i;
  for (std::size_t g = 0; g < k_; ++g)
    if (scratch.starts[g] < scratch.starts[g + 1])
      survey_group(task, static_cast<int>(g), steps, scratch.starts[g], scratch.starts[g + 1], part, scratch);
  std::sort(part.candidates.begin(), part.candidates.end());
}

// The waiting rows of one group: first the distance to their own centre, which settles most; then all centres that can
// be nearer than it to any of those left.
void Descent::survey_group(Task task, int own, const Steps& steps, std::size_t begin, std::size_t end, Part& part,
                           Scratch& scratch) {
  const double slack = exact_ ? 0.0 : 2.0 * rows_.rounding();
  alignas(64) double own_distance[kTile];
  double widest = 0.0, most_allowed = 0.0;
  scratch.left.clear();
  // Long rows are not fetched twice: they go against all centres at once.
  const bool at_once = cols_ > kLong && k_ <= kFew;
  if (at_once) scratch.left.assign(scratch.ordered.begin() + begin, scratch.ordered.begin() + end);
  for (std::size_t at = begin; at < end && !at_once; at += kTile) {
    const std::size_t full = std::min(kTile, end - at);
    rows_.gather(scratch.ordered.data() + at, full, scratch.tile.data());
    kernels_.distance_to(scratch.tile.data(), cols_, centres_.row(own), own_distance);
    for (std::size_t r = 0; r < full; ++r) {
      const int i = scratch.ordered[at + r];
      const double exact = std::sqrt(own_distance[r]) * (1.0 + 1e-12);
      upper_[i] = up(exact);
      const double allowed = allowance(task, own, rows_.weight(i));
      if (safe(upper_[i], lower_[i], steps.gap[own], up(allowed), steps.moves.slack)) continue;
      scratch.left.push_back(i);
      widest = std::max(widest, exact);
      most_allowed = std::max(most_allowed, allowed);
    }
  }
  if (scratch.left.empty()) return;

  // A centre farther than this from the own one is farther from each of the rows than the own one is.
  const double reach = (widest + std::sqrt(widest * widest * most_allowed + slack)) * (1.0 + 1e-9);
  scratch.list.clear();
  for (std::size_t g = 0; g < k_; ++g)
    if (static_cast<int>(g) == own || !(gaps_[own * k_ + g] > reach)) scratch.list.push_back(static_cast<int>(g));
  const bool some = !at_once && scratch.list.size() * 4 < k_ * 3;
  if (some) scratch.listed.pack(centres_, scratch.list.data(), scratch.list.size(), exact_);
  const CentreBlocks& centres = some ? scratch.listed : blocks_;

  scratch.length = scratch.own_length;
  for (std::size_t at = 0; at < scratch.left.size(); at += kTile) {
    const std::size_t full = std::min(kTile, scratch.left.size() - at);
    rows_.gather(scratch.left.data() + at, full, scratch.tile.data());
    if (exact_) {
      kernels_.nearest_exact(scratch.tile.data(), cols_, centres, scratch.best, scratch.second, scratch.which);
    } else {
      kernels_.nearest_two(scratch.tile.data(), cols_, centres, scratch.best, scratch.second, scratch.which);
      kernels_.lengths(scratch.tile.data(), cols_, scratch.own_length);
    }
    for (std::size_t r = 0; r < full; ++r) {
      const int i = scratch.left[at + r];
      const int to = scratch.which[r];
      const double best = scratch.near(r, exact_), second = scratch.far(r, exact_);
      if (at_once && to == own) upper_[i] = up(root(best + slack) * (1.0 + 1e-12));
      const double beyond = some ? reach - upper_[i] : kInfinite;
      double other = second;
      if (task == Task::screen) {
        if (to != own) other = best;
        if (to != own || other - slack <= (best + slack) * allowance(task, own, rows_.weight(i)))
          part.candidates.push_back(i);
      } else if (to != own) {
        if (settle(i, to, part, scratch)) upper_[i] = up(root(best + slack) * (1.0 + 1e-12));
        else other = best;
      }
      lower_[i] = down(std::min(root(other - slack), beyond));
    }
  }
}

// The rows of a tile go where the kernels found them nearest: they leave nothing.
void Descent::place(std::size_t from, const double* tile, Part& part, const Scratch& scratch) {
  part.touch(k_, cols_);
  const std::size_t full = std::min(kTile, n_ - from);
  for (std::size_t r = 0; r < full; ++r) {
    const int to = scratch.which[r];
    const double weight = rows_.weight(from + r);
    double* sum = part.sum.data() + to * cols_;
    for (std::size_t j = 0; j < cols_; ++j) sum[j] += weight * tile[j * kTile + r];
    part.mass[to] += weight;
    part.held[to] += weight > 0.0;
    group_[from + r] = to;
  }
  part.changed += full;
}

// Moves a row to a centre that the kernels found nearer, if plain differences say so too: a tie stays.
bool Descent::settle(std::size_t i, int to, Part& part, Scratch& scratch) {
  const int from = group_[i];
  const double* point = rows_.row(i, scratch.one.data());
  if (!(squared_distance(point, centres_.row(to), cols_) < squared_distance(point, centres_.row(from), cols_)))
    return false;
  part.touch(k_, cols_);
  const double weight = rows_.weight(i);
  part.add(to, 1.0, weight, point, cols_);
  part.add(from, -1.0, weight, point, cols_);
  group_[i] = to;
  ++part.changed;
  return true;
}

void Descent::add_up() {
  changed_ = looked_at_ = 0;
  for (const Part& part : parts_) {
    changed_ += part.changed;
    looked_at_ += part.looked_at;
    if (!part.touched) continue;
    for (std::size_t c = 0; c < sums_.values.size(); ++c) sums_.values[c] += part.sum[c];
    for (std::size_t g = 0; g < k_; ++g) {
      mass_[g] += part.mass[g];
      held_[g] = static_cast<std::size_t>(static_cast<long long>(held_[g]) + part.held[g]);
    }
  }
}

// Sums afresh from the labels: what rounding left of many small changes goes. The objective on the way is that of the
// centres so far, the means but for that rounding: good enough to judge gains by.
bool Descent::recount() {
  in_parallel(parts_.size(), settings_.threads, [&](std::size_t s) {
    Part& part = parts_[s];
    part.clear();
    part.touch(k_, cols_);
    part.scatter.assign(k_, 0.0);
    if (watch_.over((last(s) - first(s)) * cols_)) return;
    if (rows_.in_tiles()) {
      recount_tiles(s, part);
      return;
    }
    for (std::size_t i = first(s); i < last(s); ++i) {
      const int own = group_[i];
      const double weight = rows_.weight(i);
      part.scatter[own] += weight * kernels_.add_row(rows_.row(i, nullptr), centres_.row(own), cols_, weight,
                                                     part.sum.data() + own * cols_);
      part.mass[own] += weight;
      part.held[own] += weight > 0.0;
    }
  });
  if (watch_.stopped()) return false;
  std::fill(sums_.values.begin(), sums_.values.end(), 0.0);
  std::fill(mass_.begin(), mass_.end(), 0.0);
  std::fill(held_.begin(), held_.end(), 0);
  const std::size_t changed = changed_, looked_at = looked_at_;
  add_up();
  changed_ = changed;
  looked_at_ = looked_at;
  const RowTable before = bounds_ready_ ? centres_ : RowTable();
  means();
  note_moves(before);
  add_up_scatter();
  fresh_ = true;
  return true;
}

// Rows of a tile do not lie together: they are read where they lie.
void Descent::recount_tiles(std::size_t s, Part& part) {
  double* const sums = part.sum.data();
  double* const scatter = part.scatter.data();
  double* const mass = part.mass.data();
  const double* const centres = centres_.values.data();
  for (std::size_t from = first(s); from < last(s); from += kTile) {
    const double* tile = rows_.tile(from, nullptr);
    const int* group = group_.data() + from;
    const std::size_t full = std::min(kTile, last(s) - from);
    for (std::size_t r = 0; r < full; ++r) {
      const std::size_t own = static_cast<std::size_t>(group[r]);
      const double weight = rows_.weight(from + r);
      const double* centre = centres + own * cols_;
      double* sum = sums + own * cols_;
      double squared = 0.0;
      for (std::size_t j = 0; j < cols_; ++j) {
        const double value = tile[j * kTile + r];
        const double gap = value - centre[j];
        squared += gap * gap;
        sum[j] += weight * value;
      }
      scatter[own] += weight * squared;
      mass[own] += weight;
      part.held[own] += weight > 0.0;
    }
  }
}

// Groups without weight, and directions that cancel, keep their centre.
void Descent::means() {
  for (std::size_t g = 0; g < k_; ++g) {
    if (held_[g] == 0) {
      mass_[g] = pull_[g] = 0.0;
      std::fill(sums_.row(g), sums_.row(g) + cols_, 0.0);
      continue;
    }
    double divisor = mass_[g];
    if (rows_.on_sphere()) {
      double length = 0.0;
      for (std::size_t j = 0; j < cols_; ++j) length += sums_.row(g)[j] * sums_.row(g)[j];
      divisor = std::sqrt(length);
    }
    pull_[g] = divisor;
    if (!(divisor > 1e-14 * mass_[g])) continue;
    for (std::size_t j = 0; j < cols_; ++j) centres_.row(g)[j] = sums_.row(g)[j] / divisor;
  }
}

void Descent::note_moves(const RowTable& before) {
  if (!bounds_ready_) return;
  for (std::size_t g = 0; g < k_; ++g)
    moved_[g] += std::sqrt(squared_distance(before.row(g), centres_.row(g), cols_)) * (1.0 + 1e-12);
}

// A group that emptied takes the row that adds most to the objective (the first of equals) out of a group that has more
// than one.
bool Descent::refill() {
  bool any = false;
  std::vector<double> own;
  std::vector<double> one(cols_);
  for (std::size_t g = 0; g < k_; ++g) {
    if (held_[g] > 0) continue;
    if (own.empty()) {
      means();
      own.resize(n_);
      for (std::size_t i = 0; i < n_; ++i)
        own[i] = rows_.weight(i) * squared_distance(rows_.row(i, one.data()), centres_.row(group_[i]), cols_);
    }
    std::size_t row = n_;
    for (std::size_t i = 0; i < n_; ++i)
      if (held_[group_[i]] > 1 && rows_.weight(i) > 0.0 && (row == n_ || own[i] > own[row])) row = i;
    if (row == n_) break;  // fewer rows than groups: refused before it comes to this
    const double* point = rows_.row(row, one.data());
    const double weight = rows_.weight(row);
    const int from = group_[row];
    for (std::size_t j = 0; j < cols_; ++j) {
      sums_.row(from)[j] -= weight * point[j];
      sums_.row(g)[j] = weight * point[j];
      centres_.row(g)[j] = point[j];
    }
    mass_[from] -= weight;
    mass_[g] = weight;
    --held_[from];
    held_[g] = 1;
    group_[row] = static_cast<int>(g);
    own[row] = 0.0;
    if (bounds_ready_) forget(row);
    ++refilled_;
    any = true;
  }
  return any;
}

void Descent::forget(std::size_t i) {
  upper_[i] = kUnbounded;
  lower_[i] = 0.0f;
}

// The objective by group, about the centres as they are now.
bool Descent::measure() {
  in_parallel(parts_.size(), settings_.threads, [&](std::size_t s) {
    Part& part = parts_[s];
    part.scatter.assign(k_, 0.0);
    if (watch_.over((last(s) - first(s)) * cols_)) return;
    std::vector<double> one(cols_);
    for (std::size_t i = first(s); i < last(s); ++i) {
      const int own = group_[i];
      part.scatter[own] += rows_.weight(i) * squared_distance(rows_.row(i, one.data()), centres_.row(own), cols_);
    }
  });
  if (watch_.stopped()) return false;
  add_up_scatter();
  return true;
}

void Descent::add_up_scatter() {
  std::fill(scatter_.begin(), scatter_.end(), 0.0);
  for (const Part& part : parts_)
    for (std::size_t g = 0; g < k_; ++g) scatter_[g] += part.scatter[g];
}

// Transfers of single rows until none pays; the last look stands on sums counted afresh.
bool Descent::transfer() {
  const std::size_t before = transferred_;
  while (k_ > 1) {
    std::size_t moved = 0;
    if (!try_transfers(moved)) return false;
    if (moved == 0 && fresh_) break;
    if (moved > 0 && rounds_ >= settings_.max_rounds) break;
    if (moved > 0) ++rounds_;
    else if (!recount()) return false;
  }
  converged_ = settled_ && transferred_ == before;
  return true;
}

// Screens all rows for transfers that could pay, then tries those one after another with plain differences.
bool Descent::try_transfers(std::size_t& moved) {
  look_at_centres();
  find_least_pull();
  const bool done = bounds_ready_ ? survey(Task::screen) : scan_all(Task::screen, false);
  if (!done) return false;
  const double least = kTransferGain * about_objective();
  const RowTable before = bounds_ready_ ? centres_ : RowTable();
  std::vector<double> one(cols_);
  for (const Part& part : parts_) {
    for (int i : part.candidates) {
      int to = -1;
      if (watch_.over(k_ * cols_)) return false;
      if (!improves(i, to, least, one.data())) continue;
      shift(i, to, one.data());
      if (bounds_ready_) forget(i);
      ++moved;
    }
  }
  if (moved > 0) {
    note_moves(before);
    fresh_ = false;
  }
  transferred_ += moved;
  return true;
}

void Descent::find_least_pull() {
  least_pull_ = -1;
  least_pull_value_ = next_pull_value_ = kInfinite;
  for (std::size_t g = 0; g < k_; ++g) {
    if (pull_[g] < least_pull_value_) {
      next_pull_value_ = least_pull_value_;
      least_pull_value_ = pull_[g];
      least_pull_ = static_cast<int>(g);
    } else if (pull_[g] < next_pull_value_) {
      next_pull_value_ = pull_[g];
    }
  }
}

// What the objective gains on the sphere when a row of weight w leaves a sum of length L, and what it loses when one
// joins: w less the change in length, with the square of the distance instead of the cosine, so that no digits cancel.
static double saved_by_leaving(double length, double squared, double weight) {
  const double left = length - weight;
  const double shrunk = std::sqrt(left * left + weight * length * squared);
  return left > 0.0 ? weight * length * squared / (shrunk + left) : shrunk - left;
}

static double price_of_joining(double length, double squared, double weight) {
  const double most = length + weight;
  const double grown = std::sqrt(std::max(0.0, most * most - weight * length * squared));
  return weight * length * squared / (grown + most);
}

bool Descent::improves(std::size_t i, int& to, double least, double* one) {
  const double* point = rows_.row(i, one);
  const int from = group_[i];
  const double w = rows_.weight(i);
  const double own = squared_distance(point, centres_.row(from), cols_);
  if (w <= 0.0) {  // it counts for nothing, so it goes to the nearest
    double nearest = own;
    for (std::size_t g = 0; g < k_; ++g) {
      const double distance = squared_distance(point, centres_.row(g), cols_);
      if (distance < nearest) {
        nearest = distance;
        to = static_cast<int>(g);
      }
    }
    return to >= 0;
  }
  if (held_[from] < 2) return false;
  double saved, cost = kInfinite;
  const double leave = mass_[from] - w;
  if (rows_.on_sphere()) saved = saved_by_leaving(pull_[from], own, w);
  else saved = leave > 0.0 ? w * mass_[from] / leave * own : 0.0;
  for (std::size_t g = 0; g < k_; ++g) {
    if (static_cast<int>(g) == from) continue;
    const double distance = squared_distance(point, centres_.row(g), cols_);
    const double price = rows_.on_sphere() ? price_of_joining(pull_[g], distance, w)
                                           : w * mass_[g] / (mass_[g] + w) * distance;
    if (price < cost) {
      cost = price;
      to = static_cast<int>(g);
    }
  }
  return saved - cost > least;
}

void Descent::shift(std::size_t i, int to, double* one) {
  const double* point = rows_.row(i, one);
  const double w = rows_.weight(i);
  const int ends[2] = {group_[i], to};
  group_[i] = to;
  if (w <= 0.0) return;
  for (int side = 0; side < 2; ++side) {
    const int g = ends[side];
    const double signed_weight = side == 0 ? -w : w;
    held_[g] += side == 0 ? static_cast<std::size_t>(-1) : 1;
    mass_[g] += signed_weight;
    double length = 0.0;
    for (std::size_t j = 0; j < cols_; ++j) {
      sums_.row(g)[j] += signed_weight * point[j];
      length += sums_.row(g)[j] * sums_.row(g)[j];
    }
    if (rows_.on_sphere()) {
      pull_[g] = std::sqrt(length);
      if (!(pull_[g] > 1e-14 * mass_[g])) continue;
      for (std::size_t j = 0; j < cols_; ++j) centres_.row(g)[j] = sums_.row(g)[j] / pull_[g];
    } else {
      pull_[g] = mass_[g];
      for (std::size_t j = 0; j < cols_; ++j)
        centres_.row(g)[j] += signed_weight * (point[j] - centres_.row(g)[j]) / mass_[g];
    }
  }
}

}  // namespace fjordline
