#include "core/skin/spline_surface.hpp"

#include <algorithm>
#include <cmath>

#include <Eigen/Sparse>
#include <Eigen/SparseCholesky>
#include <fmt/format.h>

namespace wren {
namespace {

using Matrix = Eigen::SparseMatrix<double>;
using Vector = Eigen::VectorXd;

struct Local {
  int piece;
  double t;
};

Local locate(double x, double x0, double x1, int pieces) {
  const double s = std::clamp((x - x0) / (x1 - x0), 0.0, 1.0) * pieces;
  const int piece = std::min(static_cast<int>(s), pieces - 1);
  return {piece, s - piece};
}

/// Rows of third differences of the coefficients along one direction.
void add_differences(std::vector<Eigen::Triplet<double>>& to, int& row, int nu, int nv, bool along_u, double scale) {
  static constexpr double third[4]{-1, 3, -3, 1};
  const int most_u = along_u ? nu - 3 : nu;
  const int most_v = along_u ? nv : nv - 3;
  for (int i = 0; i < most_u; ++i)
    for (int j = 0; j < most_v; ++j) {
      for (int k = 0; k < 4; ++k)
        to.emplace_back(row, (along_u ? i + k : i) * nv + (along_u ? j : j + k), scale * third[k]);
      ++row;
    }
}

}  // namespace

void spline_weights(double t, double w[4]) {
  // Uniform cubic B-spline basis; de Boor, A Practical Guide to Splines (from memory).
  const double s = 1 - t;
  w[0] = s * s * s / 6;
  w[1] = (3 * t * t * t - 6 * t * t + 4) / 6;
  w[2] = (3 * s * s * s - 6 * s * s + 4) / 6;
  w[3] = t * t * t / 6;
}

SplineSurface::SplineSurface(double u0, double u1, int pieces_u, double v0, double v1, int pieces_v,
                             std::vector<double> coefficients)
    : u0_(u0),
      u1_(u1),
      v0_(v0),
      v1_(v1),
      pieces_u_(pieces_u),
      pieces_v_(pieces_v),
      coefficients_(std::move(coefficients)) {}

double SplineSurface::value(double u, double v) const {
  const Local lu = locate(u, u0_, u1_, pieces_u_);
  const Local lv = locate(v, v0_, v1_, pieces_v_);
  double wu[4];
  double wv[4];
  spline_weights(lu.t, wu);
  spline_weights(lv.t, wv);
  const auto nv = static_cast<std::size_t>(pieces_v_ + 3);
  double sum = 0;
  for (std::size_t i = 0; i < 4; ++i) {
    const double* c =
        coefficients_.data() + (static_cast<std::size_t>(lu.piece) + i) * nv + static_cast<std::size_t>(lv.piece);
    sum += wu[i] * (wv[0] * c[0] + wv[1] * c[1] + wv[2] * c[2] + wv[3] * c[3]);
  }
  return sum;
}

void SplineSurface::make_symmetric_in_v() {
  const auto nv = static_cast<std::size_t>(pieces_v_ + 3);
  for (std::size_t row = 0; row < coefficients_.size(); row += nv)
    for (std::size_t j = 0; j < nv / 2; ++j) {
      const double mean = (coefficients_[row + j] + coefficients_[row + nv - 1 - j]) / 2;
      coefficients_[row + j] = coefficients_[row + nv - 1 - j] = mean;
    }
}

Expected<FairFit> fit_fair(const std::vector<FairSample>& samples, const FairOptions& o) {
  if (samples.empty())
    return fail(ProblemKind::input, "there are no points to lay a surface through", "sections",
                "Give at least two sections");
  if (samples.size() > 200'000)
    return fail(ProblemKind::range, worded("{} points are more than a surface is fitted to", samples.size()),
                "sections", "Give at most 200000");
  for (const FairSample& s : samples)
    if (!std::isfinite(s.u) || !std::isfinite(s.v) || !std::isfinite(s.value))
      return fail(ProblemKind::input, "a point is not a number", "sections", "Correct it");
  const int nu = o.pieces_u + 3;
  const int nv = o.pieces_v + 3;
  const int n = nu * nv;
  std::vector<Eigen::Triplet<double>> entries;
  entries.reserve(samples.size() * 16);
  Vector wanted(static_cast<Eigen::Index>(samples.size()));
  for (std::size_t k = 0; k < samples.size(); ++k) {
    const Local lu = locate(samples[k].u, o.u0, o.u1, o.pieces_u);
    const Local lv = locate(samples[k].v, o.v0, o.v1, o.pieces_v);
    double wu[4];
    double wv[4];
    spline_weights(lu.t, wu);
    spline_weights(lv.t, wv);
    for (int i = 0; i < 4; ++i)
      for (int j = 0; j < 4; ++j)
        entries.emplace_back(static_cast<int>(k), (lu.piece + i) * nv + lv.piece + j,
                             samples[k].weight * wu[i] * wv[j]);
    wanted[static_cast<Eigen::Index>(k)] = samples[k].weight * samples[k].value;
  }
  Matrix a(static_cast<Eigen::Index>(samples.size()), n);
  a.setFromTriplets(entries.begin(), entries.end());
  entries.clear();
  int rows = 0;
  // Across the neck the pieces are fewer and their shape is well known: the penalty works mostly along it.
  add_differences(entries, rows, nu, nv, true, 1.0);
  add_differences(entries, rows, nu, nv, false, 0.1);
  Matrix d(rows, n);
  d.setFromTriplets(entries.begin(), entries.end());
  const Matrix ata = Matrix(a.transpose()) * a;
  Matrix dtd = Matrix(d.transpose()) * d;
  Matrix unit(n, n);
  unit.setIdentity();
  const Vector atb = Matrix(a.transpose()) * wanted;
  Eigen::SimplicialLDLT<Matrix> solver;
  solver.analyzePattern(ata + dtd + unit);

  const auto solve = [&](double stiffness) {
    solver.factorize(ata + stiffness * dtd + 1e-12 * unit);
    const Vector c = solver.solve(atb);
    FairFit fit;
    fit.surface =
        SplineSurface(o.u0, o.u1, o.pieces_u, o.v0, o.v1, o.pieces_v, std::vector<double>(c.data(), c.data() + n));
    if (o.symmetric_in_v) fit.surface.make_symmetric_in_v();
    for (std::size_t k = 0; k < samples.size(); ++k) {
      const double error =
          samples[k].weight * std::abs(fit.surface.value(samples[k].u, samples[k].v) - samples[k].value);
      if (error > fit.worst) {
        fit.worst = error;
        fit.worst_sample = k;
      }
    }
    return fit;
  };
  FairFit best = solve(1e-7);
  if (!(o.within > 0) || best.worst >= o.within) return best;
  double low = -7;  // powers of ten
  double high = 8;
  for (int i = 0; i < 14; ++i) {
    const double middle = (low + high) / 2;
    FairFit fit = solve(std::pow(10.0, middle));
    if (fit.worst <= o.within) {
      best = std::move(fit);
      low = middle;
    } else {
      high = middle;
    }
  }
  return best;
}

}  // namespace wren
