// Included by tiles.cpp once for each instruction set, after tiles-body.h, whose vectors it uses.

// e^x for x <= 0; zero below -40, which is nothing beside one. Reduced to |r| <= log(2) / 2, then Taylor's series to
// the thirteenth power, which is exact to the last digit there.
TARGET static inline Lanes exp_of(Lanes x) {
  constexpr double kMagic = 6755399441055744.0;  // 1.5 * 2^52: adding it rounds to a whole number in the low bits
  const Lanes least = Lanes{} - 700.0;
  const Lanes safe = x > least ? x : least;
  const Lanes turned = safe * 1.4426950408889634 + kMagic;
  const Lanes whole = turned - kMagic;
  const Lanes r = (safe - whole * 0.693147180369123816490) - whole * 1.90821492927058770002e-10;
  Lanes sum = Lanes{} + 1.0 / 6227020800.0;
  constexpr double series[] = {1.0 / 479001600.0, 1.0 / 39916800.0, 1.0 / 3628800.0, 1.0 / 362880.0, 1.0 / 40320.0,
                               1.0 / 5040.0, 1.0 / 720.0, 1.0 / 120.0, 1.0 / 24.0, 1.0 / 6.0, 0.5, 1.0, 1.0};
  FJORDLINE_UNROLL for (int t = 0; t < 13; ++t) sum = sum * r + series[t];
  const Places power = (Places)turned << 52;
  const Lanes out = (Lanes)((Places)sum + power);
  return x > -40.0 ? out : Lanes{};
}

// Of normal numbers above zero: log(m 2^e) = e log 2 + 2 artanh((m - 1) / (m + 1)) with m about one.
TARGET static inline Lanes log_of(Lanes x) {
  // The exponent is taken relative to the root of one half, so that m lies between it and the root of two.
  const Places exponent = ((Places)x - 0x3fe6a09e667f3bcdLL) >> 52;
  const Lanes m = (Lanes)((Places)x - (exponent << 52));
  const Lanes e = __builtin_convertvector(exponent, Lanes);
  const Lanes s = (m - 1.0) / (m + 1.0);
  const Lanes square = s * s;
  Lanes sum = Lanes{} + 1.0 / 23.0;
  constexpr double series[] = {1.0 / 21.0, 1.0 / 19.0, 1.0 / 17.0, 1.0 / 15.0, 1.0 / 13.0, 1.0 / 11.0,
                               1.0 / 9.0, 1.0 / 7.0, 1.0 / 5.0, 1.0 / 3.0, 1.0};
  FJORDLINE_UNROLL for (int t = 0; t < 11; ++t) sum = sum * square + series[t];
  return e * 0.6931471805599453 + 2.0 * s * sum;
}

TARGET static inline Lanes at(const double* from) { return *reinterpret_cast<const Loose*>(from); }

TARGET static inline double summed(Lanes lanes) {
  double sum = 0.0;
  for (int l = 0; l < LANES; ++l) sum += lanes[l];
  return sum;
}

// Adds the squares of the next `HEIGHT` turned columns, which end with column `reach`; gives where the next band
// begins.
template <int HEIGHT>
TARGET static inline const double* add_band(const double* value, const double* centre, const double* factor,
                                            std::size_t reach, Lanes* total) {
  Lanes sum[HEIGHT][SPAN] = {};
  for (std::size_t j = 0; j < reach; ++j, value += kBlockRows, factor += HEIGHT) {
    Lanes x[SPAN];
    FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v) x[v] = at(value + v * LANES) - centre[j];
    FJORDLINE_UNROLL for (int r = 0; r < HEIGHT; ++r)
      FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v) sum[r][v] += x[v] * factor[r];
  }
  FJORDLINE_UNROLL for (int r = 0; r < HEIGHT; ++r)
    FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v) total[v] += sum[r][v] * sum[r][v];
  return factor;
}

