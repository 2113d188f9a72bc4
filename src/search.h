// What every search from several starts is told.
#ifndef FJORDLINE_SEARCH_H
#define FJORDLINE_SEARCH_H

#include <cstddef>
#include <cstdint>

namespace fjordline {

struct SearchSettings {
  std::size_t groups = 1;
  std::size_t restarts = 1;
  std::size_t max_rounds = 200;  // of one start; of medoids, passes over all candidates
  std::size_t threads = 1;
  std::uint64_t seed = 1;
};

}  // namespace fjordline

#endif
