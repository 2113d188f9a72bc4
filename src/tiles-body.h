// Included by tiles.cpp once for each instruction set, with LANES (doubles side by side), SPAN (how many such vectors of
// rows at a time), BATCH (centres at a time) and TARGET defined. No include guard for that reason.

typedef double Lanes __attribute__((vector_size(LANES * 8)));
typedef long long Places __attribute__((vector_size(LANES * 8)));
typedef double Loose __attribute__((vector_size(LANES * 8), aligned(8)));

// How a tile is scored: `half` products, `exact` squared differences; `two` keeps the second-best score as well.
enum class Score { half, half_two, exact_two };

// One batch of centres against one span of rows. Subtracting zero from a number spreads it over the lanes.
#define FJORDLINE_BATCH(SIZE)                                                                   \
  {                                                                                             \
    Lanes sum[SIZE][SPAN];                                                                      \
    FJORDLINE_UNROLL for (int b = 0; b < SIZE; ++b)                                             \
      FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v) sum[b][v] = start[b] - Lanes{};           \
    const double* x = tile + first;                                                             \
    const double* c = block;                                                                    \
    for (std::size_t j = 0; j < cols; ++j, x += kTile, c += kBlock) {                           \
      Lanes row[SPAN];                                                                          \
      FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v)                                           \
        row[v] = *reinterpret_cast<const Loose*>(x + v * LANES);                                \
      FJORDLINE_UNROLL for (int b = 0; b < SIZE; ++b) {                                         \
        const Lanes one = c[b] - Lanes{};                                                       \
        FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v) {                                       \
          if (score == Score::exact_two) {                                                      \
            const Lanes gap = row[v] - one;                                                     \
            sum[b][v] += gap * gap;                                                             \
          } else {                                                                              \
            sum[b][v] -= row[v] * one;                                                          \
          }                                                                                     \
        }                                                                                       \
      }                                                                                         \
    }                                                                                           \
    FJORDLINE_UNROLL for (int b = 0; b < SIZE; ++b) {                                           \
      FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v) {                                         \
        const Places nearer = sum[b][v] < best[v];                                              \
        if (score != Score::half) {                                                             \
          const Lanes other = nearer ? best[v] : sum[b][v];                                     \
          second[v] = other < second[v] ? other : second[v];                                    \
        }                                                                                       \
        best[v] = nearer ? sum[b][v] : best[v];                                                 \
        which[v] = nearer ? Places{} + static_cast<long long>(at + b) : which[v];               \
      }                                                                                         \
    }                                                                                           \
  }

template <Score score>
TARGET static void scan(const double* tile, std::size_t cols, const CentreBlocks& centres, double* best_out,
                        double* second_out, int* which_out) {
  const std::size_t count = centres.count;
  for (std::size_t first = 0; first < kTile; first += SPAN * LANES) {
    Lanes best[SPAN], second[SPAN];
    Places which[SPAN];
    for (int v = 0; v < SPAN; ++v) {
      best[v] = Lanes{} + kInfinite;
      second[v] = Lanes{} + kInfinite;
      which[v] = Places{};
    }
    std::size_t at = 0;
    while (at < count) {
      const double* block = centres.values.data() + at / kBlock * kBlock * cols + at % kBlock;
      const double* start = centres.start.data() + at;
      const std::size_t left = count - at;
      if (BATCH >= 8 && left > 4) {
        FJORDLINE_BATCH(BATCH)
        at += BATCH;
      } else if (left > 2) {
        FJORDLINE_BATCH(4)
        at += 4;
      } else {
        FJORDLINE_BATCH(2)
        at += 2;
      }
    }
    for (int v = 0; v < SPAN; ++v) {
      *reinterpret_cast<Loose*>(best_out + first + v * LANES) = best[v];
      if (score != Score::half) *reinterpret_cast<Loose*>(second_out + first + v * LANES) = second[v];
      for (int l = 0; l < LANES; ++l) which_out[first + v * LANES + l] = static_cast<int>(which[v][l]);
    }
  }
}

#undef FJORDLINE_BATCH

TARGET static void nearest(const double* tile, std::size_t cols, const CentreBlocks& centres, double* best, int* which) {
  scan<Score::half>(tile, cols, centres, best, nullptr, which);
}

