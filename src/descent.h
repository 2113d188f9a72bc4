// From given centres down to a fixed point: Lloyd's rounds (1982), then transfers of single rows (Hartigan & Wong
// 1979), until neither changes anything.
//
// Rounds are exact, whichever way they are computed. Where it pays, each row keeps an upper bound of the distance to
// its own centre and a lower bound of the distance to all others (Hamerly 2010), moved along with the centres by the
// triangle inequality; only rows whose bounds meet are looked at again, and those only against centres near enough to
// matter (Elkan 2003). They are gathered into dense tiles first.
#ifndef FJORDLINE_DESCENT_H
#define FJORDLINE_DESCENT_H

#include <memory>
#include <vector>

#include "parallel.h"
#include "rows.h"

namespace fjordline {

enum class Rounds { automatic, plain, bounded };

struct DescentSettings {
  std::size_t max_rounds = 200;
  std::size_t threads = 1;
  Rounds rounds = Rounds::automatic;
};

class Descent {
 public:
  Descent(const Rows& rows, const DescentSettings& settings, Watch& watch, RowTable centres);
  ~Descent();

  bool go();       // false when the user stopped it
  bool begin(std::size_t rounds);   // so many of Lloyd's rounds only, unless nothing moves any more
  double about_objective() const;   // from the sums: enough to tell a gain from rounding, and one start from another
  bool measure();  // the scatter to the last digit: go() leaves it as the last recount found it

  const std::vector<int>& group() const { return group_; }         // 0-based
  const RowTable& centres() const { return centres_; }             // in the units of Rows
  const std::vector<double>& scatter() const { return scatter_; }  // by group, squared units of Rows
  double objective() const;  // their sum; on the sphere half of it, which is the sum of 1 - cosine
  std::size_t rounds() const { return rounds_; }
  std::size_t transferred() const { return transferred_; }
  std::size_t refilled() const { return refilled_; }
  bool converged() const { return converged_; }

 private:
  struct Part;     // what one stretch of rows contributes
  struct Scratch;  // room to work in
  struct Steps;    // how the bounds of rows move
  struct Rivalry;  // when another centre is near enough to matter
  enum class Task { lloyd, screen };

  bool lloyd(std::size_t most_rounds);
  bool transfer();
  bool try_transfers(std::size_t& moved);

  void look_at_centres();
  bool scan_all(Task task, bool set_bounds);
  Rivalry rivalry_of(Task task) const;
  void lloyd_stretch(std::size_t s, Part& part, Scratch& scratch);
  void screen_stretch(std::size_t s, const Rivalry& rivalry, Part& part, Scratch& scratch);
  void bound_stretch(std::size_t s, Part& part, Scratch& scratch);
  void score_two(std::size_t from, Scratch& scratch);
  unsigned elsewhere(std::size_t from, const Scratch& scratch) const;
  bool survey(Task task);
  bool by_row(Task task) const { return task == Task::screen && rows_.weighted(); }
  Scratch& room(std::unique_ptr<Scratch>& own);
  Steps steps(Task task) const;
  void survey_stretch(Task task, std::size_t s, const Steps& steps, Scratch& scratch);
  void survey_group(Task task, int own, const Steps& steps, std::size_t begin, std::size_t end, Part& part,
                    Scratch& scratch);
  static bool safe(float own, float lower, float gap, float allowed, float slack);
  double allowance(Task task, int own, double weight) const;
  void place(std::size_t from, const double* tile, Part& part, const Scratch& scratch);
  bool settle(std::size_t i, int to, Part& part, Scratch& scratch);

  void add_up();
  bool recount();
  void recount_tiles(std::size_t s, Part& part);
  void means();
  void note_moves(const RowTable& before);
  bool refill();
  void forget(std::size_t i);
  void add_up_scatter();

  void find_least_pull();
  bool improves(std::size_t i, int& to, double least, double* one);
  void shift(std::size_t i, int to, double* one);

  std::size_t first(std::size_t s) const { return s * stretch_; }
  std::size_t last(std::size_t s) const { return first(s) + stretch_ < n_ ? first(s) + stretch_ : n_; }

  const Rows& rows_;
  const DescentSettings settings_;
  Watch& watch_;
  const TileKernels& kernels_;
  std::size_t n_, cols_, k_;
  std::size_t stretch_;            // rows worked on at a time; what they contribute is added up in order
  RowTable centres_;
  RowTable sums_;
  std::vector<double> mass_;       // weight of each group
  std::vector<std::size_t> held_;  // rows of positive weight in each group
  std::vector<double> pull_;       // the weight; on the sphere the length of the sum
  std::vector<int> group_;
  std::vector<double> scatter_;
  std::vector<Part> parts_;
  std::unique_ptr<Scratch> scratch_;
  std::size_t changed_, looked_at_;  // rows that moved, and that had to be looked at, in the last round

  bool exact_ = false;             // centres so close that products would lose the difference
  bool bounds_allowed_ = false;
  bool bounds_ready_ = false;
  std::vector<float> upper_, lower_;
  std::vector<double> moved_;      // how far each centre went since the bounds were last moved
  std::vector<double> gaps_;       // distances between centres, where bounds are used
  std::vector<double> half_gap_;   // half the distance to the nearest other centre
  CentreBlocks blocks_;

  int least_pull_ = -1;
  double least_pull_value_ = 0.0, next_pull_value_ = 0.0;

  std::size_t rounds_ = 0, transferred_ = 0, refilled_ = 0;
  bool settled_ = false, converged_ = false;
  bool fresh_ = false;             // summed afresh since the last row moved
};

}  // namespace fjordline

#endif
