// wren-step: writes a project's neck as a STEP solid (ISO 10303-21, AP214). A program of its own, so that only it
// carries the solid-modelling library; the window and `wren export` start it. With --check FILE it reads a STEP file
// back and tells validity and volume.
#include <iostream>
#include <numbers>

#include <BRepAlgoAPI_Cut.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <BRepOffsetAPI_ThruSections.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <GProp_GProps.hxx>
#include <GeomAPI_Interpolate.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <STEPControl_Reader.hxx>
#include <STEPControl_Writer.hxx>
#include <TColgp_HArray1OfPnt.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Shape.hxx>
#include <gp_Ax2.hxx>
#include <gp_Pnt.hxx>

#include "core/parts/neck/part.hpp"
#include "core/parts/table.hpp"
#include "core/instrument/neck_shape.hpp"

namespace {

using namespace wren;

gp_Pnt at(double x, double y, double z) { return {x, y, z}; }

/// A section across x as a closed wire: the back as an interpolated curve, walls and front straight.
TopoDS_Wire section(const NeckShape& n, double x, double low, double high) {
  constexpr int parts = 24;
  Handle(TColgp_HArray1OfPnt) points = new TColgp_HArray1OfPnt(1, parts + 1);
  for (int k = 0; k <= parts; ++k) {
    const double y = (low + high) / 2 - (high - low) / 2 * std::cos(std::numbers::pi * k / parts);
    // At the very edge the back meets the wall; a hair of wall keeps every section of one make.
    points->SetValue(k + 1,
                     at(x, y, -std::max(0.02, n.depth({x, std::clamp(y, low + 1e-5, high - 1e-5)}) + 0.0) + 0.0));
  }
  GeomAPI_Interpolate fit(points, Standard_False, 1e-7);
  fit.Perform();
  const double front_low = n.front({x, low});
  const double front_high = n.front({x, high});
  const gp_Pnt a = points->Value(1);
  const gp_Pnt b = points->Value(parts + 1);
  BRepBuilderAPI_MakeWire wire;
  wire.Add(BRepBuilderAPI_MakeEdge(fit.Curve()).Edge());
  wire.Add(BRepBuilderAPI_MakeEdge(b, at(x, high, front_high)).Edge());
  wire.Add(BRepBuilderAPI_MakeEdge(at(x, high, front_high), at(x, low, front_low)).Edge());
  wire.Add(BRepBuilderAPI_MakeEdge(at(x, low, front_low), a).Edge());
  return wire.Wire();
}

double volume_of(const TopoDS_Shape& shape) {
  GProp_GProps properties;
  BRepGProp::VolumeProperties(shape, properties);
  return properties.Mass();
}

/// `whole` turns false where holes and channels could not be taken off.
TopoDS_Shape solid_of(const NeckShape& n, bool& whole) {
  BRepOffsetAPI_ThruSections loft(Standard_True, Standard_True, 1e-6);
  loft.CheckCompatibility(Standard_False);
  const Box2 box = bounds(n.corners);
  double x = box.low.x + 0.3;
  while (true) {
    const auto edges = crossings(n.corners, {x, 0}, {0, 1});
    if (edges.size() >= 2) loft.AddWire(section(n, x, edges.front(), edges.back()));
    if (x >= box.high.x - 0.05 - 1e-9) break;
    // Close together where the outline or the back turns.
    const bool shaft = n.behind_nut({x, 0}) < n.head_blend_start - 2 && x < n.heel_x - n.heel_blend - 6;
    const double near_end = std::min(x - box.low.x, box.high.x - x);
    x = std::min(x + (shaft ? 6 : std::clamp(0.15 * near_end, 0.25, 1.5)), box.high.x - 0.05);
  }
  loft.Build();
  TopoDS_Shape solid = loft.Shape();
  TopTools_ListOfShape pieces;
  TopTools_ListOfShape tools;
  pieces.Append(solid);
  for (const Hole& h : n.holes) {
    const double down = -n.depth(h.at);
    const double deep = h.depth > 0 ? h.depth : n.depth(h.at) + n.front(h.at) + 4;
    tools.Append(
        BRepPrimAPI_MakeCylinder(gp_Ax2(at(h.at.x, h.at.y, h.depth > 0 ? down - 5 : down - 2), gp_Dir(0, 0, 1)),
                                 h.diameter / 2, h.depth > 0 ? deep + 5 : deep)
            .Shape());
  }
  for (const Channel& c : n.channels) {
    if (c.id == "nut" || c.from_back || n.given.rod.bottom == RodBottom::curved) continue;
    // Straight, level-floored troughs with round ends.
    const double floor = c.floor(c.a);
    const double tall = 5 - floor;
    const double l = distance(c.a, c.b);
    const Vec2 u = l > 0 ? unit(c.b - c.a) : Vec2{1, 0};
    const Vec2 corner = c.a - left_of(u) * (c.width / 2);
    tools.Append(BRepPrimAPI_MakeBox(gp_Ax2(at(corner.x, corner.y, floor), gp_Dir(0, 0, 1), gp_Dir(u.x, u.y, 0)),
                                     std::max(0.01, l), c.width, tall)
                     .Shape());
    for (const Vec2 end : {c.a, c.b})
      tools.Append(
          BRepPrimAPI_MakeCylinder(gp_Ax2(at(end.x, end.y, floor), gp_Dir(0, 0, 1)), c.width / 2, tall).Shape());
  }
  if (tools.IsEmpty()) return solid;
  BRepAlgoAPI_Cut cut;
  cut.SetArguments(pieces);
  cut.SetTools(tools);
  cut.SetFuzzyValue(1e-5);
  cut.Build();
  if (!cut.IsDone() || cut.HasErrors() || !BRepCheck_Analyzer(cut.Shape()).IsValid()) {
    whole = false;
    return solid;
  }
  return cut.Shape();
}

int refuse(const Problem& problem) {
  std::cerr << problem.text() << "\n";
  return 3;
}

int check(const char* path) {
  STEPControl_Reader reader;
  if (reader.ReadFile(path) != IFSelect_RetDone)
    return refuse({ProblemKind::format, "this is no STEP file", path, "Check the file"});
  reader.TransferRoots();
  const TopoDS_Shape shape = reader.OneShape();
  int solids = 0;
  int closed = 1;
  for (TopExp_Explorer e(shape, TopAbs_SOLID); e.More(); e.Next()) ++solids;
  for (TopExp_Explorer e(shape, TopAbs_SHELL); e.More(); e.Next()) closed = closed != 0 && e.Current().Closed() ? 1 : 0;
  std::cout << "{\"valid\": " << (BRepCheck_Analyzer(shape).IsValid() ? "true" : "false")
            << ", \"closed\": " << (closed != 0 ? "true" : "false") << ", \"solids\": " << solids
            << ", \"volume_mm3\": " << volume_of(shape) << "}\n";
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  Message::DefaultMessenger()->ChangePrinters().Clear();  // the library speaks on standard output otherwise
  if (argc == 3 && std::string(argv[1]) == "--check") return check(argv[2]);
  if (argc != 3) {
    std::cerr << "wren-step PROJECT.wren OUT.step | wren-step --check FILE.step\n";
    return 2;
  }
  const auto project = load_project(argv[1]);
  if (!project) return refuse(project.error());
  const auto board = make_fretboard(board_of(*project).instrument);
  if (!board) return refuse(board.error());
  const auto neck = make_neck(*board, neck_of(*project).neck);
  if (!neck) return refuse(neck.error());
  if (neck_of(*project).neck.build == NeckBuild::one_piece)
    return refuse({ProblemKind::unsupported, "a one-piece neck with its crowned board is not written as STEP yet",
                   "neck.build", "Export it as STL"});
  TopoDS_Shape solid;
  bool whole = true;
  try {
    solid = solid_of(*neck, whole);
  } catch (const Standard_Failure& e) {
    return refuse({ProblemKind::unsupported, std::string("the solid cannot be built: ") + e.GetMessageString(), argv[1],
                   "Export it as STL"});
  }
  Interface_Static::SetCVal("write.step.unit", "MM");
  STEPControl_Writer writer;
  writer.Transfer(solid, STEPControl_AsIs);
  if (auto may = may_export_to(argv[2]); !may) return refuse(may.error());
  // The library writes files only: into one of our own, which then takes its place as every other file does.
  const std::filesystem::path beside = std::filesystem::absolute(argv[2]).parent_path() / name_while_written();
  const bool done = writer.Write(beside.c_str()) == IFSelect_RetDone;
  const auto bytes = read_file(beside, 1U << 30);
  std::error_code ignored;
  std::filesystem::remove(beside, ignored);
  if (!done || !bytes)
    return refuse({ProblemKind::file, "the file cannot be written", argv[2], "Choose another folder"});
  if (auto written = write_export(argv[2], *bytes); !written) return refuse(written.error());
  if (!whole) {
    std::cerr << Problem{ProblemKind::unsupported,
                         "holes and channels could not be taken off: the solid is without them", argv[2],
                         "Export it as STL, or cut them off it yourself"}
                     .text()
              << "\n";
    return 1;
  }
  std::cout << argv[2] << "\n";
  return 0;
}