TARGET static void distances(const double* tile, std::size_t cols, const CentreBlocks& centres, double* out) {
  for (std::size_t at = 0; at < centres.count; at += 4) {
    const double* block = centres.values.data() + at / kBlock * kBlock * cols + at % kBlock;
    for (std::size_t first = 0; first < kTile; first += LANES) {
      Lanes sum[4] = {};
      const double* x = tile + first;
      const double* c = block;
      for (std::size_t j = 0; j < cols; ++j, x += kTile, c += kBlock) {
        const Lanes row = *reinterpret_cast<const Loose*>(x);
        FJORDLINE_UNROLL for (int b = 0; b < 4; ++b) {
          const Lanes gap = row - c[b];
          sum[b] += gap * gap;
        }
      }
      for (int b = 0; b < 4; ++b) *reinterpret_cast<Loose*>(out + (at + b) * kTile + first) = sum[b];
    }
  }
}

TARGET static void distance_to(const double* tile, std::size_t cols, const double* centre, double* out) {
  for (std::size_t first = 0; first < kTile; first += LANES) {
    Lanes even = Lanes{}, odd = Lanes{};
    const double* x = tile + first;
    std::size_t j = 0;
    for (; j + 1 < cols; j += 2, x += 2 * kTile) {
      const Lanes gap = *reinterpret_cast<const Loose*>(x) - centre[j];
      const Lanes next = *reinterpret_cast<const Loose*>(x + kTile) - centre[j + 1];
      even += gap * gap;
      odd += next * next;
    }
    if (j < cols) {
      const Lanes gap = *reinterpret_cast<const Loose*>(x) - centre[j];
      even += gap * gap;
    }
    *reinterpret_cast<Loose*>(out + first) = even + odd;
  }
}

TARGET static void lengths(const double* tile, std::size_t cols, double* out) {
  for (std::size_t first = 0; first < kTile; first += LANES) {
    Lanes even = Lanes{}, odd = Lanes{};
    const double* x = tile + first;
    std::size_t j = 0;
    for (; j + 1 < cols; j += 2, x += 2 * kTile) {
      const Lanes one = *reinterpret_cast<const Loose*>(x);
      const Lanes next = *reinterpret_cast<const Loose*>(x + kTile);
      even += one * one;
      odd += next * next;
    }
    if (j < cols) {
      const Lanes one = *reinterpret_cast<const Loose*>(x);
      even += one * one;
    }
    *reinterpret_cast<Loose*>(out + first) = even + odd;
  }
}

// Squares of 8 x 8 are turned in registers where there are eight lanes; what is left, cell by cell.
TARGET static void turn(const double* const* rows, std::size_t cols, double* tile) {
  std::size_t j = 0;
#if LANES == 8
  for (; j + 8 <= cols; j += 8) {
    for (std::size_t first = 0; first < kTile; first += 8) {
      Lanes a[8], b[8];
      FJORDLINE_UNROLL for (int r = 0; r < 8; ++r) a[r] = *reinterpret_cast<const Loose*>(rows[first + r] + j);
      FJORDLINE_UNROLL for (int r = 0; r < 8; r += 2) {
        b[r] = __builtin_shuffle(a[r], a[r + 1], Places{0, 8, 2, 10, 4, 12, 6, 14});
        b[r + 1] = __builtin_shuffle(a[r], a[r + 1], Places{1, 9, 3, 11, 5, 13, 7, 15});
      }
      FJORDLINE_UNROLL for (int r = 0; r < 8; r += 4) {
        FJORDLINE_UNROLL for (int s = 0; s < 2; ++s) {
          a[r + s] = __builtin_shuffle(b[r + s], b[r + s + 2], Places{0, 1, 8, 9, 4, 5, 12, 13});
          a[r + s + 2] = __builtin_shuffle(b[r + s], b[r + s + 2], Places{2, 3, 10, 11, 6, 7, 14, 15});
        }
      }
      FJORDLINE_UNROLL for (int r = 0; r < 4; ++r) {
        b[r] = __builtin_shuffle(a[r], a[r + 4], Places{0, 1, 2, 3, 8, 9, 10, 11});
        b[r + 4] = __builtin_shuffle(a[r], a[r + 4], Places{4, 5, 6, 7, 12, 13, 14, 15});
      }
      FJORDLINE_UNROLL for (int r = 0; r < 8; ++r)
        *reinterpret_cast<Loose*>(tile + (j + r) * kTile + first) = b[r];
    }
  }
#endif
  for (; j < cols; ++j)
    for (std::size_t r = 0; r < kTile; ++r) tile[j * kTile + r] = rows[r][j];
}

static const TileKernels table = {
    INSTRUCTIONS, nearest, scan<Score::half_two>, scan<Score::exact_two>, distances, distance_to, lengths, turn};
