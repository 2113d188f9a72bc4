#include "bind.h"
#include "stream.h"

// A seed of at most 31 bits that depends on `seed` and the coordinates alone.
// [[Rcpp::export(rng = false)]]
double seed_kernel(double seed, std::vector<double> coordinates) {
  std::uint64_t state = fjordline::seed_at(static_cast<std::uint64_t>(seed), {});
  for (double c : coordinates) state = fjordline::seed_at(state, {static_cast<std::uint64_t>(c)});
  return static_cast<double>(state >> 33);
}
