#include "blocks.h"
#include "tiles.h"

#include <cmath>
#include <limits>

#if defined(__GNUC__) && !defined(__clang__)
#define FJORDLINE_UNROLL _Pragma("GCC unroll 16")
#else
#define FJORDLINE_UNROLL
#endif

// Wider instructions are built by compilers known to build them well; everything else gets the portable kernels.
#if defined(__GNUC__) && !defined(__clang__) && defined(__x86_64__) && !defined(_WIN32)
#define FJORDLINE_WIDE 1
#include <immintrin.h>
#endif

namespace fjordline {
namespace {

constexpr double kInfinite = std::numeric_limits<double>::infinity();

namespace portable {
#define LANES 2
#define SPAN 2
#define BATCH 4
#define TARGET
#define GATHER(table, at) (Floats{table[at[0]], table[at[1]], table[at[2]], table[at[3]]})
#define BITS(marks) (static_cast<unsigned>(((marks)[0] & 1) | ((marks)[1] & 2)))
#define EVERY(marks) ((marks[0] & marks[1] & marks[2] & marks[3]) != 0)
#define ROOT(lanes) (Lanes{std::sqrt((lanes)[0]), std::sqrt((lanes)[1])})
#define INSTRUCTIONS "portable"
#include "tiles-set.h"
}  // namespace portable

#ifdef FJORDLINE_WIDE
namespace four {
#define LANES 4
#define SPAN 2
#define BATCH 4
#define TARGET __attribute__((target("avx2,fma")))
#define GATHER(table, at) _mm256_i32gather_ps(table, (__m256i)at, 4)
#define BITS(marks) static_cast<unsigned>(_mm256_movemask_pd((__m256d)(marks)))
#define EVERY(marks) (_mm256_movemask_ps((__m256)marks) == 0xff)
#define ROOT(lanes) _mm256_sqrt_pd(lanes)
#define INSTRUCTIONS "avx2"
#include "tiles-set.h"
}  // namespace four

namespace eight {
// Newton's steps from a 14-bit guess of the inverse root: a third of the time of the processor's own root, within two
// units of the last digit. Zero stays zero; what is below 1e-290 is as good as that.
__attribute__((target("avx512f,avx512vl,avx512dq,fma"))) static inline __m512d root_of(__m512d x) {
  const __m512d half = _mm512_set1_pd(0.5), least = _mm512_set1_pd(1e-290);
  const __m512d safe = _mm512_maskz_max_pd(0xff, x, least);
  __m512d inverse = _mm512_maskz_rsqrt14_pd(0xff, safe);
  const __m512d halved = _mm512_mul_pd(safe, half);
  for (int step = 0; step < 2; ++step)
    inverse = _mm512_mul_pd(inverse, _mm512_fnmadd_pd(_mm512_mul_pd(halved, inverse), inverse, _mm512_set1_pd(1.5)));
  const __m512d root = _mm512_mul_pd(x, inverse);
  return _mm512_fmadd_pd(_mm512_mul_pd(_mm512_fnmadd_pd(root, root, x), inverse), half, root);
}

#define LANES 8
#define SPAN 2
#define BATCH 8
#define TARGET __attribute__((target("avx512f,avx512vl,avx512dq,fma")))
#define GATHER(table, at) _mm512_mask_i32gather_ps(__m512{}, 0xffff, (__m512i)at, table, 4)
#define BITS(marks) static_cast<unsigned>(_mm512_movepi64_mask((__m512i)(marks)))
#define EVERY(marks) (_mm512_movepi32_mask((__m512i)marks) == 0xffff)
#define ROOT(lanes) root_of(lanes)
#define INSTRUCTIONS "avx512"
#include "tiles-set.h"
}  // namespace eight
#endif

const BlockKernels* const kBlockTables[] = {
    &portable::block_table,
#ifdef FJORDLINE_WIDE
    &four::block_table, &eight::block_table,
#endif
};

}  // namespace

void CentreBlocks::pack(const RowTable& centres, const int* list, std::size_t listed, bool differences) {
  count = listed;
  const std::size_t cols = centres.cols;
  const std::size_t padded = (listed + kBlock - 1) / kBlock * kBlock;
  values.assign(padded * cols, 0.0);
  start.assign(padded, kInfinite);
  number.assign(padded, 0);
  for (std::size_t at = 0; at < listed; ++at) {
    const int g = list ? list[at] : static_cast<int>(at);
    const double* centre = centres.row(g);
    double* to = values.data() + at / kBlock * kBlock * cols + at % kBlock;
    double length = 0.0;
    for (std::size_t j = 0; j < cols; ++j) {
      to[j * kBlock] = centre[j];
      length += centre[j] * centre[j];
    }
    start[at] = differences ? 0.0 : 0.5 * length;
    number[at] = g;
  }
}

std::vector<const TileKernels*> all_tile_kernels() {
  std::vector<const TileKernels*> out{&portable::table};
#ifdef FJORDLINE_WIDE
  __builtin_cpu_init();
  if (__builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma")) out.push_back(&four::table);
  if (__builtin_cpu_supports("avx512f") && __builtin_cpu_supports("avx512vl") && __builtin_cpu_supports("avx512dq"))
    out.push_back(&eight::table);
#endif
  return out;
}

std::vector<const BlockKernels*> all_block_kernels() {
  std::vector<const BlockKernels*> out;
  const std::size_t runs = all_tile_kernels().size();
  for (const BlockKernels* each : kBlockTables)
    if (out.size() < runs) out.push_back(each);
  return out;
}

const BlockKernels& block_kernels() {
  static const BlockKernels& best = *all_block_kernels().back();
  return best;
}

const TileKernels& tile_kernels() {
  static const TileKernels& best = *all_tile_kernels().back();
  return best;
}

}  // namespace fjordline
