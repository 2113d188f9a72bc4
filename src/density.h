// Validity of groups of any shape, by their densities: Moulavi, Jaskowiak, Campello, Zimek & Sander (2014).
#ifndef FJORDLINE_DENSITY_H
#define FJORDLINE_DENSITY_H

#include <vector>

#include "pairs.h"

namespace fjordline {

// One value a labeling; NaN with fewer than two groups. Keeps the distances of all pairs. `dimensions` is the exponent.
// False when the user stopped it.
bool density_validity(const PairBlocks& pairs, const Labelings& labelings, double dimensions, std::size_t threads,
                      const Stop& stop, std::vector<double>& out);

}  // namespace fjordline

#endif
