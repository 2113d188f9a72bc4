// Included by tiles.cpp once for each instruction set, with LANES (doubles side by side), SPAN (how many such vectors
// of rows at a time), BATCH (centres at a time), TARGET, GATHER (picks from a table of floats), BITS (a bit a mark),
// EVERY (all marks set) and ROOT defined. No include guard for that reason.

typedef double Lanes __attribute__((vector_size(LANES * 8)));
typedef long long Places __attribute__((vector_size(LANES * 8)));
typedef double Loose __attribute__((vector_size(LANES * 8), aligned(8)));
typedef long long LoosePlaces __attribute__((vector_size(LANES * 8), aligned(8)));
typedef int Ints __attribute__((vector_size(LANES * 4)));
typedef int LooseInts __attribute__((vector_size(LANES * 4), aligned(4)));
// Single precision, twice as many side by side.
typedef float Floats __attribute__((vector_size(LANES * 8)));
typedef float LooseFloats __attribute__((vector_size(LANES * 8), aligned(4)));
typedef int Marks __attribute__((vector_size(LANES * 8)));
typedef int LooseMarks __attribute__((vector_size(LANES * 8), aligned(4)));

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
        which[v] = nearer ? number[b] - Places{} : which[v];                                    \
      }                                                                                         \
    }                                                                                           \
  }

template <Score score>
TARGET static inline void scan(const double* tile, std::size_t cols, const CentreBlocks& centres, double* best_out,
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
      const long long* number = centres.number.data() + at;
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
      *reinterpret_cast<LooseInts*>(which_out + first + v * LANES) = __builtin_convertvector(which[v], Ints);
    }
  }
}

#undef FJORDLINE_BATCH

TARGET static void nearest(const double* tile, std::size_t cols, const CentreBlocks& centres, double* best, int* which) {
  scan<Score::half>(tile, cols, centres, best, nullptr, which);
}

// No wider than `scan` writes: what was just written is at hand only in pieces of that size.
TARGET static inline unsigned differ(const int* which, const int* group) {
  unsigned out = 0;
  FJORDLINE_UNROLL for (std::size_t at = 0; at < kTile; at += LANES) {
    const Ints other = *reinterpret_cast<const LooseInts*>(which + at) != *reinterpret_cast<const LooseInts*>(group + at);
    out |= BITS(__builtin_convertvector(other, Places)) << at;
  }
  return out;
}

TARGET static std::size_t unchanged(const double* tiles, std::size_t count, std::size_t cols,
                                    const CentreBlocks& centres, const int* group, int* which) {
  alignas(64) double best[kTile];
  for (std::size_t t = 0; t < count; ++t, group += kTile) {
    scan<Score::half>(tiles + t * kTile * cols, cols, centres, best, nullptr, which);
    if (differ(which, group) != 0) return t;
  }
  return count;
}

