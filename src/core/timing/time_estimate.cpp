#include "core/timing/time_estimate.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace wren {
namespace {

// Each pass is its own plain loop over flat arrays, so that the compiler can make vectors of all but the two
// recurrences. Clones for wider vectors are chosen when the program starts, which is before a thread sanitizer is
// ready.
#ifdef __SANITIZE_THREAD__
#define WREN_WIDE
#else
#define WREN_WIDE __attribute__((target_clones("default", "arch=x86-64-v3")))
#endif

WREN_WIDE void measure(const float* x, const float* y, const float* z, const float* speed, std::size_t n, float* length,
                       float* ux, float* uy, float* uz, float* wanted) {
  for (std::size_t i = 0; i < n; ++i) {
    const float dx = x[i + 1] - x[i];
    const float dy = y[i + 1] - y[i];
    const float dz = z[i + 1] - z[i];
    const float l = std::sqrt(dx * dx + dy * dy + dz * dz);
    const float k = 1.0F / (l + 1e-12F);
    length[i] = l;
    ux[i] = dx * k;
    uy[i] = dy * k;
    uz[i] = dz * k;
    wanted[i] = speed[i + 1] * speed[i + 1];
  }
}

// Squared speed allowed where piece i meets piece i + 1. With c = cos of the turn, sin(θ/2) = √((1 + c)/2).
WREN_WIDE void corners(const float* ux, const float* uy, const float* uz, const float* wanted, std::size_t n,
                       float a_delta, float* cap) {
  for (std::size_t i = 0; i + 1 < n; ++i) {
    float c = ux[i] * ux[i + 1] + uy[i] * uy[i + 1] + uz[i] * uz[i + 1];
    c = c < -1.0F ? -1.0F : c;
    c = c > 0.999999F ? 0.999999F : c;
    const float s = std::sqrt(0.5F * (1.0F + c));
    float v = a_delta * s / (1.0F - s);
    v = v < wanted[i] ? v : wanted[i];
    v = v < wanted[i + 1] ? v : wanted[i + 1];
    cap[i] = v;
  }
}

// Seconds of a piece that starts at squared speed a, ends at b and may reach w: accelerate, hold, brake.
WREN_WIDE double total(const float* length, const float* start, const float* end, const float* wanted, std::size_t n,
                       float acc) {
  double sum = 0;
  const float half = 0.5F / acc;
  const float inverse = 1.0F / acc;
  for (std::size_t from = 0; from < n; from += 4096) {
    const std::size_t to = from + 4096 < n ? from + 4096 : n;
    float lane[8] = {};
    std::size_t i = from;
    for (; i + 8 <= to; i += 8)
      for (std::size_t k = 0; k < 8; ++k) {
        const float a = start[i + k];
        const float b = end[i + k];
        const float peak = 0.5F * (a + b) + acc * length[i + k];
        const float top = peak < wanted[i + k] ? peak : wanted[i + k];
        const float v = std::sqrt(top);
        const float rest = length[i + k] - (2.0F * top - a - b) * half;
        lane[k] += (2.0F * v - std::sqrt(a) - std::sqrt(b)) * inverse + (rest > 0 ? rest : 0) / (v + 1e-9F);
      }
    float part = 0;
    for (const float v : lane) part += v;
    for (; i < to; ++i) {
      const float a = start[i];
      const float b = end[i];
      const float peak = 0.5F * (a + b) + acc * length[i];
      const float top = peak < wanted[i] ? peak : wanted[i];
      const float v = std::sqrt(top);
      const float rest = length[i] - (2.0F * top - a - b) * half;
      part += (2.0F * v - std::sqrt(a) - std::sqrt(b)) * inverse + (rest > 0 ? rest : 0) / (v + 1e-9F);
    }
    sum += static_cast<double>(part);
  }
  return sum;
}

/// Fills work.length with piece lengths, work.cap with the squared speeds at every piece's start and end, and
/// work.direction's fourth quarter with the squared wanted speeds. Returns the number of pieces.
std::size_t plan(const Segments& path, const MotionLimits& limits, EstimateScratch& work) {
  const std::size_t n = path.pieces();
  work.length.resize(n);
  work.cap.resize(n + 1);
  work.direction.resize(4 * n);
  float* ux = work.direction.data();
  float* wanted = ux + 3 * n;
  measure(path.x.data(), path.y.data(), path.z.data(), path.speed.data(), n, work.length.data(), ux, ux + n, ux + 2 * n,
          wanted);
  float* cap = work.cap.data();
  cap[0] = 0;
  cap[n] = 0;
  corners(ux, ux + n, ux + 2 * n, wanted, n, static_cast<float>(limits.acceleration * limits.corner), cap + 1);
  const auto twice = static_cast<float>(2 * limits.acceleration);
  float v = 0;
  for (std::size_t i = n; i-- > 0;) {  // braking in time for what comes
    const float reach = v + twice * work.length[i];
    v = reach < cap[i] ? reach : cap[i];
    cap[i] = v;
  }
  v = 0;
  for (std::size_t i = 0; i < n; ++i) {  // gathering speed from what was
    const float reach = v + twice * work.length[i];
    v = reach < cap[i + 1] ? reach : cap[i + 1];
    cap[i + 1] = v;
  }
  return n;
}

}  // namespace

MotionLimits motion_limits(const Machine& machine) {
  return {machine.acceleration,
          0.01,
          machine.rapid / 60,
          {machine.max_feed.x / 60, machine.max_feed.y / 60, machine.max_feed.z / 60}};
}

double estimate_seconds(const Segments& path, const MotionLimits& limits, EstimateScratch& work) {
  if (path.pieces() == 0) return 0;
  const std::size_t n = plan(path, limits, work);
  return total(work.length.data(), work.cap.data(), work.cap.data() + 1, work.direction.data() + 3 * n, n,
               static_cast<float>(limits.acceleration));
}

std::vector<double> clock(const Segments& path, const MotionLimits& limits) {
  std::vector<double> out(path.pieces() + 1, 0);
  EstimateScratch work;
  if (path.pieces() == 0) return out;
  const std::size_t n = plan(path, limits, work);
  for (std::size_t i = 0; i < n; ++i)
    out[i + 1] = out[i] + total(&work.length[i], &work.cap[i], &work.cap[i + 1], &work.direction[3 * n + i], 1,
                                static_cast<float>(limits.acceleration));
  return out;
}

}  // namespace wren
