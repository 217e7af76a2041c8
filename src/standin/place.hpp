// A place or a distance along the machine's three axes, mm.
#pragma once

#include <array>
#include <cmath>

namespace standin {

struct Place {
  double x = 0, y = 0, z = 0;
  friend bool operator==(const Place&, const Place&) = default;
  friend Place operator+(Place a, Place b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
  friend Place operator-(Place a, Place b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
  friend Place operator*(Place a, double s) { return {a.x * s, a.y * s, a.z * s}; }
  [[nodiscard]] double far() const { return std::sqrt(x * x + y * y + z * z); }
  [[nodiscard]] std::array<double, 3> axes() const { return {x, y, z}; }
};

}  // namespace standin
