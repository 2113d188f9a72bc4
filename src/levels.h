// Categories as codes: which level each row has in each of them.
#ifndef FJORDLINE_LEVELS_H
#define FJORDLINE_LEVELS_H

#include <cstddef>
#include <vector>

namespace fjordline {

struct Levels {            // rows x categories, column after column; -1 for a level that is not known
  const int* code = nullptr;
  std::size_t rows = 0;
  std::size_t cols = 0;
  const int* column(std::size_t col) const { return code + col * rows; }
  int at(std::size_t row, std::size_t col) const { return code[col * rows + row]; }
};

// The levels of all categories in one list: where those of each begin; the last entry is how many there are.
struct LevelPlaces {
  std::vector<std::size_t> begin{0};
  void add(std::size_t levels) { begin.push_back(begin.back() + levels); }
  std::size_t all() const { return begin.back(); }
  std::size_t categories() const { return begin.size() - 1; }
};

// What a round looks at: the combination of levels a row has where many rows share one, so that a row is looked up and
// counted once, else its levels one by one.
class LevelCells {
 public:
  LevelCells(const Levels& levels, const LevelPlaces& places);
  const Levels& codes() const { return codes_; }
  const LevelPlaces& places() const { return places_; }
  // From logs of the levels' chances to those of the cells, and from sums over cells to sums over levels.
  void add_up(const double* log_chance, double* out) const;
  void count(const double* cells, double* levels) const;

 private:
  LevelPlaces levels_, places_;
  std::vector<int> combination_;  // combinations x categories; empty where levels are looked at one by one
  std::vector<int> of_row_;
  Levels codes_;
};

}  // namespace fjordline

#endif
