// A stream of random numbers that depends only on the seed and the coordinates given,
// so that neither the order of work nor the number of threads can change a result.
#ifndef FJORDLINE_STREAM_H
#define FJORDLINE_STREAM_H

#include <cmath>
#include <cstddef>
#include <cstdint>
#include <initializer_list>
#include <vector>

#include <xoshiro.h>

namespace fjordline {

// The finaliser of Steele, Lea & Flood (2014), doi:10.1145/2660193.2660195.
inline std::uint64_t mixed(std::uint64_t z) {
  z += 0x9e3779b97f4a7c15ULL;
  z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9ULL;
  z = (z ^ (z >> 27)) * 0x94d049bb133111ebULL;
  return z ^ (z >> 31);
}

inline std::uint64_t seed_at(std::uint64_t seed, std::initializer_list<std::uint64_t> coordinates) {
  std::uint64_t state = mixed(seed);
  for (std::uint64_t c : coordinates) state = mixed(state ^ mixed(c));
  return state;
}

class Stream {
 public:
  Stream(std::uint64_t seed, std::initializer_list<std::uint64_t> coordinates)
      : generator_(seed_at(seed, coordinates)) {}

  double uniform() { return static_cast<double>(generator_() >> 11) * 0x1.0p-53; }  // [0, 1)

  double normal() {  // Box & Muller (1958)
    const double length = std::sqrt(-2.0 * std::log(1.0 - uniform()));
    return length * std::cos(6.283185307179586 * uniform());
  }

  std::size_t below(std::size_t n) {
    const std::size_t drawn = static_cast<std::size_t>(uniform() * static_cast<double>(n));
    return drawn < n ? drawn : n - 1;
  }

 private:
  dqrng::xoshiro256plus generator_;
};

// `many` different numbers below `rows`, ascending: each is taken with the chance that is left to it.
inline std::vector<int> drawn_rows(std::size_t rows, std::size_t many, std::uint64_t seed) {
  Stream stream(seed, {rows, many});
  std::vector<int> out;
  out.reserve(many);
  for (std::size_t i = 0; i < rows && out.size() < many; ++i)
    if (stream.uniform() * static_cast<double>(rows - i) < static_cast<double>(many - out.size()))
      out.push_back(static_cast<int>(i));
  return out;
}

}  // namespace fjordline

#endif
