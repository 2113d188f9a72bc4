// The innermost loops of mixtures: a block of rows, column after column, against one component at a time. Built once
// for each instruction set and chosen when the program runs, as in tiles.h.
#ifndef FJORDLINE_BLOCKS_H
#define FJORDLINE_BLOCKS_H

#include <cstddef>
#include <vector>

#include "rows.h"
#include "table.h"

namespace fjordline {

constexpr std::size_t kBlockRows = 256;

// The rows of a table in blocks: column after column within a block. The last block is filled up to a multiple of
// sixteen rows with copies of the last row.
class BlockTable {
 public:
  BlockTable(const Rows& rows, std::size_t threads);

  std::size_t rows() const { return rows_; }
  std::size_t cols() const { return cols_; }
  std::size_t blocks() const { return (rows_ + kBlockRows - 1) / kBlockRows; }
  std::size_t first(std::size_t block) const { return block * kBlockRows; }
  std::size_t rows_in(std::size_t block) const;                        // rows of the table
  std::size_t padded(std::size_t block) const;                         // and with the copies
  const double* column(std::size_t block, std::size_t col) const {
    return values_.data() + block * kBlockRows * cols_ + col * kBlockRows;
  }
  double at(std::size_t row, std::size_t col) const { return column(row / kBlockRows, col)[row % kBlockRows]; }

 private:
  std::size_t rows_, cols_;
  Lined values_;
};

// `rows` is a multiple of sixteen; a column of a block is kBlockRows apart from the next.
struct BlockKernels {
  const char* instructions;
  // Squared length of every row's gap to the centre under a lower triangle, packed by pack_triangle().
  void (*lengths)(const double* values, const double* centre, const double* triangle, std::size_t rows,
                  std::size_t cols, double* out);
  // The same where columns are apart: sum of gap^2 times the column's factor.
  void (*weighted)(const double* values, const double* centre, const double* factor, std::size_t rows,
                   std::size_t cols, double* out);
  // Log densities, a component kBlockRows apart from the next, become memberships; `log_sum` is that of their sum.
  void (*memberships)(double* density, std::size_t components, std::size_t rows, double* log_sum);
  // Log densities: constant - distance / 2, and for heavy tails constant - power * log(1 + distance / freedom).
  void (*normal)(const double* distance, double constant, std::size_t rows, double* out);
  void (*heavy)(const double* distance, double constant, double power, double freedom, std::size_t rows, double* out);
  // weight = member * u with the pull u = top / (freedom + distance); gives the sum of member * (log u - u).
  double (*pull)(const double* distance, const double* member, double top, double freedom, std::size_t rows,
                 double* weight);
  double (*total)(const double* values, std::size_t rows);
  // weight = e^-distance; gives their sum and adds the columns' sums under these weights to `sums`.
  double (*bumps)(const double* distance, const double* values, std::size_t rows, std::size_t cols, double* weight,
                  double* sums);
  // gaps = values - centre, pulled = gaps * weight; the sums of the latter are added to `totals`.
  void (*gaps)(const double* values, const double* centre, const double* weight, std::size_t rows, std::size_t cols,
               double* gaps, double* pulled, double* totals);
  // Adds to `sums` (cols x cols, lower triangle) the products of two columns, summed over the rows.
  void (*products)(const double* left, const double* right, std::size_t rows, std::size_t cols, double* sums);
  // Adds to `sums` the products of each column of one side with the same of the other.
  void (*squares)(const double* left, const double* right, std::size_t rows, std::size_t cols, double* sums);
};

const BlockKernels& block_kernels();                   // the best this processor has
std::vector<const BlockKernels*> all_block_kernels();  // every one it can run, the portable one first

// A lower triangle (row-major cols x cols) in bands of four rows, the last of what is left: column after column.
void pack_triangle(const double* triangle, std::size_t cols, Lined& out);

}  // namespace fjordline

#endif
