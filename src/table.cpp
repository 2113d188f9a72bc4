#include "table.h"

#ifdef __linux__
#include <sys/mman.h>
#endif

namespace fjordline {
namespace {

constexpr std::size_t kLargePage = std::size_t{2} << 20;

std::align_val_t alignment(std::size_t bytes) { return std::align_val_t{bytes < 4 * kLargePage ? 64 : kLargePage}; }

}  // namespace

void* lined_memory(std::size_t bytes) {
  void* at = ::operator new(bytes, alignment(bytes));
#ifdef __linux__
  if (bytes >= 4 * kLargePage) madvise(at, bytes, MADV_HUGEPAGE);
#endif
  return at;
}

void free_lined(void* at, std::size_t bytes) { ::operator delete(at, alignment(bytes)); }

}  // namespace fjordline
