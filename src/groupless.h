// Tables without groups, of the size and spread of another: what the test for groups compares with.
#ifndef FJORDLINE_GROUPLESS_H
#define FJORDLINE_GROUPLESS_H

#include <cstddef>
#include <vector>

#include "stream.h"
#include "table.h"

namespace fjordline {

struct Columns {
  std::size_t rows, cols;
  std::vector<double> values;
  Columns(std::size_t rows_, std::size_t cols_) : rows(rows_), cols(cols_), values(rows_ * cols_) {}
  double* column(std::size_t j) { return values.data() + j * rows; }
  const double* column(std::size_t j) const { return values.data() + j * rows; }
  TableView view() const { return {values.data(), rows, cols}; }
};

// Of centred columns.
std::vector<double> deviations(const Columns& scores);

// Uniform in a box with the standard deviations of the axes, Gaussian, uniform in an ellipsoid with those standard
// deviations, uniform in the box of the ranges, one cluster as skewed and with tails as long as the table's; and, where
// another direction follows the square of the one along which the table dips, one bent band: a parabola, and an arc of
// an ellipse.
enum class Groupless { box, gaussian, ellipsoid, ranges, skewed, parabola, arc };
constexpr std::size_t kStraightKinds = 5, kGrouplessKinds = 7;

// By axis the skewness, at most 2; and the degrees of freedom of the tails beyond that, 0 where there are none.
struct Form {
  std::vector<double> skewness;
  double freedom = 0.0;
};

// A bent band in the plane of a direction and of the one that follows its square, both in scores of unit variance.
// `parabola`: across = bend (along^2 - mean) + rest, along from -reach to reach. `arc`: even along a part of a circle,
// once across is multiplied by `narrow`; angles, and the scatter to both sides.
struct Band {
  std::vector<double> along, across;
  double bend = 0.0, rest = 0.0, scatter = 0.0, reach = 0.0;
  double narrow = 1.0, at_along = 0.0, at_across = 0.0, radius = 0.0, middle = 0.0, half_angle = 0.0, aside = 0.0;
  bool is = false;
};

// What of a table of centred principal scores its tables without groups share with it.
struct Heap {
  std::vector<double> sd;
  Form form;
  Band band;
};

// `along`: the rows along the direction that may be bent.
Heap heap_of(const Columns& scores, const std::vector<double>& along);
Columns groupless(Groupless kind, const Columns& like, const Heap& heap, Stream& stream);

// The rows of a bent table along the direction its band is bent along.
std::vector<double> along_chord(const Columns& drawn, const Heap& heap);

}  // namespace fjordline

#endif
