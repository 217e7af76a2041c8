// Blanks that are glued of strips: which wood lies where, where the joints run, how the stack moves with its moisture,
// and what lies too near to a joint. Plan of the blank: along its length, and across it from the bass edge; mm.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/plan/region.hpp"
#include "core/workshop/material.hpp"

namespace wren {

struct Strip {
  std::string wood;
  double width = 0;
  friend bool operator==(const Strip&, const Strip&) = default;
};

/// From the bass edge to the treble edge, their joints along the blank; or, `across`, from its neck's end to its tail.
/// Two halves of one board are a stack of two.
struct StripStack {
  std::vector<Strip> strips;
  bool across = false;
  [[nodiscard]] bool empty() const { return strips.empty(); }
  [[nodiscard]] double width() const;
  /// Joints as distances from the middle of the stack, in order.
  [[nodiscard]] std::vector<double> joints() const;
  /// The strip at a distance from the stack's middle; the outer ones go on for ever. Precondition: not empty.
  [[nodiscard]] const Strip& at(double from_middle) const;
  friend bool operator==(const StripStack&, const StripStack&) = default;
};
constexpr std::size_t most_strips = 40;
constexpr double narrowest_strip = 0.4;  // a veneer

/// "cherry 120; walnut 12; cherry 120", "across: pine 90; pine 90"; "none" for one piece. Refused with what is not
/// understood.
[[nodiscard]] Expected<StripStack> strips_from(const std::string& text, const std::string& where);
[[nodiscard]] std::string strips_text(const StripStack& stack);

using FindMaterial = std::function<Expected<Material>(const std::string&)>;

/// Change of the whole stack's width in mm between two moistures in %, each strip flat-sawn (its tangential shrinkage;
/// strips on edge move less). Strips whose shrinkage nobody knows, and sheets, count as still.
[[nodiscard]] double stack_moves(const StripStack& stack, const FindMaterial& find, double moisture,
                                 double moisture_later);
/// Widths' mean of density, kg/m³, and of stiffness along the grain, GPa, between two places from the middle.
[[nodiscard]] double mean_density(const StripStack& stack, const FindMaterial& find, double from, double to);
[[nodiscard]] double mean_modulus(const StripStack& stack, const FindMaterial& find, double from, double to);

/// A joint as a line in a part's plan.
struct Joint {
  Vec2 at;
  Vec2 along;           // unit
  std::string between;  // "cherry and walnut"
};
/// How a stack lies in a part's plan: its middle, and its own axes turned counter-clockwise in radians. 0: joints along
/// x, or across it.
struct StackPlace {
  Vec2 middle;
  double angle = 0;
  /// From one joint to the next.
  [[nodiscard]] Vec2 across(const StripStack& stack) const;
  /// A place's distance from the stack's middle, over its joints.
  [[nodiscard]] double from_middle(const StripStack& stack, Vec2 at) const { return dot(at - middle, across(stack)); }
  /// Between two distances from the middle, the whole length of everything.
  [[nodiscard]] Polygon band(const StripStack& stack, double from, double to) const;
};
[[nodiscard]] std::vector<Joint> joints_of(const StripStack& stack, const StackPlace& place);
/// What a stack must be wide so that a blank of this size (along x, along y) can be sawn out of it.
[[nodiscard]] double width_needed(const StripStack& stack, Vec2 blank, double angle);

/// A strip's place in a blank's plan, for pictures.
struct StripBand {
  Polygon plan;
  std::string wood;
  double density = 0;  // kg/m³; 0: not known
};
/// Strips of a blank of this size (along x, along y) about the stack's middle; empty for one piece.
[[nodiscard]] std::vector<StripBand> bands_of(const StripStack& stack, const StackPlace& place, Vec2 size,
                                              const FindMaterial& find);

/// A wall that runs beside a joint so near that the wood between is a sliver.
struct JointBeside {
  double distance = 0;  // of the joint from the wall, mean
  double length = 0;    // over which it does
  Vec2 at;              // middle of it
};
/// Where the edges of a region run within `near` mm of a joint and almost along it (within 5°), over at least
/// `shortest` mm; the longest such run, length 0 where there is none.
[[nodiscard]] JointBeside joint_beside(const Joint& joint, const Region& region, double near, double shortest);
/// The smallest slide of a part over its blank, square to the joints, after which none of them runs beside a wall in
/// that way; nothing where there is none up to `most` mm. Positive: along `left_of(joint.along)`.
[[nodiscard]] std::optional<double> free_slide(const std::vector<Joint>& joints, const std::vector<Region>& walls,
                                               double near, double shortest, double most);

}  // namespace wren
