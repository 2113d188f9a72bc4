#include "bind.h"
#include "structure.h"

// [[Rcpp::export(rng = false)]]
Rcpp::List structure_kernel(Rcpp::NumericMatrix scores, int from, int sets, double seed, bool discriminants,
                            int threads) {
  const fjordline::StructureTest test = fjordline::structure_test(
      fjordline::view(scores), from, sets, static_cast<std::uint64_t>(seed), discriminants, threads, fjordline::interrupted);
  fjordline::raise_if(test.stopped);
  Rcpp::List pairs;
  for (const fjordline::Between& pair : test.observed.pairs) {
    std::vector<int> rows = pair.rows;
    for (int& row : rows) ++row;  // R counts from one
    pairs.push_back(Rcpp::List::create(Rcpp::_["rows"] = rows, Rcpp::_["along"] = pair.along,
                                       Rcpp::_["middle"] = pair.middle));
  }
  const int kinds = static_cast<int>(test.dips.size()) / sets;
  return Rcpp::List::create(
      Rcpp::_["dip"] = test.observed.dip, Rcpp::_["runt"] = test.observed.runt,
      Rcpp::_["direction"] = static_cast<int>(test.observed.direction),
      Rcpp::_["share"] = test.observed.part.share, Rcpp::_["upper"] = test.observed.part.upper, Rcpp::_["along"] = test.observed.along,
      Rcpp::_["between"] = test.observed.between, Rcpp::_["pairs"] = pairs,
      Rcpp::_["betweens"] = Rcpp::NumericMatrix(sets, static_cast<int>(test.betweens.size()) / sets, test.betweens.begin()),
      Rcpp::_["dips"] = Rcpp::NumericMatrix(sets, kinds, test.dips.begin()),
      Rcpp::_["runts"] = Rcpp::NumericMatrix(sets, kinds, test.runts.begin()));
}
