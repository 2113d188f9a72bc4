// Rows halved again and again across the widest column of their box (Bentley 1975), kept in the tree's order, those of
// a leaf by their number. Equal rows share a leaf. Columns up to which it pays: about a dozen.
#ifndef FJORDLINE_BOX_TREE_H
#define FJORDLINE_BOX_TREE_H

#include <vector>

#include "table.h"

namespace fjordline {

class BoxTree {
 public:
  struct Node {
    std::size_t from, to;     // places of its rows
    int left = -1, right = -1;
    bool leaf() const { return left < 0; }
    std::size_t rows() const { return to - from; }
  };

  explicit BoxTree(const TableView& x);

  const Node& node(int at) const { return nodes_[at]; }
  std::size_t nodes() const { return nodes_.size(); }
  std::size_t rows() const { return row_.size(); }
  const double* point(std::size_t place) const { return points_.data() + place * cols_; }
  int row(std::size_t place) const { return row_[place]; }  // number in the table
  // Squared distances, added up in one order, so that a box is never nearer than any of its rows.
  double apart(const double* a, const double* b) const;
  double least(int at, const double* point) const;
  double most(int at, const double* point) const;
  double least(int a, int b) const;
  double most(int a, int b) const;

 private:
  int build(const TableView& x, std::size_t from, std::size_t to);
  const double* low(int at) const { return boxes_.data() + 2 * at * cols_; }
  const double* high(int at) const { return low(at) + cols_; }

  std::size_t cols_;
  std::vector<int> row_;
  std::vector<double> points_, boxes_;
  std::vector<Node> nodes_;
};

}  // namespace fjordline

#endif
