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

}  // namespace fjordline

#endif
