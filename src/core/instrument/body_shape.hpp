// BodyShape: everything that follows from a Body's numbers, its board and its neck: outline, skins, cavities, holes,
// jobs in the edge, covers. Body frame (see body.hpp), mm. Nothing here knows a machine.
//
// Invariants (tested by number):
//  1. A cover is smaller than its ledge by the stated clearance everywhere.
//  2. Every cavity's floor lies between the face and the back.
#pragma once

#include <memory>

#include "core/instrument/body_setup.hpp"
#include "core/plan/region.hpp"
#include "core/words/words.hpp"

namespace wren {

/// Answers quickly whether a place lies in a region: cells wholly in or out are looked up, only those on its edge are
/// asked exactly.
class RegionMask {
 public:
  RegionMask() = default;
  explicit RegionMask(Region region, double cell = 0.5);
  [[nodiscard]] bool holds(Vec2 p) const;
  [[nodiscard]] const Region& region() const { return region_; }

 private:
  [[nodiscard]] std::size_t cell_at(int i, int j) const {
    return static_cast<std::size_t>(j) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(i);
  }
  Region region_;
  Vec2 low_;
  double cell_ = 1;
  int columns_ = 0;
  int rows_ = 0;
  std::vector<std::uint8_t> cells_;               // 0 out, 1 in, 2 on the edge
  std::vector<std::vector<Segment2>> row_edges_;  // edges that pass each row of cells
};

struct Cavity {
  std::string
      id;  // "pocket", "pickup-bridge", "pickup-bridge-ears", "control", "ledge", "thin-1", "chamber-bass", "wire-1", …
  std::string title;
  std::string group;  // cavities of one group may overlap
  Region region;      // outer rings and islands
  bool from_back = false;
  double floor = 0;  // z at the origin of `slope`
  double slope = 0;  // rise of the floor along x (tan of the tilt)
  double slope_x = 0;
  double corner = 1e9;    // tightest inward corner that was asked for
  int layer = -1;         // ≥ 0: cut into the top of that layer before it is glued
  bool by_layer = false;  // open in the glued body, and cut in each layer that it goes through before the glue-up
  std::shared_ptr<const RegionMask> mask;
  double round = 0;                     // radius between floor and walls; 0: square
  std::shared_ptr<const Nearness> rim;  // of a rounded one
  /// How far the floor stands up at a place, by its rounded edge.
  [[nodiscard]] double lift(Vec2 p) const;
  /// The floor with that.
  [[nodiscard]] double bed_at(Vec2 p) const { return floor_at(p) + (from_back ? -lift(p) : lift(p)); }
  [[nodiscard]] double floor_at(Vec2 p) const { return floor + slope * (p.x - slope_x); }
  [[nodiscard]] bool holds(Vec2 p) const { return mask->holds(p); }
};

struct BodyHole {
  std::string id;  // "post-1", "string-3", "ferrule-3", "bolt-1", "shaft-1", "plate-1", "hold-2", "dowel-1"
  std::string title;
  Vec2 at;
  double diameter = 0;
  double from = 0;   // z where it begins (floor of a pocket, face, back)
  double depth = 0;  // 0: through
  bool from_back = false;
  bool drilled = false;  // with a drill, pecked; else bored with a cutter
};

/// What is drilled into the edge by hand, with its picture on the sheet.
namespace practice {
constexpr double jack_plate = 38;  // length of a jack's plate, common practice
}

struct EdgeJob {
  std::string id, title;
  Vec2 at;      // on the outline
  Vec2 inward;  // unit
  double diameter = 0;
  double depth = 0;
  double z = 0;          // height of its middle
  double thickness = 0;  // of the wood there
  std::string reaches;   // the cavity it runs into; empty: none
  double wall = 0;       // wood along its axis up to that cavity
  double bulge = 0;      // of the edge over a plate's length: how far it is from flat
};

struct Cover {
  std::string id = "cover", title = "Control cover";
  Polygon outline;  // as seen from the back, body plan
  Polygon ledge;
  Polygon inside;  // the cavity under it
  double thickness = 0;
  double thinned = 0;
  double clearance = 0;  // least, each side, finish room included
  std::vector<BodyHole> holds;
};

struct LayerPlace {
  BodyLayer layer;  // measured thickness taken over
  double top = 0;   // z
  double bottom = 0;
};

struct BodyShape {
  Body given;
  std::shared_ptr<const NeckShape> neck;
  HeelInUse heel;
  BodySetup setup;
  Path path;
  Contour outline;  // exact, counter-clockwise
  Polygon corners;  // flattened to 0.002 mm
  double thickness = 0;
  std::vector<LayerPlace> layers;
  std::vector<Cavity> cavities;
  std::vector<BodyHole> holes;
  std::vector<EdgeJob> edge_jobs;
  std::vector<Cover> covers;
  struct Pickup {
    std::string which;  // "neck", "middle", "bridge"
    PickupNumbers size;
    Vec2 middle;
    Vec2 across;                             // unit, along its length
    double string_spread = 0;                // of the outer strings there
    double string_low = 0, string_high = 0;  // undersides over the face there, open strings
  };
  std::vector<Pickup> pickups;
  std::vector<Vec2> controls;  // shafts, then the switch where there is one
  Polygon bridge_plate;        // ghost, and for posts the line between them; of single pieces all that they cover
  std::vector<Polygon> bridge_pieces;  // each by itself, bass to treble
  Polygon scratch_plate;               // its outline on the face; empty: none
  Vec2 edge_middle;                    // where the neck enters
  double treble = 1;                   // sign of y on the treble side

  /// z of the face and of the back with bevel, belly, carve and round-overs, without cavities and holes. Outside the
  /// outline they go on as at the foot of the round-over.
  [[nodiscard]] double top(Vec2 p) const;
  [[nodiscard]] double bottom(Vec2 p) const;
  /// With cavities and holes of that side (through: −1e6 for the top, +1e6 for the bottom). Hidden ones are left out.
  [[nodiscard]] double finished_top(Vec2 p) const;
  [[nodiscard]] double finished_bottom(Vec2 p) const;
  /// The same without round-overs: what stands before the edges are rounded.
  [[nodiscard]] double carved_top(Vec2 p) const;
  [[nodiscard]] double carved_bottom(Vec2 p) const;
  [[nodiscard]] const Cavity* cavity(const std::string& id) const;
  [[nodiscard]] bool carved_face() const {
    return given.comfort.carve != CarveKind::flat || given.comfort.bevel_depth > 0;
  }
  [[nodiscard]] bool carved_back() const { return given.comfort.belly_depth > 0; }

  // What the skins are worked out from.
  Nearness edge;                             // distances to the outline
  std::shared_ptr<const RegionMask> inside;  // of the outline
  SplineSurface carved;                      // depth under the face; empty: flat
  Vec2 bevel_normal, belly_normal, belly_at;
  double bevel_from = 0;
};

/// One of the starting shapes through its numbers; body frame.
[[nodiscard]] Path starting_outline(const OutlineNumbers& numbers, double edge_x, double bridge_x, double neck_half,
                                    bool left_handed);

/// Refused with the ledger key as place where no body follows. `layers` are those in use, measured ones taken over.
[[nodiscard]] Expected<BodyShape> make_body(std::shared_ptr<const NeckShape> neck, const HeelInUse& heel,
                                            const Body& body, const std::vector<BodyLayer>& layers);

/// Why an outline cannot be used, cheap reasons first.
[[nodiscard]] std::vector<Problem> check_outline(const Path& path);

/// A pickup by its place: "neck pickup".
[[nodiscard]] Words pickup_name(const std::string& which);

}  // namespace wren
