// Groups whose distances to each other are kept in one matrix: what the joins from all distances work on.
#ifndef FJORDLINE_LINKAGE_MATRIX_H
#define FJORDLINE_LINKAGE_MATRIX_H

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <utility>
#include <vector>

#include "pairs.h"
#include "parallel.h"
#include "table.h"

namespace fjordline {

// The nearest other group of a group; equal ones: the one with the lowest row.
struct Nearest {
  double apart = std::numeric_limits<double>::infinity();
  int group = -1;
};

// Lance & Williams (1967): how far a third group is from two that are merged. a, b: from each of the two; between: the
// two from each other; and the sizes of all three.
struct LargestOf {
  static constexpr bool kMayOverflow = false;
  double operator()(double a, double b, double, double, double, double) const { return a > b ? a : b; }
};
struct MeanOfParts {
  static constexpr bool kMayOverflow = true;
  double operator()(double a, double b, double, double, double, double) const { return 0.5 * (a + b); }
};
struct MeanOfRows {
  static constexpr bool kMayOverflow = true;
  double operator()(double a, double b, double, double size_a, double size_b, double) const {
    return (size_a * a + size_b * b) / (size_a + size_b);
  }
};
struct Growth {
  static constexpr bool kMayOverflow = true;
  double operator()(double a, double b, double between, double size_a, double size_b, double third) const {
    return ((size_a + third) * a + (size_b + third) * b - third * between) / (size_a + size_b + third);
  }
};
struct FromMean {
  static constexpr bool kMayOverflow = true;
  double operator()(double a, double b, double between, double size_a, double size_b, double) const {
    const double all = size_a + size_b;
    return (size_a * a + size_b * b) / all - size_a * size_b / (all * all) * between;
  }
};
struct FromMiddle {
  static constexpr bool kMayOverflow = true;
  double operator()(double a, double b, double between, double, double, double) const {
    return 0.5 * (a + b) - 0.25 * between;
  }
};

// Symmetric to the last digit, infinite on the diagonal, in the columns of the dead and in those that fill up the last
// tile. A place keeps its line of the matrix when gaps are closed.
template <class Number, class Combine>
class MatrixSpace {
 public:
  MatrixSpace(const PairBlocks& pairs, bool squared, std::size_t threads, Watch& watch)
      : squared_(squared), threads_(threads), watch_(watch), stride_(pairs.tiles() * kTile), count_(pairs.rows()),
        line_(stride_), lowest_(pairs.rows()), size_(pairs.rows(), 1.0), alive_(pairs.rows(), 1),
        nearest_(pairs.rows()), values_(stride_ * stride_) {
    std::iota(line_.begin(), line_.end(), 0);
    std::iota(lowest_.begin(), lowest_.end(), 0);
    const double unit = pairs.unit();
    in_parallel(pairs.tiles(), threads, [&](std::size_t t) {
      if (watch_.over(stride_ * kTile / 2)) return;
      alignas(64) double block[kTile * kTile];
      alignas(64) Number own[kTile * kTile];
      for (std::size_t u = t; u < pairs.tiles(); ++u) {
        pairs.block(u, t, block);
        const bool square = squared_;
#pragma omp simd
        for (std::size_t c = 0; c < kTile * kTile; ++c) {
          const double value = block[c] * unit;
          own[c] = kept(value * (square ? value : 1.0));
        }
        for (std::size_t l = 0; l < kTile; ++l) std::copy_n(own + l * kTile, kTile, row(t * kTile + l) + u * kTile);
        if (u > t) turn(own, row(u * kTile) + t * kTile);
      }
    });
    if (watch_.stopped()) return;
    in_parallel(pairs.tiles(), threads, [&](std::size_t t) {
      for (std::size_t i = t * kTile; i < std::min(count_, (t + 1) * kTile); ++i) {
        row(i)[i] = kNone;
        fill_up(row(i), count_);
        look(i);
      }
    });
  }

  std::size_t count() const { return count_; }
  int lowest(std::size_t at) const { return lowest_[at]; }
  bool alive(std::size_t at) const { return alive_[at]; }
  double height(double apart) const { return squared_ ? std::sqrt(std::max(0.0, apart)) : apart; }
  const std::vector<Nearest>& nearest() const { return nearest_; }
  void renew() {}  // every place's nearest is renewed as pairs are merged
  Nearest nearest_of(std::size_t at) {
    look(at);
    return nearest_[at];
  }
  double between(std::size_t i, std::size_t l) { return row(i)[l]; }

