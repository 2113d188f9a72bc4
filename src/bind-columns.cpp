#include <algorithm>
#include <cmath>
#include <iterator>
#include <vector>

#include "bind.h"
#include "columns.h"
#include "parallel.h"

namespace {

constexpr const char* kParts[] = {"n",     "distinct", "least", "most",            "sd",    "lower",
                                  "median", "upper",    "skew",  "commonest_share", "apart", "dip"};

void write_parts(const fjordline::ColumnShape& shape, double* out) {
  const double parts[] = {static_cast<double>(shape.count), static_cast<double>(shape.distinct),
                          shape.least, shape.most, shape.sd, shape.lower, shape.median, shape.upper, shape.skew,
                          shape.commonest_share, shape.apart, shape.dip};
  std::copy(std::begin(parts), std::end(parts), out);
}

}  // namespace

// Columns, each without its missing and infinite cells: `sorted`, and `shape`, a row for each part and a column for
// each of them (an empty one: n and distinct 0, else missing).
// [[Rcpp::export(rng = false)]]
Rcpp::List column_shapes_kernel(Rcpp::List columns, int threads) {
  const std::size_t many = static_cast<std::size_t>(columns.size()), parts = std::size(kParts);
  Rcpp::NumericMatrix shape(static_cast<int>(parts), static_cast<int>(many));
  std::fill(shape.begin(), shape.end(), NA_REAL);
  Rcpp::List sorted(columns.size());
  std::vector<double*> values(many);
  std::vector<std::size_t> count(many);
  for (std::size_t j = 0; j < many; ++j) {
    const Rcpp::NumericVector column = columns[j];
    Rcpp::NumericVector kept(std::count_if(column.begin(), column.end(), [](double v) { return std::isfinite(v); }));
    std::copy_if(column.begin(), column.end(), kept.begin(), [](double v) { return std::isfinite(v); });
    sorted[j] = kept;
    values[j] = kept.begin();
    count[j] = static_cast<std::size_t>(kept.size());
  }
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  fjordline::in_parallel(many, threads, [&](std::size_t j) {
    double* out = shape.begin() + j * parts;
    if (count[j] == 0) {
      out[0] = out[1] = 0.0;
    } else if (!watch.over(count[j] * 100)) {
      write_parts(fjordline::column_shape(values[j], count[j]), out);
    }
  });
  fjordline::raise_if(watch.stopped());
  Rcpp::CharacterVector names(parts);
  for (std::size_t p = 0; p < parts; ++p) names[p] = kParts[p];
  Rcpp::rownames(shape) = names;
  return Rcpp::List::create(Rcpp::Named("sorted") = sorted, Rcpp::Named("shape") = shape);
}
