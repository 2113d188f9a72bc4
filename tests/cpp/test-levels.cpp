#include <testthat/vendor/catch.h>

#include <cmath>
#include <vector>

#include "helper.h"
#include "levels.h"
#include "mixture-search.h"

using namespace fjordline;

namespace {

// 400 rows in two categories of three and two levels; every tenth row has no known first level.
struct Answers {
  std::vector<int> code;
  LevelPlaces places;
  explicit Answers(std::size_t rows, std::size_t spread) {
    for (std::size_t i = 0; i < rows; ++i) code.push_back(i % 10 == 0 ? -1 : static_cast<int>((i / 3) % spread));
    for (std::size_t i = 0; i < rows; ++i) code.push_back(static_cast<int>((i * 7 / 4) % 2));
    places.add(spread);
    places.add(2);
  }
  Levels view() const { return {code.data(), code.size() / 2, 2}; }
};

}  // namespace

TEST_CASE("cells say of a row what its levels say, one by one or together") {
  for (std::size_t spread : {std::size_t{3}, std::size_t{300}}) {  // few combinations, and too many to pay
    const Answers made(400, spread);
    const LevelCells cells(made.view(), made.places);
    REQUIRE((cells.codes().cols == 1) == (spread == 3));
    std::vector<double> logs(made.places.all()), by_cell(cells.places().all());
    for (std::size_t l = 0; l < logs.size(); ++l) logs[l] = -0.1 * static_cast<double>(l + 1);
    cells.add_up(logs.data(), by_cell.data());
    std::vector<double> weight(cells.places().all(), 0.0), counted(made.places.all()), wanted(made.places.all(), 0.0);
    for (std::size_t i = 0; i < 400; ++i) {
      double one = 0.0, other = 0.0;
      for (std::size_t c = 0; c < 2; ++c) {
        const int code = made.view().at(i, c);
        if (code < 0) continue;
        one += logs[made.places.begin[c] + code];
        wanted[made.places.begin[c] + code] += 0.5 + static_cast<double>(i % 3);
      }
      for (std::size_t c = 0; c < cells.codes().cols; ++c) {
        const int code = cells.codes().at(i, c);
        if (code < 0) continue;
        other += by_cell[cells.places().begin[c] + code];
        weight[cells.places().begin[c] + code] += 0.5 + static_cast<double>(i % 3);
      }
      REQUIRE(std::fabs(one - other) < 1e-12);
    }
    cells.count(weight.data(), counted.data());
    for (std::size_t l = 0; l < counted.size(); ++l) REQUIRE(std::fabs(counted[l] - wanted[l]) < 1e-9);
  }
}

TEST_CASE("a mixture of levels alone is fitted, with no column of numbers") {
  const Answers made(400, 3);
  const std::vector<double> none;
  const Rows rows(TableView{none.data(), 400, 0}, Metric::euclidean, nullptr, 1);
  const BlockTable blocks(rows, 1);
  const MixtureRows table(blocks, made.view(), made.places);
  MixtureModel model;
  model.structure = {Form::spherical, false, false, false};
  std::vector<int> halves(400);
  for (std::size_t i = 0; i < 400; ++i) halves[i] = static_cast<int>(i % 2);
  MixtureSearch how;
  const Stop going = never;
  Watch watch(going);
  const std::vector<MixtureFound> found = search_mixtures(table, {model}, 2, {halves.data()}, how, watch);
  REQUIRE_FALSE(found[0].fit.failed);
  REQUIRE(std::isfinite(found[0].fit.log_likelihood));
  for (std::size_t j = 0; j < 2; ++j) {
    double first = 0.0;
    for (std::size_t l = 0; l < 3; ++l) first += found[0].fit.chance[j * 5 + l];
    REQUIRE(std::fabs(first - 1.0) < 1e-9);
  }
}