  void merge(std::size_t low, std::size_t high) {
    Number* a = row(low);
    Number* b = row(high);
    const double between = a[high];
    for (std::size_t j = 0; j < count_; ++j) {
      if (!alive_[j] || j == low || j == high) continue;
      const Number value = joined(a[j], b[j], between, size_[low], size_[high], size_[j]);
      a[j] = value;
      row(j)[low] = value;
      row(j)[high] = kNone;
    }
    a[high] = kNone;
    size_[low] += size_[high];
    alive_[high] = 0;
  }

  // Merges pairs of places at once. A row needs nothing but itself, or the two it is made of.
  void merge_all(const std::vector<std::pair<int, int>>& pairs) {
    pairs_.take(pairs, size_);
    for (std::size_t p = 0; p < pairs.size(); ++p) pairs_.between[p] = row(pairs[p].first)[pairs[p].second];
    std::vector<int> mate(count_, -1);
    for (std::size_t p = 0; p < pairs.size(); ++p) mate[pairs[p].first] = mate[pairs[p].second] = static_cast<int>(p);
    in_parallel((count_ + kTile - 1) / kTile, threads_, [&](std::size_t t) {
      if (watch_.over(kTile * count_)) return;
      std::vector<Number> one(count_), two(count_);
      for (std::size_t at = t * kTile; at < std::min(count_, (t + 1) * kTile); ++at) {
        if (!alive_[at]) continue;
        if (mate[at] < 0) {
          meet_pairs(at, mate[nearest_[at].group] >= 0, one.data(), two.data());
        } else if (pairs_.first[mate[at]] == static_cast<int>(at)) {
          join_pair(mate[at], one.data(), two.data());
        }
      }
    });
    if (watch_.stopped()) return;
    for (const auto& pair : pairs) {
      size_[pair.first] += size_[pair.second];
      alive_[pair.second] = 0;
      nearest_[pair.second] = {};
    }
    living_ -= pairs.size();
    if (living_ * 4 < count_ * 3) close_gaps();
  }

 private:
  // Pairs that are being merged, in the order of their lower places.
  struct Pairs {
    std::vector<int> first, second;
    std::vector<double> size, other_size, between;

    void take(const std::vector<std::pair<int, int>>& pairs, const std::vector<double>& sizes) {
      const std::size_t many = pairs.size();
      first.resize(many), second.resize(many), size.resize(many), other_size.resize(many), between.resize(many);
      for (std::size_t p = 0; p < many; ++p) {
        first[p] = pairs[p].first;
        second[p] = pairs[p].second;
        size[p] = sizes[first[p]];
        other_size[p] = sizes[second[p]];
      }
    }
    std::size_t count() const { return first.size(); }
    double both(std::size_t p) const { return size[p] + other_size[p]; }
  };

  Number* row(std::size_t at) { return values_.data() + line_[at] * stride_; }

  // How far the pairs from `begin` to `end` are from a group of size `third`, whose row is given.
  void pairs_from(const Number* values, double third, std::size_t begin, std::size_t end, Number* out,
                  Number* scratch) {
    const double *between = pairs_.between.data(), *size = pairs_.size.data(), *other = pairs_.other_size.data();
    for (std::size_t p = begin; p < end; ++p) {
      out[p] = values[pairs_.first[p]];
      scratch[p] = values[pairs_.second[p]];
    }
#pragma omp simd
    for (std::size_t p = begin; p < end; ++p)
      out[p] = joined(out[p], scratch[p], between[p], size[p], other[p], third);
  }

  // The row of a group that stays as it is; its nearest is sought again where that is merged.
  void meet_pairs(std::size_t at, bool lost, Number* met, Number* scratch) {
    Number* values = row(at);
    Nearest& nearest = nearest_[at];
    // the pairs lie here and there in the row
    for (std::size_t j = 0; j < count_; j += 64 / sizeof(Number)) __builtin_prefetch(values + j);
    pairs_from(values, size_[at], 0, pairs_.count(), met, scratch);
    for (std::size_t p = 0; p < pairs_.count(); ++p) {
      const int group = pairs_.first[p];
      values[group] = met[p];
      values[pairs_.second[p]] = kNone;
      if (met[p] < nearest.apart || (met[p] == nearest.apart && group < nearest.group)) nearest = {met[p], group};
    }
    if (lost) nearest = smallest(values, count_);
  }

