#include "bind.h"
#include "products.h"

// matrix %*% block, the matrix symmetric.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix symmetric_product_kernel(Rcpp::NumericMatrix matrix, Rcpp::NumericMatrix block, int threads) {
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  Rcpp::NumericMatrix out(matrix.nrow(), block.ncol());
  fjordline::symmetric_product(fjordline::view(matrix), fjordline::view(block), threads, watch, out.begin());
  fjordline::raise_if(watch.stopped());
  return out;
}
