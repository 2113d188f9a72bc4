// The dip of a sample: how far its distribution is from any with one mode.
#ifndef FJORDLINE_DIP_H
#define FJORDLINE_DIP_H

#include <cstddef>
#include <vector>

namespace fjordline {

// Hartigan & Hartigan (1985). `sorted` increases; equal values are one step of the distribution. 0 to 0.25.
double dip(const std::vector<double>& sorted);

// The same, given up as soon as it is known to be at most `beaten`: then `value` may be too small, `limit` holds still.
struct DipWithin {
  double value, limit;
};
DipWithin dip_over(double beaten, const double* sorted, std::size_t count);

}  // namespace fjordline

#endif
