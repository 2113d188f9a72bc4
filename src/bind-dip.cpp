#include <algorithm>
#include <cmath>

#include "bind.h"
#include "dip.h"
#include "stream.h"

// [[Rcpp::export(rng = false)]]
double dip_kernel(std::vector<double> sorted) { return fjordline::dip(sorted); }

// The dip of `sets` uniform samples of n values, times the square root of n.
// [[Rcpp::export(rng = false)]]
std::vector<double> uniform_dips_kernel(int n, int sets, double seed) {
  std::vector<double> out(static_cast<std::size_t>(sets));
  std::vector<double> sample(static_cast<std::size_t>(n));
  for (std::size_t s = 0; s < out.size(); ++s) {
    fjordline::Stream stream(static_cast<std::uint64_t>(seed), {s});
    for (double& v : sample) v = stream.uniform();
    std::sort(sample.begin(), sample.end());
    out[s] = fjordline::dip(sample) * std::sqrt(static_cast<double>(n));
  }
  return out;
}
