// Random numbers that are the same on every machine: no standard distribution, whose results differ.
#pragma once

#include <initializer_list>
#include <random>
#include <string>

#include "core/plan/geometry.hpp"

namespace wren {

class Random {
 public:
  explicit Random(unsigned seed) : random_(seed) {}
  double between(double a, double b) {
    return a + (b - a) * static_cast<double>(random_() >> 8) / static_cast<double>(1U << 24);
  }
  /// A place over a square from 0 to `size`.
  Vec3 place(double size, double low, double high) {
    const double x = between(0, size);
    const double y = between(0, size);
    return {x, y, between(low, high)};
  }
  std::string pick(std::initializer_list<const char*> of) {
    return *(of.begin() + static_cast<std::ptrdiff_t>(random_() % of.size()));
  }

 private:
  std::mt19937 random_;
};

}  // namespace wren
