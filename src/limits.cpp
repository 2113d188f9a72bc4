#include "limits.h"

#include <chrono>

#ifdef __linux__
#include <sys/resource.h>
#include <unistd.h>

#include <cstdio>
#endif

namespace fjordline {
namespace {

using Clock = std::chrono::steady_clock;
bool ends = false;
Clock::time_point deadline;

}  // namespace

void set_deadline(double seconds) {
  ends = seconds < 1e9;  // a clock cannot count much farther
  if (!ends) return;
  deadline = Clock::now() + std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(seconds));
}

bool past_deadline() { return ends && Clock::now() >= deadline; }

#ifdef __linux__
namespace {

// Bytes of address space in use; 0 where that cannot be read.
double taken() {
  std::FILE* file = std::fopen("/proc/self/statm", "r");
  if (!file) return 0.0;
  unsigned long pages = 0;
  const int read = std::fscanf(file, "%lu", &pages);
  std::fclose(file);
  return read == 1 ? static_cast<double>(pages) * static_cast<double>(sysconf(_SC_PAGESIZE)) : 0.0;
}

}  // namespace

bool limit_memory(double bytes) {
  static bool limited = false;
  static rlim_t before;
  rlimit limit;
  if (getrlimit(RLIMIT_AS, &limit) != 0) return false;
  if (bytes < 0.0) {
    if (!limited) return true;
    limit.rlim_cur = before;
    limited = setrlimit(RLIMIT_AS, &limit) != 0;
    return !limited;
  }
  const double now = taken();
  if (now <= 0.0) return false;
  if (!limited) before = limit.rlim_cur;
  const rlim_t wanted = static_cast<rlim_t>(now + bytes);
  limit.rlim_cur = before == RLIM_INFINITY || wanted < before ? wanted : before;
  limited = setrlimit(RLIMIT_AS, &limit) == 0 || limited;
  return limited;
}
#else
bool limit_memory(double) { return false; }
#endif

}  // namespace fjordline