// Every row against every packed centre: squared distances, or products.
template <bool DISTANCES>
TARGET static void against_all(const double* tile, std::size_t cols, const CentreBlocks& centres, double* out) {
  for (std::size_t at = 0; at < centres.count; at += 4) {
    const double* block = centres.values.data() + at / kBlock * kBlock * cols + at % kBlock;
    for (std::size_t first = 0; first < kTile; first += SPAN * LANES) {
      Lanes sum[4][SPAN] = {};
      const double* x = tile + first;
      const double* c = block;
      for (std::size_t j = 0; j < cols; ++j, x += kTile, c += kBlock) {
        FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v) {
          const Lanes row = *reinterpret_cast<const Loose*>(x + v * LANES);
          FJORDLINE_UNROLL for (int b = 0; b < 4; ++b) {
            const Lanes gap = row - c[b];
            sum[b][v] += DISTANCES ? gap * gap : row * c[b];
          }
        }
      }
      for (int b = 0; b < 4; ++b)
        for (int v = 0; v < SPAN; ++v)
          *reinterpret_cast<Loose*>(out + (at + b) * kTile + first + v * LANES) = sum[b][v];
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

TARGET static std::size_t beyond(const float* tiles, std::size_t count, std::size_t cols, const float* centre,
                                 const float* reach) {
  constexpr std::size_t wide = 2 * LANES, vectors = kTile / wide;
  for (std::size_t t = 0; t < count; ++t, reach += kTile) {
    Floats even[vectors] = {}, odd[vectors] = {};
    std::size_t j = 0;
    for (; j + 1 < cols; j += 2, tiles += 2 * kTile) {
      FJORDLINE_UNROLL for (std::size_t v = 0; v < vectors; ++v) {
        const Floats gap = *reinterpret_cast<const LooseFloats*>(tiles + v * wide) - centre[j];
        const Floats next = *reinterpret_cast<const LooseFloats*>(tiles + kTile + v * wide) - centre[j + 1];
        even[v] += gap * gap;
        odd[v] += next * next;
      }
    }
    if (j < cols) {
      FJORDLINE_UNROLL for (std::size_t v = 0; v < vectors; ++v) {
        const Floats gap = *reinterpret_cast<const LooseFloats*>(tiles + v * wide) - centre[j];
        even[v] += gap * gap;
      }
      tiles += kTile;
    }
    Marks far = Marks{} == 0;
    FJORDLINE_UNROLL for (std::size_t v = 0; v < vectors; ++v)
      far &= even[v] + odd[v] > *reinterpret_cast<const LooseFloats*>(reach + v * wide);
    if (!EVERY(far)) return t;
  }
  return count;
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

TARGET static unsigned rivals(const double* best, const double* second, const double* length, double slack,
                              double allowed) {
  unsigned out = 0;
  FJORDLINE_UNROLL for (std::size_t at = 0; at < kTile; at += LANES) {
    const Lanes own = *reinterpret_cast<const Loose*>(length + at);
    const Lanes one = own + 2.0 * *reinterpret_cast<const Loose*>(best + at);
    const Lanes other = own + 2.0 * *reinterpret_cast<const Loose*>(second + at);
    const Places far = other - slack > (one + slack) * allowed;
    out |= (BITS(far) ^ ((1u << LANES) - 1u)) << at;
  }
  return out;
}

// The lanes are added up in the same order whatever their number.
TARGET static double lower(const double* tile, std::size_t cols, const double* centre, double* nearest) {
  alignas(64) double out[kTile];
  distance_to(tile, cols, centre, out);
  double sum[8] = {};
  for (std::size_t at = 0; at < kTile; at += LANES) {
    const Lanes a = *reinterpret_cast<const Loose*>(nearest + at);
    const Lanes b = *reinterpret_cast<const Loose*>(out + at);
    const Lanes least = b < a ? b : a;
    *reinterpret_cast<Loose*>(nearest + at) = least;
    *reinterpret_cast<Loose*>(sum + at % 8) += least;
  }
  return ((sum[0] + sum[4]) + (sum[1] + sum[5])) + ((sum[2] + sum[6]) + (sum[3] + sum[7]));
}

TARGET static void add_smaller(const double* nearest, const double* other, double* sums) {
  for (std::size_t at = 0; at < kTile; at += LANES) {
    const Lanes a = *reinterpret_cast<const Loose*>(nearest + at);
    const Lanes b = *reinterpret_cast<const Loose*>(other + at);
    *reinterpret_cast<Loose*>(sums + at) += b < a ? b : a;
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

TARGET static inline Marks step_bounds(const BoundMoves& moves, Marks own, Floats& high, Floats& low) {
  const Floats lost = own == moves.farthest ? moves.next - Floats{} : moves.down - Floats{};
  high = (high + GATHER(moves.up, own)) * kSafe;
  low = (low - lost) * (2.0f - kSafe);
  low = low > Floats{} ? low : Floats{};
  const Floats beyond = GATHER(moves.gap, own) - high;
  const Floats other = low > beyond ? low : beyond;
  Floats meets = high * high * kSafe;
  if (moves.allowed) meets *= GATHER(moves.allowed, own);
  return (meets + moves.slack < other * other) & (other > Floats{});
}

TARGET static std::size_t move_bounds(const BoundMoves& moves, const int* group, std::size_t count, float* upper,
                                      float* lower, int* meet) {
  constexpr std::size_t wide = 2 * LANES;
  std::size_t met = 0;
  for (std::size_t i = 0; i < count; i += wide) {
    const std::size_t full = count - i < wide ? count - i : wide;
    Marks own = Marks{};
    Floats high = Floats{}, low = Floats{};
    if (full == wide) {
      own = *reinterpret_cast<const LooseMarks*>(group + i);
      high = *reinterpret_cast<const LooseFloats*>(upper + i);
      low = *reinterpret_cast<const LooseFloats*>(lower + i);
    } else {
      for (std::size_t l = 0; l < full; ++l) {
        own[l] = group[i + l];
        high[l] = upper[i + l];
        low[l] = lower[i + l];
      }
    }
    const Marks stays = step_bounds(moves, own, high, low);
    if (full == wide) {
      *reinterpret_cast<LooseFloats*>(upper + i) = high;
      *reinterpret_cast<LooseFloats*>(lower + i) = low;
      if (EVERY(stays)) continue;
    } else {
      for (std::size_t l = 0; l < full; ++l) {
        upper[i + l] = high[l];
        lower[i + l] = low[l];
      }
    }
    for (std::size_t l = 0; l < full; ++l) {
      meet[met] = static_cast<int>(i + l);
      met += stays[l] == 0;
    }
  }
  return met;
}

TARGET static double add_row(const double* row, const double* centre, std::size_t cols, double weight, double* sum) {
  Lanes distance = Lanes{};
  std::size_t j = 0;
  for (; j + LANES <= cols; j += LANES) {
    const Lanes x = *reinterpret_cast<const Loose*>(row + j);
    const Lanes gap = x - *reinterpret_cast<const Loose*>(centre + j);
    distance += gap * gap;
    *reinterpret_cast<Loose*>(sum + j) += weight * x;
  }
  double rest = 0.0;
  for (; j < cols; ++j) {
    const double gap = row[j] - centre[j];
    rest += gap * gap;
    sum[j] += weight * row[j];
  }
  for (int l = 0; l < LANES; ++l) rest += distance[l];
  return rest;
}

TARGET static void look_along(const double* values, std::size_t count, double share, double* sum, double* least,
                              double* most) {
  Lanes low = values[0] - Lanes{}, high = low, total = Lanes{};
  const double first = share * values[0];
  std::size_t i = 0;
  for (; i + LANES <= count; i += LANES) {
    const Lanes x = *reinterpret_cast<const Loose*>(values + i);
    low = x < low ? x : low;
    high = x > high ? x : high;
    total += x * share - first;
  }
  *sum = 0.0;
  *least = low[0];
  *most = high[0];
  for (; i < count; ++i) {
    *least = values[i] < *least ? values[i] : *least;
    *most = values[i] > *most ? values[i] : *most;
    *sum += values[i] * share - first;
  }
  for (int l = 0; l < LANES; ++l) {
    *least = low[l] < *least ? low[l] : *least;
    *most = high[l] > *most ? high[l] : *most;
    *sum += total[l];
  }
}

enum class Gap { squared, sum, largest };

template <Gap gap>
TARGET static void pairs(const double* first, const double* second, std::size_t cols, double* out) {
  for (std::size_t at = 0; at < kTile; at += BATCH) {
    for (std::size_t lane = 0; lane < kTile; lane += SPAN * LANES) {
      Lanes sum[BATCH][SPAN] = {};
      const double* x = first + lane;
      const double* y = second + at;
      for (std::size_t j = 0; j < cols; ++j, x += kTile, y += kTile) {
        Lanes row[SPAN];
        FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v) row[v] = *reinterpret_cast<const Loose*>(x + v * LANES);
        FJORDLINE_UNROLL for (int b = 0; b < BATCH; ++b) {
          FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v) {
            const Lanes apart = row[v] - y[b];
            const Lanes size = apart < 0.0 ? -apart : apart;
            if (gap == Gap::squared) sum[b][v] += apart * apart;
            else if (gap == Gap::sum) sum[b][v] += size;
            else sum[b][v] = size > sum[b][v] ? size : sum[b][v];
          }
        }
      }
      FJORDLINE_UNROLL for (int b = 0; b < BATCH; ++b)
        FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v)
          *reinterpret_cast<Loose*>(out + (at + b) * kTile + lane + v * LANES) = sum[b][v];
    }
  }
}

// Division takes longer than all the rest, so eight are ruled out at once by a product, with room for its rounding.
TARGET static void least(const double* block, const double* add, const double* other_add, const long long* own,
                         long long number, double* best, long long* which) {
  for (std::size_t first = 0; first < kTile; first += LANES) {
    Lanes low = *reinterpret_cast<const Loose*>(best + first);
    Places at = *reinterpret_cast<const LoosePlaces*>(which + first);
    const Places self = *reinterpret_cast<const LoosePlaces*>(own + first);
    const Lanes mine = *reinterpret_cast<const Loose*>(add + first);
    for (std::size_t from = 0; from < kTile; from += 8) {
      const Lanes limit = low * (1.0 + 1e-14);
      Places may = Places{};
      FJORDLINE_UNROLL for (std::size_t l = from; l < from + 8; ++l)
        may |= *reinterpret_cast<const Loose*>(block + l * kTile + first) < limit * (mine + other_add[l]);
      long long any = 0;
      FJORDLINE_UNROLL for (int v = 0; v < LANES; ++v) any |= may[v];
      if (any == 0) continue;
      for (std::size_t l = from; l < from + 8; ++l) {
        const Lanes value = *reinterpret_cast<const Loose*>(block + l * kTile + first) / (mine + other_add[l]);
        const Places place = Places{} + (number + static_cast<long long>(l));
        const Places nearer = (value < low) & (place != self);
        low = nearer ? value : low;
        at = nearer ? place : at;
      }
    }
    *reinterpret_cast<Loose*>(best + first) = low;
    *reinterpret_cast<LoosePlaces*>(which + first) = at;
  }
}

TARGET static void roots(double* values) {
  for (std::size_t at = 0; at < kTile * kTile; at += LANES) {
    Loose& here = *reinterpret_cast<Loose*>(values + at);
    here = ROOT(static_cast<Lanes>(here));
  }
}

TARGET static void spread(const double* block, const int* slots, std::size_t lists, double* sums) {
  constexpr std::size_t vectors = kTile / LANES;
  for (std::size_t l = 0; l < kTile; ++l, slots += lists) {
    Lanes value[vectors];
    FJORDLINE_UNROLL for (std::size_t v = 0; v < vectors; ++v)
      value[v] = *reinterpret_cast<const Loose*>(block + l * kTile + v * LANES);
    for (std::size_t m = 0; m < lists; ++m) {
      double* to = sums + static_cast<std::size_t>(slots[m]) * kTile;
      FJORDLINE_UNROLL for (std::size_t v = 0; v < vectors; ++v)
        *reinterpret_cast<Loose*>(to + v * LANES) += value[v];
    }
  }
}

static const TileKernels table = {
    INSTRUCTIONS, nearest, scan<Score::half_two>, unchanged, scan<Score::exact_two>, against_all<true>, against_all<false>,
    distance_to, beyond, lengths, rivals, differ, lower, add_smaller, move_bounds, add_row, look_along,
    {pairs<Gap::squared>, pairs<Gap::sum>, pairs<Gap::largest>}, least, roots, spread, turn};
