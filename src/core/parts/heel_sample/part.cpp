#include "core/parts/heel_sample/part.hpp"

#include "core/document/field_makers.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/flat.hpp"

namespace wren {
namespace {

constexpr double past_the_pocket = 12;  // mm of the sample that stand out of it, to pull it by

struct SampleDesign {
  static constexpr const char* part = "heel-sample";
  FlatPart flat;
  Rack rack;
  std::vector<Remark> remarks;
};

Expected<Design> design(const PartInput& in) {
  const BodyNumbers& b = body_of(in.project);
  const NeckShape& n = in.designs.shape<NeckDesign>().shape;
  SampleDesign d;
  d.rack = in.project.rack;
  d.flat.id = "heel-sample";
  d.flat.title = "Heel sample";
  d.flat.thickness = b.work.sample_thickness;
  d.flat.wood = in.designs.shape<NeckDesign>().wood;
  const double from = n.end_x - b.body.outline.pocket - past_the_pocket;
  const Region heel =
      intersected({n.corners}, {{{from, -400}, {n.end_x + 99, -400}, {n.end_x + 99, 400}, {from, 400}}});
  if (const Polygon* one = widest(heel)) d.flat.outline = *one;
  const bool wanted = b.body.setup.from == PocketFrom::sample && d.flat.outline.size() >= 3;
  Design out = design_of(std::move(d));
  out.present = wanted;
  return out;
}

}  // namespace

PartKind heel_sample_part() {
  PartKind kind;
  kind.table = {
      "heel-sample", "Heel sample", {measure_field("sample.heel_width", "Sample's width at its end", 5, 200)}};
  kind.needs = {"neck", "body"};  // whose pocket it is tried in
  kind.small = true;
  kind.design = design;
  kind.pieces = [](const PartInput& in) {
    Pieces out;
    const auto& d = in.designs.shape<SampleDesign>();
    const BodyWork w = body_of(in.project).work;
    if (find_cutter(d.rack, w.outline_cutter) == nullptr) return out;
    Side side = flat_side(in.project.machine, d.flat, "Scrap for the heel's sample");
    side.title = "Heel sample, its face up";
    Operation& op =
        flat_outline(side, w, d.flat, "Heel sample, with tabs", {"body.outline_cutter", "body.sample_thickness"});
    op.check = {{"Sand the tabs off; measure the width at its end and enter it."}};
    op.caution = {{"Check tape and tabs before this one: a free sample meets a turning cutter and flies."}};
    Piece piece{"heel-sample", "The heel's sample", {std::move(side)}, 0.1, false, {}};
    piece.target = [w, flat = d.flat](PieceRequest& r) { flat_target(w, flat, r); };
    out.pieces.push_back(std::move(piece));
    return out;
  };
  kind.numbers = [](const PartInput& in) {
    Numbers n;
    n.length("sample.heel_width", "Sample's width",
             2 * in.designs.shape<NeckDesign>().shape.taper(in.designs.shape<NeckDesign>().shape.end_x).half,
             "at its end, as the neck's heel is designed");
    return n.take();
  };
  kind.lines = [](const PartInput*, const Project& p) -> PartLines {
    BuildLine measure{"heel-sample.measure",
                      "Measure and try the sample",
                      LineState::ready,
                      {"sample.heel_width", "measured.sample.heel_width"},
                      Look::side};
    if (measured_in_use(p.record.measured, "sample.heel_width") != nullptr) measure.state = LineState::measured;
    measure.hint = "Enter what the sample measures at its end: the pocket follows it.";
    return {{heading("Heel sample"),
             {"heel-sample.shape", "Heel sample in scrap", LineState::ready, {"body.sample_thickness"}, Look::bed}},
            {measure}};
  };
  kind.words = [](const PartInput& in) {
    const auto& d = in.designs.shape<SampleDesign>();
    SheetWords out;
    const Vec2 size = bounds(d.flat.outline).size();
    out.facts = {{"Sample", {"{} × {}, {} thick, any sound scrap", {size.x, size.y, d.flat.thickness}}}};
    out.by_hand = {{"The pocket is cut after it: measured at its end with calipers, and tried in the first pocket."}};
    out.materials = {d.flat.wood};
    out.boxes = {"Scrap measured", "Width at its end", "Cut by, date"};
    return out;
  };
  kind.mesh = [](const PartInput& in, double) { return flat_mesh(in.designs.shape<SampleDesign>().flat, {}); };
  return kind;
}

}  // namespace wren
