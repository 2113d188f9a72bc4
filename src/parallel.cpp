#include "parallel.h"

#include <exception>

#ifdef _OPENMP
#include <omp.h>
#endif
#if defined(_OPENMP) && !defined(_WIN32)
#include <pthread.h>
#endif

namespace fjordline {
namespace {

#if defined(_OPENMP) && !defined(_WIN32)
bool forked = false;
const int watching_forks = pthread_atfork(nullptr, nullptr, [] { forked = true; });
#else
constexpr bool forked = false;
#endif

}  // namespace

std::size_t threads_available() {
#ifdef _OPENMP
  const int most = omp_get_max_threads() < omp_get_num_procs() ? omp_get_max_threads() : omp_get_num_procs();
  return most > 1 ? static_cast<std::size_t>(most) : 1;
#else
  return 1;
#endif
}

void by_threads(std::size_t tasks, std::size_t threads, const std::function<void(std::size_t)>& work) {
  if (forked) {
    for (std::size_t t = 0; t < tasks; ++t) work(t);
    return;
  }
#ifdef _OPENMP
  std::exception_ptr thrown;
  const int team = static_cast<int>(threads < tasks ? threads : tasks);
#pragma omp parallel for num_threads(team) schedule(dynamic, 1)
  for (long long t = 0; t < static_cast<long long>(tasks); ++t) {
    try {
      work(static_cast<std::size_t>(t));
    } catch (...) {
#pragma omp critical(fjordline_thrown)
      thrown = std::current_exception();
    }
  }
  if (thrown) std::rethrow_exception(thrown);
#else
  for (std::size_t t = 0; t < tasks; ++t) work(t);
#endif
}

}  // namespace fjordline
