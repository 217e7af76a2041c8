// A flat part cut from a sheet by its outline, held by tape and tabs: covers, scratch plates, samples, guides. Each is
// its own plan with z = 0 on its underside; mm.
#pragma once

#include "core/job/part.hpp"
#include "core/parts/body/numbers.hpp"
#include "core/plan/region.hpp"

namespace wren {

struct FlatPart {
  std::string id, title;
  Polygon outline;  // counter-clockwise
  double thickness = 0;
  double margin = 14;  // of its blank, each side
  Material wood;
};

/// Its placement: the blank, its corner as zero, and how it is held. `called`: "Cover's blank".
[[nodiscard]] Side flat_side(const Machine& machine, const FlatPart& part, const std::string& called);

/// The cut that takes it out of its sheet; without tabs tape holds all of it.
Operation& flat_outline(Side& side, const BodyWork& work, const FlatPart& part, Words title,
                        std::vector<std::string> keys, int tabs = 4);

/// The skin it is to have before holes and pockets.
void flat_target(const BodyWork& work, const FlatPart& part, PieceRequest& request);

/// A piece with level pockets and holes right through: regions by their depth under the top; depth ≥ thickness:
/// through.
struct FlatCut {
  Region region;
  double depth = 0;
};
[[nodiscard]] Mesh flat_mesh(const FlatPart& part, const std::vector<FlatCut>& cuts);

}  // namespace wren
