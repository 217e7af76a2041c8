// SplineSurface: a uniform cubic tensor-product B-spline over a rectangle, its value and first two derivatives
// continuous everywhere, and the fit that makes one through or near scattered samples. Units are the caller's.
//
// The fit is a penalised spline (Eilers & Marx, Statistical Science 11, 1996): least squares on the samples and
// third-order differences of the coefficients in both directions, so that quadratic shapes cost nothing. The stiffness
// of the penalty is the largest that keeps every sample within the wanted distance.
#pragma once

#include <cstddef>
#include <vector>

#include "core/report/problem.hpp"

namespace wren {

class SplineSurface {
 public:
  SplineSurface() = default;
  /// (pieces_u + 3) × (pieces_v + 3) coefficients, v running fastest. Preconditions: at least one piece each way, u0 <
  /// u1, v0 < v1.
  SplineSurface(double u0, double u1, int pieces_u, double v0, double v1, int pieces_v,
                std::vector<double> coefficients);

  /// Outside the rectangle the value at its nearest edge.
  [[nodiscard]] double value(double u, double v) const;
  [[nodiscard]] bool empty() const { return coefficients_.empty(); }
  [[nodiscard]] int pieces_u() const { return pieces_u_; }
  [[nodiscard]] int pieces_v() const { return pieces_v_; }
  [[nodiscard]] std::vector<double>& coefficients() { return coefficients_; }
  /// Makes f(u, v) = f(u, v0 + v1 − v) hold for the coefficients, exactly.
  void make_symmetric_in_v();

 private:
  double u0_ = 0, u1_ = 1, v0_ = 0, v1_ = 1;
  int pieces_u_ = 0;
  int pieces_v_ = 0;
  std::vector<double> coefficients_;
};

/// Weights of the four uniform cubic B-splines that reach parameter t in [0, 1] of a piece.
void spline_weights(double t, double weight[4]);

struct FairSample {
  double u = 0;
  double v = 0;
  double value = 0;
  double weight = 1;  // what one unit of error in the value counts for, in mm
};

struct FairOptions {
  double u0 = 0, u1 = 1;
  double v0 = 0, v1 = 1;
  int pieces_u = 24;
  int pieces_v = 12;
  double within = 0;  // mm (value × weight): 0 follows the samples as closely as the spline can
  bool symmetric_in_v = false;
};

struct FairFit {
  SplineSurface surface;
  double worst = 0;  // largest value × weight error, mm
  std::size_t worst_sample = 0;
};

/// Refused for no samples, values that are not finite, or more than 200 000 of them.
[[nodiscard]] Expected<FairFit> fit_fair(const std::vector<FairSample>& samples, const FairOptions& options);

}  // namespace wren
