// The dip of a sample: how far its distribution is from any with one mode.
#ifndef FJORDLINE_DIP_H
#define FJORDLINE_DIP_H

#include <vector>

namespace fjordline {

// Hartigan & Hartigan (1985). `sorted` increases; equal values are one step of the distribution. 0 to 0.25. A dip of at
// most `beaten` may come back smaller than it is.
double dip(const std::vector<double>& sorted, double beaten = 0.0);

}  // namespace fjordline

#endif
