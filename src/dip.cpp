#include "dip.h"

#include <algorithm>
#include <cstddef>

namespace fjordline {

namespace {

// The distribution function as steps: at value[j] it rises from below[j] to upto[j], in rows.
struct Steps {
  std::vector<double> value, below, upto;
  Steps(const double* sorted, std::size_t count) {
    for (std::vector<double>* each : {&value, &below, &upto}) each->reserve(count);
    for (std::size_t i = 0; i < count; ++i) {
      if (value.empty() || sorted[i] > value.back()) {
        value.push_back(sorted[i]);
        below.push_back(static_cast<double>(i));
        upto.push_back(static_cast<double>(i));
      }
      upto.back() += 1.0;
    }
  }
};

using Knots = std::vector<std::size_t>;

// Corners of the greatest convex minorant (sign 1) or the least concave majorant (sign -1) between two steps.
void hull(const Steps& s, const std::vector<double>& height, std::size_t low, std::size_t high, double sign, Knots& out) {
  out.clear();
  for (std::size_t j = low; j <= high; ++j) {
    while (out.size() >= 2) {
      const std::size_t a = out[out.size() - 2], b = out.back();
      const double bend = (height[b] - height[a]) * (s.value[j] - s.value[b]) -
                          (height[j] - height[b]) * (s.value[b] - s.value[a]);
      if (sign * bend < 0.0) break;
      out.pop_back();
    }
    out.push_back(j);
  }
}

// Height of the hull at step j; `at` is the knot whose segment ends at or beyond j, and only moves on.
double height_at(const Steps& s, const Knots& knots, const std::vector<double>& height, std::size_t j, std::size_t& at) {
  while (at + 1 < knots.size() && knots[at] < j) ++at;
  const std::size_t b = knots[at];
  if (b == j || at == 0) return height[b];
  const std::size_t a = knots[at - 1];
  return height[a] + (height[b] - height[a]) * (s.value[j] - s.value[a]) / (s.value[b] - s.value[a]);
}

}  // namespace

double dip(const std::vector<double>& sorted) { return dip_over(0.0, sorted.data(), sorted.size()).value; }

DipWithin dip_over(double beaten, const double* sorted, std::size_t count) {
  if (count < 2) return {0.0, 0.0};
  const Steps s(sorted, count);
  std::size_t low = 0, high = s.value.size() - 1;
  const double rows = static_cast<double>(count);
  const double enough = beaten * 2.0 * rows;
  double most = 0.0, limit = 0.0;
  Knots minorant, majorant;
  while (low < high) {
    hull(s, s.below, low, high, 1.0, minorant);
    hull(s, s.upto, low, high, -1.0, majorant);
    double gap = 0.0;
    std::size_t new_low = low, new_high = high, at = 0;
    for (std::size_t g : minorant) {
      const double d = height_at(s, majorant, s.upto, g, at) - s.below[g];
      if (d > gap) {
        gap = d;
        new_low = g;
        new_high = majorant[at];
      }
    }
    at = 0;
    for (std::size_t h : majorant) {
      const double d = s.upto[h] - height_at(s, minorant, s.below, h, at);
      if (d > gap) {
        gap = d;
        new_high = h;
        new_low = minorant[at] == h || at == 0 ? minorant[at] : minorant[at - 1];
      }
    }
    limit = std::max(gap, most);  // the dip is at most the larger of the two
    if (gap <= most || limit <= enough) break;
    at = 0;
    for (std::size_t j = low; j < new_low; ++j)
      most = std::max(most, s.upto[j] - height_at(s, minorant, s.below, j, at));
    at = 0;
    for (std::size_t j = new_high + 1; j <= high; ++j)
      most = std::max(most, height_at(s, majorant, s.upto, j, at) - s.below[j]);
    if (new_low == low && new_high == high) {
      // nothing left to give up: the rest is one mode within half the gap, or the gap itself
      break;
    }
    low = new_low;
    high = new_high;
  }
  return {most / (2.0 * rows), std::max(limit, most) / (2.0 * rows)};
}

}  // namespace fjordline