TARGET static void lengths_under(const double* values, const double* centre, const double* triangle, std::size_t rows,
                                 std::size_t cols, double* out) {
  const std::size_t whole = cols / 4 * 4;
  for (std::size_t i = 0; i < rows; i += SPAN * LANES) {
    Lanes total[SPAN] = {};
    const double* factor = triangle;
    for (std::size_t band = 0; band < whole; band += 4) factor = add_band<4>(values + i, centre, factor, band + 4, total);
    if (cols - whole == 1) add_band<1>(values + i, centre, factor, cols, total);
    else if (cols - whole == 2) add_band<2>(values + i, centre, factor, cols, total);
    else if (cols - whole == 3) add_band<3>(values + i, centre, factor, cols, total);
    FJORDLINE_UNROLL for (int v = 0; v < SPAN; ++v) *reinterpret_cast<Loose*>(out + i + v * LANES) = total[v];
  }
}

TARGET static void lengths_weighted(const double* values, const double* centre, const double* factor, std::size_t rows,
                                    std::size_t cols, double* out) {
  for (std::size_t i = 0; i < rows; i += LANES) {
    Lanes sum = Lanes{};
    const double* value = values + i;
    for (std::size_t j = 0; j < cols; ++j, value += kBlockRows) {
      const Lanes gap = at(value) - centre[j];
      sum += gap * gap * factor[j];
    }
    *reinterpret_cast<Loose*>(out + i) = sum;
  }
}

TARGET static void memberships_of(double* density, std::size_t components, std::size_t rows, double* log_sum) {
  for (std::size_t i = 0; i < rows; i += LANES) {
    double* here = density + i;
    Lanes most = at(here);
    for (std::size_t j = 1; j < components; ++j) {
      const Lanes x = at(here + j * kBlockRows);
      most = x > most ? x : most;
    }
    Lanes sum = Lanes{};
    for (std::size_t j = 0; j < components; ++j) {
      const Lanes e = exp_of(at(here + j * kBlockRows) - most);
      *reinterpret_cast<Loose*>(here + j * kBlockRows) = e;
      sum += e;
    }
    *reinterpret_cast<Loose*>(log_sum + i) = most + log_of(sum);
    const Lanes share = 1.0 / sum;
    for (std::size_t j = 0; j < components; ++j) *reinterpret_cast<Loose*>(here + j * kBlockRows) *= share;
  }
}

TARGET static void normal_density(const double* distance, double constant, std::size_t rows, double* out) {
  for (std::size_t i = 0; i < rows; i += LANES)
    *reinterpret_cast<Loose*>(out + i) = constant - 0.5 * at(distance + i);
}

TARGET static void heavy_density(const double* distance, double constant, double power, double freedom,
                                 std::size_t rows, double* out) {
  for (std::size_t i = 0; i < rows; i += LANES)
    *reinterpret_cast<Loose*>(out + i) = constant - power * log_of(1.0 + at(distance + i) * (1.0 / freedom));
}

TARGET static double pulls(const double* distance, const double* member, double top, double freedom, std::size_t rows,
                           double* weight) {
  Lanes sum = Lanes{};
  for (std::size_t i = 0; i < rows; i += LANES) {
    const Lanes u = top / (freedom + at(distance + i));
    const Lanes m = at(member + i);
    *reinterpret_cast<Loose*>(weight + i) = m * u;
    sum += m * (log_of(u) - u);
  }
  return summed(sum);
}

TARGET static double total_of(const double* values, std::size_t rows) {
  Lanes sum = Lanes{};
  for (std::size_t i = 0; i < rows; i += LANES) sum += at(values + i);
  return summed(sum);
}

TARGET static double bumps_of(const double* distance, const double* values, std::size_t rows, std::size_t cols,
                              double* weight, double* sums) {
  Lanes all = Lanes{};
  for (std::size_t i = 0; i < rows; i += LANES) {
    const Lanes w = exp_of(-at(distance + i));
    *reinterpret_cast<Loose*>(weight + i) = w;
    all += w;
  }
  const double total = summed(all);
  if (total == 0.0) return 0.0;
  for (std::size_t j = 0; j < cols; ++j, values += kBlockRows) {
    Lanes sum = Lanes{};
    for (std::size_t i = 0; i < rows; i += LANES) sum += at(weight + i) * at(values + i);
    sums[j] += summed(sum);
  }
  return total;
}

