// What the bindings share. Kernels do not include this.
#ifndef FJORDLINE_BIND_H
#define FJORDLINE_BIND_H

#include <Rcpp/Lightest>  // the whole of Rcpp.h takes four times as long to build

#include <cmath>
#include <initializer_list>
#include <string>
#include <utility>

#include "limits.h"
#include "rows.h"
#include "table.h"

namespace fjordline {

inline TableView view_with_gaps(const Rcpp::NumericMatrix& x) {
  return {x.begin(), static_cast<std::size_t>(x.nrow()), static_cast<std::size_t>(x.ncol())};
}

// Kernels are written for finite numbers; what others send is refused here, whoever asks.
inline TableView view(const Rcpp::NumericMatrix& x) {
  for (double value : x)
    if (!std::isfinite(value)) throw Rcpp::exception("a kernel was given a number that is not finite", false);
  return view_with_gaps(x);
}

// Labels index what kernels keep by group: 0 (none) to the number of groups, and as many as there are rows.
template <class Labels>
void check_labels(const Labels& group, int groups, R_xlen_t rows) {
  if (group.size() != rows) throw Rcpp::exception("a kernel was given other labels than rows", false);
  for (int g : group)
    if (g < 0 || g > groups) throw Rcpp::exception("a kernel was given a label beyond the groups", false);
}

// Numbers of rows or groups, which kernels count from 0 and R from 1.
template <class Numbers>
Numbers from_one(Numbers numbers) {
  for (int& number : numbers) ++number;
  return numbers;
}

inline Rcpp::NumericMatrix to_r(const RowTable& x) {
  Rcpp::NumericMatrix out(static_cast<int>(x.rows), static_cast<int>(x.cols));
  for (std::size_t i = 0; i < x.rows; ++i)
    for (std::size_t j = 0; j < x.cols; ++j) out(i, j) = x.row(i)[j];
  return out;
}

// What a word stands for. One that is not known is refused: taken for a default it would give another answer unseen.
template <class Value>
Value value_of(const char* what, const std::string& word, std::initializer_list<std::pair<const char*, Value>> known) {
  for (const auto& one : known)
    if (word == one.first) return one.second;
  throw Rcpp::exception((std::string("a kernel was given an unknown ") + what + ": " + word).c_str(), false);
}

inline Metric metric_of(const std::string& word) {
  return value_of<Metric>("metric", word, {{"euclidean", Metric::euclidean}, {"cosine", Metric::cosine},
                                           {"correlation", Metric::correlation}, {"manhattan", Metric::manhattan},
                                           {"chebyshev", Metric::chebyshev}});
}

// Whether the time is over or the user pressed the interrupt key, without letting R jump over C++ frames.
inline bool interrupted() {
  return past_deadline() || R_ToplevelExec([](void*) { R_CheckUserInterrupt(); }, nullptr) == FALSE;
}

inline void raise_if(bool stopped) {
  if (stopped) throw Rcpp::internal::InterruptedException();
}

}  // namespace fjordline

#endif
