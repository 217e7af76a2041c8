// Path: an outline as it is drawn: nodes joined by straight edges, circular arcs and cubic curves, smooth or with
// corners. What people pull at; a Contour of lines and arcs follows from it within a stated tolerance. Lengths in mm;
// closed paths run counter-clockwise.
//
// Curves become pairs of arcs that share their tangent at the joint (biarcs; Bolton, Computer-Aided Design 7, 1975),
// halved until every sample lies within the tolerance, so that a smooth curve stays smooth for the machine.
#pragma once

#include "core/plan/contour.hpp"

namespace wren {

enum class EdgeKind { line, arc, curve };

struct PathNode {
  Vec2 at;
  EdgeKind edge = EdgeKind::line;  // of the edge that starts here
  double bulge = 0;                // of an arc, as in Contour
  Vec2 out;                        // curve that starts here: its handle, seen from the node
  Vec2 in;                         // curve that ends here: its handle, seen from the node
  bool smooth = false;             // both handles lie on one line through the node
  friend bool operator==(const PathNode&, const PathNode&) = default;
};
using Path = std::vector<PathNode>;
constexpr std::size_t most_path_nodes = 2000;

/// Point on the edge from `from` to `to` at t in [0, 1].
[[nodiscard]] Vec2 point_on(const PathNode& from, const PathNode& to, double t);

/// A closed path as lines and arcs, curves within `tolerance` mm. A path of fewer than two nodes gives an empty
/// contour.
[[nodiscard]] Contour to_contour(const Path& path, double tolerance = 0.005);

/// A smooth closed path through places with given directions (zero: a corner): handles a third of the way along each
/// edge's turn.
struct Through {
  Vec2 at;
  Vec2 along;         // direction of travel; {0, 0} for a corner whose edges run straight at their neighbours' pull
  bool line = false;  // the edge that starts here is straight
};
[[nodiscard]] Path smooth_through(const std::vector<Through>& places);

/// Mirrored in y and run the other way round, so that a counter-clockwise path stays one.
[[nodiscard]] Path mirrored(const Path& path);
/// The half with y·side ≥ 0 (side +1 or −1) joined to its mirror image: symmetric to the last bit. Refused where the
/// path does not cross the line y = 0 exactly twice.
[[nodiscard]] Expected<Path> symmetric_from(const Path& path, int side);
[[nodiscard]] Path moved(const Path& path, Vec2 by);
/// About a place: turned by `angle` radians and scaled.
[[nodiscard]] Path transformed(const Path& path, Vec2 about, double angle, double scale);

/// A new node on the edge that starts at `edge`, at t; the shape does not change.
[[nodiscard]] Path with_node(const Path& path, std::size_t edge, double t);
/// Without one node: its neighbours are joined by a curve that keeps their directions. Precondition: more than three
/// nodes.
[[nodiscard]] Path without_node(const Path& path, std::size_t node);
/// A node's handle moved; the other follows where the node is smooth.
[[nodiscard]] Path with_handle(const Path& path, std::size_t node, bool out, Vec2 to);
/// The same with the node moved and its handles with it.
[[nodiscard]] Path with_node_at(const Path& path, std::size_t node, Vec2 at);
/// Smooth: handles laid on one line; or a corner.
[[nodiscard]] Path with_kind(const Path& path, std::size_t node, bool smooth);
/// The edge after a node as a line, an arc that leaves along its present direction, or a curve.
[[nodiscard]] Path with_edge(const Path& path, std::size_t node, EdgeKind kind);

/// One tooth of a fairness comb: signed curvature, positive where a counter-clockwise outline is convex.
struct Tooth {
  Vec2 at;
  Vec2 outward;          // unit
  double curvature = 0;  // 1/mm
};
[[nodiscard]] std::vector<Tooth> comb(const Path& path, double apart = 4);

/// Nearest place of a path: edge, t, point.
struct OnPath {
  std::size_t edge = 0;
  double t = 0;
  Vec2 at;
  double away = 1e300;
};
[[nodiscard]] OnPath nearest_on(const Path& path, Vec2 p);

}  // namespace wren
