#include "bind.h"
#include "dbscan.h"
#include "hdbscan.h"
#include "mean-shift.h"

// [[Rcpp::export(rng = false)]]
Rcpp::List dbscan_kernel(Rcpp::NumericMatrix x, double radius, int min_rows, int threads) {
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  const fjordline::DbscanFit fit = fjordline::dbscan(fjordline::view(x), radius, min_rows, threads, watch);
  fjordline::raise_if(watch.stopped());
  return Rcpp::List::create(Rcpp::_["group"] = Rcpp::wrap(fit.group),
                            Rcpp::_["core"] = Rcpp::LogicalVector(fit.core.begin(), fit.core.end()));
}

// Of every row the nearest core row, from 1, and its distance.
// [[Rcpp::export(rng = false)]]
Rcpp::List nearest_core_kernel(Rcpp::NumericMatrix x, Rcpp::NumericMatrix cores, int threads) {
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  const fjordline::NearestCore found =
      fjordline::nearest_core(fjordline::view(x), fjordline::view(cores), threads, watch);
  fjordline::raise_if(watch.stopped());
  Rcpp::IntegerVector core(found.core.begin(), found.core.end());
  return Rcpp::List::create(Rcpp::_["core"] = fjordline::from_one(core),
                            Rcpp::_["distance"] = Rcpp::wrap(found.distance));
}

// core: the distance of every row below which it is near to no other.
// [[Rcpp::export(rng = false)]]
Rcpp::List hdbscan_kernel(Rcpp::NumericMatrix x, Rcpp::NumericVector core, int min_size, int threads) {
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  const std::vector<fjordline::Edge> edges =
      fjordline::spanning_tree(fjordline::view(x), core.begin(), threads, watch);
  fjordline::raise_if(watch.stopped());
  const fjordline::CondensedTree tree = fjordline::condense(edges, x.nrow(), min_size);
  const std::size_t many = tree.branches.size();
  Rcpp::IntegerVector parent(many), rows(many);
  Rcpp::NumericVector birth(many), end(many), stability(many);
  Rcpp::LogicalVector selected(many);
  for (std::size_t b = 0; b < many; ++b) {
    parent[b] = tree.branches[b].parent + 1;
    rows[b] = tree.branches[b].rows;
    birth[b] = tree.branches[b].birth;
    end[b] = tree.branches[b].end;
    stability[b] = tree.branches[b].stability;
    selected[b] = tree.branches[b].selected;
  }
  Rcpp::IntegerVector branch(tree.branch.begin(), tree.branch.end());
  return Rcpp::List::create(
      Rcpp::_["parent"] = parent, Rcpp::_["rows"] = rows, Rcpp::_["birth"] = birth, Rcpp::_["end"] = end,
      Rcpp::_["stability"] = stability, Rcpp::_["selected"] = selected, Rcpp::_["branch"] = fjordline::from_one(branch),
      Rcpp::_["leaves"] = Rcpp::wrap(tree.leaves), Rcpp::_["group"] = Rcpp::wrap(tree.group),
      Rcpp::_["hold"] = Rcpp::wrap(tree.hold));
}

// [[Rcpp::export(rng = false)]]
Rcpp::List mean_shift_kernel(Rcpp::NumericMatrix x, double bandwidth, int max_rounds, int threads) {
  const fjordline::Stop stop = fjordline::interrupted;
  fjordline::Watch watch(stop);
  const fjordline::Shifted out = fjordline::mean_shift(fjordline::view(x), bandwidth, max_rounds, threads, watch);
  fjordline::raise_if(watch.stopped());
  Rcpp::IntegerVector group(out.group.begin(), out.group.end());
  return Rcpp::List::create(Rcpp::_["group"] = fjordline::from_one(group),
                            Rcpp::_["modes"] = fjordline::to_r(out.modes),
                            Rcpp::_["unsettled"] = static_cast<double>(out.unsettled));
}
