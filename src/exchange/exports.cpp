#include "exchange/exports.hpp"

#include "core/parts/body/part.hpp"
#include "exchange/solid_out.hpp"

namespace wren {
namespace {

const NeckShape& neck_shape(const Followed& f) { return f.designs.shape<NeckDesign>().shape; }
const BodyShape& body_shape(const Followed& f) { return f.designs.shape<BodyDesign>().shape; }

Expected<std::string> stl(const PartKind& kind, const Followed& f, Cache& cache, const ExportChoice&) {
  if (kind.mesh == nullptr)
    return fail(ProblemKind::unsupported, "the part '" + kind.title() + "' has no solid to export", kind.id(),
                "Choose another part");
  return stl_bytes(kind.mesh(f.input(cache), mesh_for_export), f.project.name + " " + kind.id());
}

}  // namespace

const std::vector<ExportFormat>& export_formats() {
  static const std::vector<ExportFormat> formats{
      {"", ".stl", "", "Solid as STL", stl, ""},
      {NeckDesign::part, ".step", "", "Solid as STEP", nullptr, "wren-step"},
      {NeckDesign::part, ".stp", "", "", nullptr, "wren-step"},
      {NeckDesign::part, ".dxf", "sections", "Sections as DXF",
       [](const PartKind&, const Followed& f, Cache&, const ExportChoice&) -> Expected<std::string> {
         return sections_dxf(neck_shape(f), usual_places(neck_shape(f)));
       },
       ""},
      {NeckDesign::part, ".dxf", "plan", "Plan as DXF",
       [](const PartKind&, const Followed& f, Cache&, const ExportChoice&) -> Expected<std::string> {
         return plan_dxf(neck_shape(f));
       },
       ""},
      {NeckDesign::part, ".csv", "", "Sections as CSV",
       [](const PartKind&, const Followed& f, Cache&, const ExportChoice&) -> Expected<std::string> {
         return sections_csv(neck_shape(f), usual_places(neck_shape(f)));
       },
       ""},
      {NeckDesign::part, ".pdf", "", "Templates at full size as PDF", nullptr, "upland-wren"},
      {BodyDesign::part, ".dxf", "", "Outline and cavities as DXF",
       [](const PartKind&, const Followed& f, Cache&, const ExportChoice& c) -> Expected<std::string> {
         return body_dxf(body_shape(f), c.router);
       },
       ""},
      {BodyDesign::part, ".svg", "", "Outline and cavities as SVG",
       [](const PartKind&, const Followed& f, Cache&, const ExportChoice& c) -> Expected<std::string> {
         return body_svg(body_shape(f), c.router);
       },
       ""},
      {BodyDesign::part, ".pdf", "", "Templates for a hand router as PDF", nullptr, "upland-wren"}};
  return formats;
}

const ExportFormat* find_export(const std::string& part, const std::string& ending, const std::string& what) {
  for (const ExportFormat& f : export_formats())
    if ((f.part.empty() || f.part == part) && f.ending == ending && (what.empty() || f.what.empty() || f.what == what))
      return &f;
  return nullptr;
}

std::string usual_export_part(const std::string& ending) {
  std::string first;  // a solid goes out for every part: the first that has drawings too is meant
  for (const ExportFormat& f : export_formats()) {
    if (f.part.empty()) continue;
    if (f.ending == ending) return f.part;
    if (first.empty()) first = f.part;
  }
  return first;
}

std::string export_endings(const std::string& part) {
  std::string out;
  for (const ExportFormat& f : export_formats())
    if ((f.part.empty() || f.part == part) && !f.title.empty() && out.find(f.ending) == std::string::npos)
      out += (out.empty() ? "" : ", ") + f.ending;
  return out;
}

}  // namespace wren
