#include "columns.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <vector>

#include "dip.h"

namespace fjordline {

namespace {

using Steps = std::vector<std::size_t>;  // where each distinct value begins, and the end

Steps steps_of(const double* sorted, std::size_t count) {
  Steps steps;
  for (std::size_t i = 0; i < count; ++i)
    if (i == 0 || sorted[i] > sorted[i - 1]) steps.push_back(i);
  steps.push_back(count);
  return steps;
}

// By interpolation between order statistics (type 7 of Hyndman & Fan 1996).
double quantile(const double* sorted, std::size_t count, double share) {
  const double at = share * static_cast<double>(count - 1);
  const std::size_t low = static_cast<std::size_t>(at), high = std::min(low + 1, count - 1);
  return sorted[low] + (at - static_cast<double>(low)) * (sorted[high] - sorted[low]);
}

// Standard deviation and skewness. Gaps to the mean are measured by the largest one: neither vanishes nor overflows.
void moments(const double* values, std::size_t count, ColumnShape& out) {
  long double total = 0.0L;
  for (std::size_t i = 0; i < count; ++i) total += values[i];
  const double mean = static_cast<double>(total / static_cast<long double>(count));
  const double largest = std::max(std::abs(values[0] - mean), std::abs(values[count - 1] - mean));
  out.sd = 0.0;
  out.skew = std::numeric_limits<double>::quiet_NaN();
  if (count < 2 || largest == 0.0) return;
  long double sum = 0.0L, square = 0.0L, cube = 0.0L;
  for (std::size_t i = 0; i < count; ++i) {
    const double gap = (values[i] - mean) / largest;
    sum += gap;
    square += gap * gap;
    cube += gap * gap * gap;
  }
  const long double n = static_cast<long double>(count);
  out.sd = largest * std::sqrt(static_cast<double>((square - sum * sum / n) / (n - 1)));
  if (count >= 8) out.skew = static_cast<double>(cube / n) / std::pow(static_cast<double>(square / n), 1.5);
}

// Mean absolute difference over pairs of different rows (Gini 1912), from sorted values.
double mean_difference(const double* sorted, std::size_t count) {
  if (count < 2) return 0.0;
  const double n = static_cast<double>(count);
  long double sum = 0.0L;
  for (std::size_t i = 0; i < count; ++i)
    sum += (2.0 * static_cast<double>(i + 1) - n - 1.0) * (sorted[i] - sorted[0]);
  return 2.0 * static_cast<double>(sum) / (n * (n - 1.0));
}

// Rounding makes steps that a dip would take for humps: equal values are spread over one rounding unit, unless the
// column has so few values that they are what it is about.
std::vector<double> spread_rounding(const double* sorted, std::size_t count, const Steps& steps) {
  std::vector<double> out(sorted, sorted + count);
  const std::size_t distinct = steps.size() - 1;
  if (distinct < 20 || distinct == count) return out;
  std::vector<double> gaps(distinct - 1);
  for (std::size_t s = 1; s < distinct; ++s) gaps[s - 1] = sorted[steps[s]] - sorted[steps[s - 1]];
  std::sort(gaps.begin(), gaps.end());
  const double unit = gaps[0];
  if (unit > (sorted[count - 1] - sorted[0]) / 20.0 || unit < quantile(gaps.data(), gaps.size(), 0.5) / 10.0) return out;
  for (std::size_t s = 0; s < distinct; ++s) {
    const double many = static_cast<double>(steps[s + 1] - steps[s]);
    for (std::size_t i = steps[s]; i < steps[s + 1]; ++i)
      out[i] += unit * ((static_cast<double>(i - steps[s]) + 0.5) / many - 0.5);
  }
  return out;
}

}  // namespace

ColumnShape column_shape(double* values, std::size_t count) {
  std::sort(values, values + count);
  const Steps steps = steps_of(values, count);
  ColumnShape out;
  out.count = count;
  out.distinct = steps.size() - 1;
  out.least = values[0];
  out.most = values[count - 1];
  out.lower = quantile(values, count, 0.25);
  out.median = quantile(values, count, 0.5);
  out.upper = quantile(values, count, 0.75);
  std::size_t most = 0;
  for (std::size_t s = 1; s < out.distinct; ++s)
    if (steps[s + 1] - steps[s] > steps[most + 1] - steps[most]) most = s;
  out.commonest_share = static_cast<double>(steps[most + 1] - steps[most]) / static_cast<double>(count);
  moments(values, count, out);
  const double range = out.most - out.least;
  out.apart = range > 0.0 ? 2.0 * mean_difference(values, count) * (1.0 - 1.0 / static_cast<double>(count)) / range : 0.0;
  out.dip = dip(spread_rounding(values, count, steps));
  return out;
}

}  // namespace fjordline
