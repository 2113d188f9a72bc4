// Work shared among threads. Nothing else in the kernels knows how.
#ifndef FJORDLINE_PARALLEL_H
#define FJORDLINE_PARALLEL_H

#include <atomic>
#include <cstddef>
#include <functional>
#include <thread>

#include "table.h"

namespace fjordline {

// Threads worth starting on this machine; OMP_NUM_THREADS and the like are obeyed. One without OpenMP.
std::size_t threads_available();

void by_threads(std::size_t tasks, std::size_t threads, const std::function<void(std::size_t)>& work);

// Runs work(0) ... work(tasks - 1), in any order, on up to `threads` threads. Results must be kept by task, so that
// they are the same for any number of threads. What a task throws is thrown again here. In a forked process, where
// the threads of the parent are gone, everything runs on one.
template <typename Work>
void in_parallel(std::size_t tasks, std::size_t threads, const Work& work) {
  if (threads < 2 || tasks < 2) {
    for (std::size_t t = 0; t < tasks; ++t) work(t);
  } else {
    by_threads(tasks, threads, std::cref(work));
  }
}

// Whether the user wants to stop. Only the thread that made the watch asks; the others learn of it.
class Watch {
 public:
  explicit Watch(const Stop& stop) : stop_(stop), owner_(std::this_thread::get_id()) {}

  // Asks about once every ten million elementary steps, so that asking costs nothing.
  bool over(std::size_t steps) {
    if (std::this_thread::get_id() == owner_) {
      spent_ += steps;
      if (spent_ >= 10000000) {
        spent_ = 0;
        if (stop_()) stopped_ = true;
      }
    }
    return stopped_;
  }

  bool stopped() const { return stopped_; }

 private:
  const Stop& stop_;
  std::thread::id owner_;
  std::size_t spent_ = 0;
  std::atomic<bool> stopped_{false};
};

}  // namespace fjordline

#endif