TARGET static void gaps_of(const double* values, const double* centre, const double* weight, std::size_t rows,
                           std::size_t cols, double* gaps, double* pulled, double* totals) {
  for (std::size_t j = 0; j < cols; ++j, values += kBlockRows, gaps += kBlockRows, pulled += kBlockRows) {
    Lanes sum[2] = {};  // no addition waits for the one before it
    for (std::size_t i = 0; i < rows; i += 2 * LANES) {
      FJORDLINE_UNROLL for (int v = 0; v < 2; ++v) {
        const Lanes gap = at(values + i + v * LANES) - centre[j];
        const Lanes weighed = gap * at(weight + i + v * LANES);
        *reinterpret_cast<Loose*>(gaps + i + v * LANES) = gap;
        *reinterpret_cast<Loose*>(pulled + i + v * LANES) = weighed;
        sum[v] += weighed;
      }
    }
    totals[j] += summed(sum[0] + sum[1]);
  }
}

// `HEIGHT` columns of the left side from the a-th on against four of the right from the b-th on; against the same
// columns where `SAME`, and then no product twice.
template <int HEIGHT, bool SAME>
TARGET static inline void add_products(const double* left, const double* right, std::size_t rows, std::size_t cols,
                                       std::size_t a, std::size_t b, double* sums) {
  constexpr int width = SAME ? HEIGHT : 4;
  const double* x = left + a * kBlockRows;
  const double* y = right + b * kBlockRows;
  Lanes sum[HEIGHT][width] = {};
  for (std::size_t i = 0; i < rows; i += LANES) {
    Lanes one[HEIGHT];
    FJORDLINE_UNROLL for (int r = 0; r < HEIGHT; ++r) one[r] = at(x + r * kBlockRows + i);
    FJORDLINE_UNROLL for (int c = 0; c < width; ++c) {
      const Lanes other = at(y + c * kBlockRows + i);
      FJORDLINE_UNROLL for (int r = SAME ? c : 0; r < HEIGHT; ++r) sum[r][c] += one[r] * other;
    }
  }
  for (int r = 0; r < HEIGHT; ++r)
    for (int c = 0; c < (SAME ? r + 1 : width); ++c) sums[(a + r) * cols + b + c] += summed(sum[r][c]);
}

template <int HEIGHT>
TARGET static inline void add_band_products(const double* left, const double* right, std::size_t rows,
                                            std::size_t cols, std::size_t a, double* sums) {
  for (std::size_t b = 0; b < a; b += 4) add_products<HEIGHT, false>(left, right, rows, cols, a, b, sums);
  add_products<HEIGHT, true>(left, right, rows, cols, a, a, sums);
}

TARGET static void products_of(const double* left, const double* right, std::size_t rows, std::size_t cols,
                               double* sums) {
  const std::size_t whole = cols / 4 * 4;
  for (std::size_t a = 0; a < whole; a += 4) add_band_products<4>(left, right, rows, cols, a, sums);
  if (cols - whole == 1) add_band_products<1>(left, right, rows, cols, whole, sums);
  else if (cols - whole == 2) add_band_products<2>(left, right, rows, cols, whole, sums);
  else if (cols - whole == 3) add_band_products<3>(left, right, rows, cols, whole, sums);
}

TARGET static void squares_of(const double* left, const double* right, std::size_t rows, std::size_t cols,
                              double* sums) {
  for (std::size_t j = 0; j < cols; ++j, left += kBlockRows, right += kBlockRows) {
    Lanes sum = Lanes{};
    for (std::size_t i = 0; i < rows; i += LANES)
      sum += *reinterpret_cast<const Loose*>(left + i) * *reinterpret_cast<const Loose*>(right + i);
    sums[j] += summed(sum);
  }
}

static const BlockKernels block_table = {INSTRUCTIONS, lengths_under, lengths_weighted, memberships_of, normal_density,
                                         heavy_density, pulls, total_of, bumps_of, gaps_of, products_of, squares_of};
