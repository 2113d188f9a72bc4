// Where EM begins, and how it gets away from optima that are not the best.
#ifndef FJORDLINE_MIXTURE_SEARCH_H
#define FJORDLINE_MIXTURE_SEARCH_H

#include <vector>

#include "mixture.h"

namespace fjordline {

struct MixtureSearch {
  std::size_t short_rounds = 15;  // of the first runs, of which the best go on: Biernacki, Celeux & Govaert (2003),
                                  // doi:10.1016/S0167-9473(02)00163-9
  std::size_t first_rounds = 5;   // of these, before the worse half is dropped
  std::size_t kept = 3;
  std::size_t max_rounds = 500;
  std::size_t exchanges = 2;      // rounds in which every model starts from the groups of the best others
  std::size_t exchanged = 6;      // so many of them
  std::size_t moves = 20;         // most merges and splits tried at a time, as long as one gains (after Ueda et al.
                                  // 2000, doi:10.1162/089976600300015088)
  std::size_t turns = 3;          // most such gains
  std::size_t moved = 3;          // models that are moved so, the best by BIC
  double far = 0.2;               // models that are this times the rows behind start from the groups of
  std::size_t far_exchanged = 2;  // so many others only
  std::size_t threads = 1;
  EmSettings em;
};

struct MixtureFound {
  MixtureFit fit;
  std::vector<double> reached;  // the log-likelihood of every run that was taken to its end
  std::size_t tried = 0;        // starts, moves included
  double certainty = 0.0;       // sum over rows of the log probability of the component they belong to most
};

// -2 log L + `charge` for every parameter of the numbers: chances of levels are as many in all models of a count.
double mixture_criterion(const MixtureFit& fit, double charge, bool estimated_freedom);
std::size_t mixture_parameters(const MixtureModel& model, std::size_t components, std::size_t cols,
                               bool estimated_freedom);

// The best fit of each model. `starts`: partitions of all rows, 0-based.
std::vector<MixtureFound> search_mixtures(const MixtureRows& rows, const std::vector<MixtureModel>& models,
                                          std::size_t components, const std::vector<const int*>& starts,
                                          const MixtureSearch& how, Watch& watch);

}  // namespace fjordline

#endif
