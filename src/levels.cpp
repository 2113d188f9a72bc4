#include "levels.h"

#include <algorithm>
#include <map>

namespace fjordline {
namespace {

constexpr std::size_t kMostCombinations = 4096;
constexpr std::size_t kRowsEach = 4;  // rows a combination, in the mean, for them to pay

}  // namespace

LevelCells::LevelCells(const Levels& levels, const LevelPlaces& places) : levels_(places), places_(places), codes_(levels) {
  const std::size_t most = std::min(kMostCombinations, levels.rows / kRowsEach);
  if (levels.cols < 2) return;
  std::map<std::vector<int>, int> number;
  std::vector<int> row(levels.cols);
  of_row_.reserve(levels.rows);
  for (std::size_t i = 0; i < levels.rows; ++i) {
    for (std::size_t c = 0; c < levels.cols; ++c) row[c] = levels.at(i, c);
    const auto found = number.emplace(row, static_cast<int>(number.size()));
    if (found.second) combination_.insert(combination_.end(), row.begin(), row.end());
    of_row_.push_back(found.first->second);
    if (number.size() > most) {
      combination_.clear();
      of_row_.clear();
      return;
    }
  }
  places_ = LevelPlaces();
  places_.add(number.size());
  codes_ = {of_row_.data(), levels.rows, 1};
}

void LevelCells::add_up(const double* log_chance, double* out) const {
  if (combination_.empty()) {
    std::copy(log_chance, log_chance + levels_.all(), out);
    return;
  }
  const std::size_t categories = levels_.categories();
  for (std::size_t p = 0; p < places_.all(); ++p) {
    out[p] = 0.0;
    for (std::size_t c = 0; c < categories; ++c) {
      const int code = combination_[p * categories + c];
      if (code >= 0) out[p] += log_chance[levels_.begin[c] + code];
    }
  }
}

void LevelCells::count(const double* cells, double* levels) const {
  if (combination_.empty()) {
    std::copy(cells, cells + levels_.all(), levels);
    return;
  }
  std::fill(levels, levels + levels_.all(), 0.0);
  const std::size_t categories = levels_.categories();
  for (std::size_t p = 0; p < places_.all(); ++p)
    for (std::size_t c = 0; c < categories; ++c) {
      const int code = combination_[p * categories + c];
      if (code >= 0) levels[levels_.begin[c] + code] += cells[p];
    }
}

}  // namespace fjordline
