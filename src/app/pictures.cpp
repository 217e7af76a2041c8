#include "app/pictures.hpp"

#include "app/body_paper.hpp"
#include "app/body_views.hpp"
#include "app/designs.hpp"
#include "app/neck_paper.hpp"
#include "app/neck_views.hpp"
#include "app/paper_page.hpp"
#include "app/views.hpp"

namespace wren::app {
namespace {

struct Entry {
  const char* part;
  PartPictures (*make)(Workbench&, QWidget*);
  PaintSide paint;
  std::optional<WholePicture> (*whole)(const Followed&);
  Templates templates;
};

template <class T>
T* named(T* view, const QString& name) {
  view->setAccessibleName(name);
  return view;
}

PartPictures board_pictures(Workbench& bench, QWidget* parent) {
  auto* plan = named(new PlanView(bench, parent), QObject::tr("Plan of the board"));
  auto* side = named(new SideView(bench, parent), QObject::tr("Board from the side"));
  return {{{Look::plan, plan}, {Look::side, side}}, [plan](double x, double y) { plan->look_at({x, y}); }, {}};
}

PartPictures neck_pictures(Workbench& bench, QWidget* parent) {
  auto* plan = named(new NeckPlanView(bench, parent), QObject::tr("Plan of the neck"));
  auto* side = named(new NeckSideView(bench, parent), QObject::tr("Neck from the side, with a section"));
  auto* surface = named(new SurfaceView(bench, parent), QObject::tr("Bend of the neck's back"));
  return {{{Look::plan, plan}, {Look::side, side}, {Look::surface, surface}},
          [side](double x, double) { side->set_knife(x); },
          {}};
}

PartPictures body_pictures(Workbench& bench, QWidget* parent) {
  auto* plan = named(new BodyPlanView(bench, parent), QObject::tr("Plan of the body"));
  auto* side = named(new BodySideView(bench, parent), QObject::tr("Set-up from the side"));
  return {{{Look::plan, plan}, {Look::side, side}},
          [side](double x, double) { side->set_knife(x); },
          [plan](const std::string& line) { plan->set_editing(line == "body.outline"); },
          true};
}

void paint_board_side(QPainter& g, const Followed& f, const Planned& planned, const Side& side, const QTransform& t,
                      bool paper) {
  BoardInk ink;
  ink.for_paper = paper;
  paint_bed(g, f.designs.shape<BoardDesign>(), tabs_of(&planned, side.id).along, t, ink);
}

void paint_neck_side(QPainter& g, const Followed& f, const Planned& planned, const Side& side, const QTransform& t,
                     bool paper) {
  BoardInk ink;
  ink.for_paper = paper;
  std::vector<Vec2> tabs;
  for (const Vec2 at : tabs_of(&planned, side.id).at) tabs.push_back(turned(side.setup.turn, at));
  paint_neck_bed(g, f.designs.shape<NeckDesign>(), neck_of(f.project).work.alignment, tabs, side.setup, t, ink);
}

void paint_body_side(QPainter& g, const Followed& f, const Planned&, const Side& side, const QTransform& t,
                     bool paper) {
  paint_body_bed(g, f.designs.shape<BodyDesign>(), body_of(f.project).work.alignment, side.id, side.setup, t, paper);
}

std::optional<WholePicture> whole_body(const Followed& f) {
  const auto d = f.designs.shared<BodyDesign>();
  const Box2 box = bounds(d->shape.corners);
  return WholePicture{box.low - Vec2{24, 8}, box.high + Vec2{10, 8}, 92,
                      [d](QPainter& g, const QTransform& t) {
                        BodyInk ink;
                        ink.for_paper = true;
                        paint_body(g, *d, t, ink);
                      },
                      QObject::tr("Solid: from the face. Dashed: from the back. Dotted: under the top. Arrows at the "
                                  "edge: drilled by hand. Not to scale.")};
}

void neck_templates(QPagedPaintDevice& device, const Followed& f, const PaperChoice& choice) {
  print_neck_templates(device, f.project, f.designs.shape<NeckDesign>(), choice);
}

void body_templates(QPagedPaintDevice& device, const Followed& f, const PaperChoice& choice) {
  print_body_templates(device, f.project, f.designs.shape<BodyDesign>(), choice);
}

const Entry* entry(const std::string& part) {
  static const Entry table[] = {{BoardDesign::part, board_pictures, paint_board_side, nullptr, {}},
                                {NeckDesign::part, neck_pictures, paint_neck_side, nullptr, {neck_templates, false}},
                                {BodyDesign::part, body_pictures, paint_body_side, whole_body, {body_templates, true}}};
  for (const Entry& e : table)
    if (part == e.part) return &e;
  return nullptr;
}

}  // namespace

PartPictures make_pictures(const std::string& part, Workbench& bench, QWidget* parent) {
  const Entry* e = entry(part);
  return e != nullptr ? e->make(bench, parent) : PartPictures{};
}

PaintSide side_painter(const std::string& part) {
  const Entry* e = entry(part);
  return e != nullptr ? e->paint : paint_any_side;
}

std::optional<WholePicture> whole_picture(const std::string& part, const Followed& followed) {
  const Entry* e = entry(part);
  return e != nullptr && e->whole != nullptr && followed.designs.find(part) ? e->whole(followed) : std::nullopt;
}

std::optional<SlideOver> slide_over(const std::string& part, const Followed& followed) {
  if (!followed.designs.find(part)) return {};
  if (part == BodyDesign::part) {
    const auto& d = followed.designs.shape<BodyDesign>();
    const bool strips = std::any_of(d.joints.begin(), d.joints.end(), [](const auto& j) { return !j.empty(); });
    return SlideOver{"body.over_along", "body.over_across", strips ? "body.over_turn" : "",
                     d.blank_middle,    d.shape.corners,    d.shape.treble};
  }
  if (part == NeckDesign::part)
    return SlideOver{"",
                     "neck.over_across",
                     "",
                     {},
                     followed.designs.shape<NeckDesign>().cut_outline,
                     board_of(followed.project).instrument.strings.left_handed ? -1.0 : 1.0};
  return {};
}

Templates templates_of(const std::string& part) {
  const Entry* e = entry(part);
  return e != nullptr ? e->templates : Templates{};
}

Expected<void> write_templates_pdf(const std::string& path, const std::string& part, const Followed& followed,
                                   const PaperChoice& choice) {
  const Templates templates = templates_of(part);
  if (templates.print == nullptr)
    return fail(ProblemKind::unsupported, "the part '" + part + "' has no templates", "--part", "Choose another");
  if (const auto bad = check_router(choice.router)) return tl::unexpected(*bad);
  return write_pdf(path, QString::fromStdString(followed.project.name + ": " + part + ", templates at full size"),
                   [&](QPdfWriter& writer) { templates.print(writer, followed, choice); });
}

}  // namespace wren::app
