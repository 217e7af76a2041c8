// The body's program texts, their manifest, and what the proof is asked of every piece.
#include <algorithm>
#include <memory>

#include <fmt/format.h>

#include "core/job/body_cuts.hpp"

namespace wren {
namespace {

bool starts(const std::string& text, const char* with) { return text.rfind(with, 0) == 0; }

/// The finished body as the cutters at hand can make it: corners no tighter than the finest cutter, holes as wide as
/// their drills.
class Makeable {
 public:
  Makeable(const Project& p, const BodyDesign& d) : shape_(d.shape) {
    const Cutter* fine = find_cutter(d.rack, p.body_work.fine_cutter);
    const Cutter* clear = find_cutter(d.rack, p.body_work.clear_cutter);
    radius_ = std::min(fine != nullptr ? fine->radius() : 1.6, clear != nullptr ? clear->radius() : 1.6);
    for (const Cavity& c : shape_.cavities) {
      double r = radius_;
      if (offset(c.region, -r).empty())  // cut with whatever goes into it
        for (const Cutter& k : d.rack)
          if (k.kind == CutterKind::flat && k.radius() < r && !offset(c.region, -(k.radius() - 0.004)).empty()) {
            r = k.radius() - 0.004;
            break;
          }
      const Region opened = offset(offset(c.region, -r), r);
      cavities_.push_back({&c, std::make_shared<const RegionMask>(opened),
                           c.slope != 0
                               ? std::make_shared<const RegionMask>(Region(offset(c.region, -radius_ + 0.002)), 0.25)
                               : nullptr});
    }
    for (const BodyHole& h : shape_.holes) {
      double wide = h.diameter;
      double point = 0;
      if (h.drilled)
        if (const Cutter* drill = drill_in_use(d.rack, h.diameter)) {
          wide = std::min(wide, drill->effective_diameter());
          point = drill->profile(1.0);
        }
      holes_.push_back({&h, wide / 2, point});
    }
  }

  [[nodiscard]] double top(Vec2 p) const {
    double z = shape_.top(p);
    for (const Made& m : cavities_)
      if (!m.cavity->from_back && m.cavity->layer < 0 && m.mask->holds(p)) z = std::min(z, floor(m, p));
    for (const Bore& b : holes_)
      if (!b.hole->from_back)
        if (const double rho = distance(p, b.hole->at); rho <= b.radius)
          z = b.hole->depth == 0 ? -1e6 : std::min(z, b.hole->from - b.hole->depth - b.point * (b.radius - rho));
    return z;
  }
  [[nodiscard]] double bottom(Vec2 p) const {
    double z = shape_.bottom(p);
    for (const Made& m : cavities_)
      if (m.cavity->from_back && m.cavity->layer < 0 && m.mask->holds(p)) z = std::max(z, m.cavity->floor_at(p));
    for (const Bore& b : holes_) {
      // String holes are drilled from both sides.
      const bool string = starts(b.hole->id, "string");
      if (!b.hole->from_back && !string) continue;
      if (const double rho = distance(p, b.hole->at); rho <= b.radius)
        z = b.hole->depth == 0 ? 1e6 : std::max(z, b.hole->from + b.hole->depth + b.point * (b.radius - rho));
    }
    return z;
  }
  [[nodiscard]] double layer_top(Vec2 p, std::size_t layer) const {
    double z = shape_.layers[layer].top;
    for (const Made& m : cavities_)
      if (m.cavity->layer == static_cast<int>(layer) && m.mask->holds(p))
        z = std::min(z, std::max(m.cavity->floor, shape_.layers[layer].bottom));
    return z;
  }

