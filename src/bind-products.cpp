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

// t(left) %*% right, of tables of as many rows; `same` where both are one.
// [[Rcpp::export(rng = false)]]
Rcpp::NumericMatrix column_products_kernel(Rcpp::NumericMatrix left, Rcpp::NumericMatrix right, bool same,
                                           int threads) {
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  Rcpp::NumericMatrix out(left.ncol(), right.ncol());
  fjordline::column_products(fjordline::view(left), fjordline::view(right), same, threads, watch, out.begin());
  fjordline::raise_if(watch.stopped());
  return out;
}
