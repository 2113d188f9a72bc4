#include "bind.h"

// [[Rcpp::export(rng = false)]]
bool memory_limit_kernel(double bytes) { return fjordline::limit_memory(bytes); }

// [[Rcpp::export(rng = false)]]
void deadline_kernel(double seconds) { fjordline::set_deadline(seconds); }
