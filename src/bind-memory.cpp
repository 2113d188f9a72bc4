#include "bind.h"
#include "memory-limit.h"

// [[Rcpp::export(rng = false)]]
bool memory_limit_kernel(double bytes) { return fjordline::limit_memory(bytes); }