  // The row of a pair. Where both sides are pairs, the lower one is merged first.
  void join_pair(std::size_t which, Number* merged, Number* scratch) {
    Number* first = row(pairs_.first[which]);
    Number* second = row(pairs_.second[which]);
    const double between = pairs_.between[which], size = pairs_.size[which], other = pairs_.other_size[which];
    const double* third = size_.data();
#pragma omp simd
    for (std::size_t c = 0; c < count_; ++c)
      merged[c] = joined(first[c], second[c], between, size, other, third[c]);
    std::vector<Number> met(pairs_.count()), met_second(which);
    pairs_from(first, size, 0, which, met.data(), scratch);
    pairs_from(second, other, 0, which, met_second.data(), scratch);
    for (std::size_t p = 0; p < which; ++p)
      met[p] = joined(met[p], met_second[p], between, size, other, pairs_.both(p));
    pairs_from(merged, size + other, which + 1, pairs_.count(), met.data(), scratch);
    for (std::size_t c = 0; c < count_; ++c)
      if (!alive_[c]) merged[c] = kNone;
    for (std::size_t p = 0; p < pairs_.count(); ++p) {
      merged[pairs_.first[p]] = p == which ? kNone : met[p];
      merged[pairs_.second[p]] = kNone;
    }
    std::copy_n(merged, count_, first);
    nearest_[pairs_.first[which]] = smallest(first, count_);
  }

  // The living move up; their order stays.
  void close_gaps() {
    std::vector<int> from, moved(count_, -1);
    for (std::size_t at = 0; at < count_; ++at) {
      if (!alive_[at]) continue;
      moved[at] = static_cast<int>(from.size());
      from.push_back(static_cast<int>(at));
    }
    const std::size_t to = from.size();
    in_parallel((to + kTile - 1) / kTile, threads_, [&](std::size_t t) {
      for (std::size_t g = t * kTile; g < std::min(to, (t + 1) * kTile); ++g) {
        Number* values = row(from[g]);
        for (std::size_t h = 0; h < to; ++h) values[h] = values[from[h]];
        fill_up(values, to);
      }
    });
    for (std::size_t g = 0; g < to; ++g) {
      line_[g] = line_[from[g]];
      lowest_[g] = lowest_[from[g]];
      size_[g] = size_[from[g]];
      nearest_[g] = nearest_[from[g]];
      if (nearest_[g].group >= 0) nearest_[g].group = moved[nearest_[g].group];  // the last group has none
    }
    alive_.assign(to, 1);
    count_ = to;
  }

  // Infinite means that there is no such group: what is too large for the number is the largest it can be.
  static Number kept(double value) {
    constexpr Number most = std::numeric_limits<Number>::max();
    const Number number = static_cast<Number>(value);
    return number < most ? number : most;
  }

  static Number joined(double a, double b, double between, double size_a, double size_b, double third) {
    const double value = Combine()(a, b, between, size_a, size_b, third);
    return Combine::kMayOverflow ? kept(value) : static_cast<Number>(value);
  }

  // The rows of a tile become columns of the matrix.
  void turn(const Number* tile, Number* to) {
    for (std::size_t i = 0; i < kTile; ++i)
      for (std::size_t l = 0; l < kTile; ++l) to[i * stride_ + l] = tile[l * kTile + i];
  }

  void fill_up(Number* values, std::size_t count) {
    std::fill(values + count, values + std::min(stride_, (count + kTile - 1) / kTile * kTile), kNone);
  }

  void look(std::size_t at) { nearest_[at] = smallest(row(at), count_); }

  // In whole tiles, which end with infinite values; the first of the smallest is sought in its stretch alone.
  static Nearest smallest(const Number* values, std::size_t count) {
    typedef Number Wide __attribute__((vector_size(16)));
    constexpr std::size_t lanes = 16 / sizeof(Number), stretch = 16 * kTile;
    const std::size_t end = (count + kTile - 1) / kTile * kTile;
    Number least = kNone;
    std::size_t where = 0;
    for (std::size_t from = 0; from < end; from += stretch) {
      Wide low[4];
      for (int v = 0; v < 4; ++v) low[v] = Wide{} + kNone;
      for (std::size_t j = from; j < std::min(end, from + stretch); j += 4 * lanes) {
        for (int v = 0; v < 4; ++v) {
          const Wide next = *reinterpret_cast<const Wide*>(values + j + v * lanes);
          low[v] = next < low[v] ? next : low[v];
        }
      }
      Number here = kNone;
      for (int v = 0; v < 4; ++v)
        for (std::size_t l = 0; l < lanes; ++l) here = std::min<Number>(here, low[v][l]);
      if (here < least) {
        least = here;
        where = from;
      }
    }
    if (!(least < kNone)) return {};
    while (values[where] != least) ++where;
    return {static_cast<double>(least), static_cast<int>(where)};
  }

  static constexpr Number kNone = std::numeric_limits<Number>::infinity();
  bool squared_;
  std::size_t threads_;
  Watch& watch_;
  std::size_t stride_, count_, living_ = count_;
  std::vector<std::size_t> line_;  // of the matrix, by place
  std::vector<int> lowest_;
  std::vector<double> size_;
  std::vector<char> alive_;
  std::vector<Nearest> nearest_;
  Pairs pairs_;
  std::vector<Number, LineAllocator<Number>> values_;
};

}  // namespace fjordline

#endif
