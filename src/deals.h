// Two labelings of the same rows, one of them dealt out anew.
#ifndef FJORDLINE_DEALS_H
#define FJORDLINE_DEALS_H

#include <cstddef>
#include <cstdint>
#include <vector>

namespace fjordline {

struct TwoLabelings {
  const int* group;  // from 0
  const int* class_of;
  std::size_t rows, groups, classes;
};

// Of deals number `from` on: how many pairs of rows both labelings put together. All else that the adjusted Rand index
// (Hubert & Arabie 1985) needs is the same in every deal.
std::vector<double> dealt_pairs(const TwoLabelings& labels, std::size_t deals, std::size_t from, std::uint64_t seed);

}  // namespace fjordline

#endif
