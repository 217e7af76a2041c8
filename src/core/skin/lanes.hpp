// Lanes: eight floats worked on together, one row of a block. Plain compiler vectors, so the same source runs on any
// x86-64; functions marked WREN_LANES are compiled twice and the wider version is chosen when the program starts.
#pragma once

namespace wren {

using Lanes = float __attribute__((vector_size(32), aligned(4)));
using LaneMask = int __attribute__((vector_size(32)));

// The choice is made before a thread sanitizer is ready to watch it.
#ifdef __SANITIZE_THREAD__
#define WREN_LANES
#else
#define WREN_LANES __attribute__((target_clones("default", "arch=x86-64-v3")))
#endif
#define WREN_INLINE __attribute__((always_inline)) inline

WREN_INLINE void load(const float* from, Lanes& out) { __builtin_memcpy(&out, from, sizeof out); }
WREN_INLINE void store(float* to, const Lanes& v) { __builtin_memcpy(to, &v, sizeof v); }
WREN_INLINE void root(const Lanes& v, Lanes& out) {
  for (int i = 0; i < 8; ++i) out[i] = __builtin_sqrtf(v[i]);
}
WREN_INLINE float highest(const Lanes& v) {
  float best = v[0];
  for (int i = 1; i < 8; ++i) best = v[i] > best ? v[i] : best;
  return best;
}

/// 0, 1, … 7: distances along a row in cells.
constexpr Lanes lane_ramp{0, 1, 2, 3, 4, 5, 6, 7};

}  // namespace wren
