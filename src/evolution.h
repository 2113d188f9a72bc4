// A stronger search for a small within-group sum of squares, after Gribel & Vidal (2019),
// doi:10.1016/j.patcog.2018.12.022: a population of fixed points; two of them are crossed by matching their centres and
// taking one of each pair, one centre is moved to a far row, and the child goes down to a fixed point itself. Every
// child starts near a good optimum, so it takes few rounds.
#ifndef FJORDLINE_EVOLUTION_H
#define FJORDLINE_EVOLUTION_H

#include <memory>
#include <vector>

#include "kmeans.h"

namespace fjordline {

// settings.restarts descents in all. Their objectives are added to `reached`; the best one is returned.
std::unique_ptr<Descent> evolve(const Rows& rows, const KmeansSettings& settings, Watch& watch,
                                std::vector<double>& reached, std::size_t& refilled);

}  // namespace fjordline

#endif
