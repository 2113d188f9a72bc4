#include "deals.h"

#include <utility>

#include "stream.h"

namespace fjordline {

std::vector<double> dealt_pairs(const TwoLabelings& labels, std::size_t deals, std::size_t from, std::uint64_t seed) {
  std::vector<double> out(deals);
  std::vector<int> hand(labels.class_of, labels.class_of + labels.rows);
  std::vector<double> count(labels.groups * labels.classes);
  for (std::size_t deal = 0; deal < deals; ++deal) {
    Stream stream(seed, {from + deal});
    hand.assign(labels.class_of, labels.class_of + labels.rows);
    count.assign(count.size(), 0.0);
    double together = 0.0;
    for (std::size_t left = labels.rows; left-- > 0;) {  // Fisher & Yates (1938)
      std::swap(hand[left], hand[stream.below(left + 1)]);
      together += count[labels.group[left] * labels.classes + hand[left]]++;
    }
    out[deal] = together;
  }
  return out;
}

}  // namespace fjordline