 private:
  struct Made {
    const Cavity* cavity;
    std::shared_ptr<const RegionMask> mask;
    std::shared_ptr<const RegionMask> middles;  // of a sloping floor: where the finest cutter's middle may go
  };
  struct Bore {
    const BodyHole* hole;
    double radius;
    double point;  // depth of the drill's point per radius
  };
  [[nodiscard]] double floor(const Made& m, Vec2 p) const {
    const double z = m.cavity->floor_at(p);
    if (!m.middles) return z;
    // A flat bottom rests on the slope by its uphill rim: a place is cut lowest when it is the uphill rim itself, and
    // beside a side wall the cutter's middle cannot get to where it would be.
    const double down = m.cavity->slope > 0 ? -1 : 1;
    for (int k = 0; k <= 18; ++k) {
      const double a = k * 0.0872664626;
      const Vec2 u{down * std::cos(a), std::sin(a)};
      if (m.middles->holds(p + u * radius_) || m.middles->holds(p + Vec2{u.x, -u.y} * radius_))
        return z + std::abs(m.cavity->slope) * radius_ * (1 - std::cos(a));
    }
    return z + std::abs(m.cavity->slope) * radius_;
  }
  BodyShape shape_;
  double radius_ = 1;
  std::vector<Made> cavities_;
  std::vector<Bore> holes_;
};

PieceRequest base(const Project& p, const BodyDesign& d, double area_mm2, double cell) {
  PieceRequest request;
  request.rack = d.rack;
  request.tolerances.below = p.body_work.through;
  request.tolerances.left_over = std::max(0.04, p.body_work.scallop * 1.6 + 0.015);
  request.tolerances.skin_height = 0.4;
  request.tolerances.tab_longest = p.body_work.tab_length + 20;
  request.cell = std::max(cell, std::sqrt(area_mm2 / 30e6));
  return request;
}

}  // namespace

std::vector<PlacedProgram> body_programs(const Project& p, const BodyDesign& d, const BodyCuts& cuts,
                                         const std::string& date) {
  return placed_programs(p, d.rack, "body", p.body_work.alignment.school, cuts.sides, date);
}

std::string body_manifest(const Project& p, const BodyDesign& d, const BodyCuts& cuts,
                          const std::vector<PlacedProgram>& programs, const std::string& date) {
  return placed_manifest(p, d.rack, "body", p.body_work.alignment.school, cuts.sides, programs, date);
}

std::vector<BodyPiece> body_proof(const Project& p, const BodyDesign& d, const BodyCuts& cuts,
                                  const std::vector<PlacedProgram>& programs, double cell) {
  std::vector<BodyPiece> out;
  const auto made = std::make_shared<const Makeable>(p, d);
  const BodyShape& s = d.shape;
  const double area_mm2 = d.blank.length * d.blank.width;
  for (std::size_t k = 0; k < s.layers.size(); ++k) {
    const Placement* side = cuts.side(fmt::format("layer-{}", k + 1));
    if (side == nullptr || side->paths.empty()) continue;
    BodyPiece piece{side->id, side->title, base(p, d, area_mm2, std::max(cell, 0.2))};
    // Hidden in the glue: walls and floors need no skim, so they may stand a little proud.
    piece.request.tolerances.left_over = 0.6;
    PieceSide one;
    one.name = side->id;
    one.setup = side->setup;
    one.programs = texts_of(programs, side->id);
    one.design.outline = s.corners;
    // What is faced off the glued body still stands on the top layer.
    one.design.finished = [made, k, over = k == 0 ? p.body_work.face_off : 0.0](Vec2 q) {
      return made->layer_top(q, k) + over;
    };
    if (k == 0 && p.body_work.top_oversize > 0) {
      one.design.outline = *widest(offset({s.corners}, p.body_work.top_oversize));
      one.design.cut_free = true;
    }
    piece.request.sides.push_back(std::move(one));
    out.push_back(std::move(piece));
  }
  BodyPiece whole{"body", s.layers.size() > 1 ? "The glued body, both sides" : "The body, both sides",
                  base(p, d, area_mm2, cell)};
  for (const char* id : {"front", "back"}) {
    const Placement* side = cuts.side(id);
    if (side == nullptr) continue;
    PieceSide one;
    one.name = id;
    one.setup = side->setup;
    one.programs = texts_of(programs, id);
    const Turn turn = side->setup.turn;
    one.design.outline = turned(turn, s.corners);
    if (turn == Turn::none) {
      one.design.finished = [made](Vec2 q) { return made->top(q); };
    } else {
      one.design.cut_free = p.body_work.outline != OutlineSchool::guide;
      one.design.finished = [made, turn](Vec2 q) { return -made->bottom(turned(turn, q)); };
    }
    whole.request.sides.push_back(std::move(one));
  }
  for (const BodyHole& h : s.holes)
    if (h.depth == 0 || starts(h.id, "shaft"))
      whole.request.holes.push_back({h.title + " " + h.id.substr(h.id.rfind('-') + 1), h.at, h.diameter});
  for (const Cavity& c : s.cavities)
    if (c.id == "switch") {  // a slot through: places along it stand for it
      const Polygon& ring = c.region.front();
      Vec2 a = ring.front();
      Vec2 b = ring.front();
      for (const Vec2 u : ring)
        for (const Vec2 v : ring)
          if (distance(u, v) > distance(a, b)) a = u, b = v;
      const double l = distance(a, b);
      for (double t = 0.8; t <= l - 0.8 + 1e-9; t += (l - 1.6) / std::ceil((l - 1.6) / 1.2))
        whole.request.holes.push_back({c.title, lerp(a, b, t / l), 1.2});
    }
  whole.request.misfit = d.misfit.at(bounds(s.corners).size() * 0.5);
  if (whole.request.sides.size() == 2) out.push_back(std::move(whole));
  if (const Placement* side = cuts.side("skim"); side != nullptr && !side->paths.empty()) {
    // What the saw left, back up: the outline itself is what is proved here.
    BodyPiece piece{"skim", side->title, base(p, d, area_mm2, cell)};
    piece.request.held = true;  // by screws through pocket and cavities
    PieceSide one;
    one.name = side->id;
    one.setup = side->setup;
    one.programs = texts_of(programs, side->id);
    one.design.outline = turned(side->setup.turn, s.corners);
    one.design.finished = [thick = s.thickness](Vec2) { return thick; };
    piece.request.sides.push_back(std::move(one));
    out.push_back(std::move(piece));
  }
  for (const Cover& c : s.covers) {
    const Placement* side = cuts.side(c.id);
    if (side == nullptr || side->paths.empty()) continue;
    BodyPiece piece{c.id, c.title, base(p, d, side->setup.blank.length * side->setup.blank.width, std::min(cell, 0.1))};
    PieceSide one;
    one.name = c.id;
    one.setup = side->setup;
    one.programs = texts_of(programs, c.id);
    one.design.outline = c.outline;
    one.design.cut_free = true;
    struct Hold {
      Vec2 at;
      double radius, bottom, point;
    };
    std::vector<Hold> holds;
    for (const BodyHole& h : c.holds) {
      const Cutter* drill = h.drilled ? drill_in_use(d.rack, h.diameter) : nullptr;
      holds.push_back({h.at, (drill != nullptr ? std::min(h.diameter, drill->effective_diameter()) : h.diameter) / 2,
                       h.depth == 0 ? -1e6 : c.thickness - h.depth, drill != nullptr ? drill->profile(1.0) : 0});
      if (h.depth == 0) piece.request.holes.push_back({h.id, h.at, h.diameter});
    }
    const auto thinned_middle =
        std::make_shared<const RegionMask>(c.thinned > 0 ? Region(offset({c.inside}, -1.0)) : Region{});
    one.design.finished = [thick = c.thickness, thin = c.thinned, thinned_middle, holds](Vec2 q) {
      double z = thinned_middle->holds(q) ? thick - thin : thick;
      for (const Hold& h : holds)
        if (distance(q, h.at) <= h.radius) z = std::min(z, h.bottom);
      return z;
    };
    piece.request.sides.push_back(std::move(one));
    out.push_back(std::move(piece));
  }
  return out;
}

Expected<BodyProof> prove_body(std::vector<BodyPiece> pieces, Progress* progress) {
  BodyProof out;
  const double count = static_cast<double>(std::max<std::size_t>(1, pieces.size()));
  double done = 0;
  for (BodyPiece& piece : pieces) {
    Progress inner([&](double share, std::string_view phase) {
      if (progress != nullptr && !progress->go_on((done + share) / count, phase)) inner.stop();
    });
    auto result = prove_piece(piece.request, &inner);
    if (!result) return tl::unexpected(result.error());
    out.seconds += result->seconds;
    if (!starts(piece.id, "layer")) {  // hidden walls are not held to the same measure
      out.worst_gouge = std::max(out.worst_gouge, result->worst_gouge);
      out.worst_left = std::max(out.worst_left, result->worst_left);
    }
    out.pieces.emplace_back(std::move(piece), std::move(*result));
    ++done;
  }
  return out;
}

bool BodyProof::passed() const {
  return !pieces.empty() && std::all_of(pieces.begin(), pieces.end(), [](const auto& p) { return p.second.passed(); });
}

const ProofResult* BodyProof::side(const std::string& id) const {
  for (const auto& [piece, result] : pieces)
    for (std::size_t k = 0; k < piece.request.sides.size(); ++k)
      if (piece.request.sides[k].name == id) return &result.sides[k];
  return nullptr;
}

}  // namespace wren
