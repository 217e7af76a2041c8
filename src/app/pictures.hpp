// The pictures a part has: one table. A part without an entry is drawn from its pieces' own shapes, so that a new part
// is seen at once.
#pragma once

#include <QPagedPaintDevice>

#include "app/board_painter.hpp"
#include "app/workbench.hpp"
#include "exchange/body_out.hpp"

namespace wren::app {

/// What is cut on one side, on the bed. World: work frame.
using PaintSide = void (*)(QPainter&, const Followed&, const Planned&, const Side&, const QTransform&, bool for_paper);

/// The part as a whole, on a sheet's first page. World box in `low`, `high`.
struct WholePicture {
  Vec2 low, high;
  double tall = 92;  // mm on paper
  std::function<void(QPainter&, const QTransform&)> draw;
  QString words;
};

struct PartPictures {
  std::map<Look, QWidget*> views;                            // where there is none the generic ones are shown
  std::function<void(double x, double y)> look_at;           // a remark's place
  std::function<void(const std::string& line)> line_chosen;  // picks up what a line wants of a picture
  bool tall = false;                                         // its numbers stand beside it, not under it
};

/// Makes the part's own views; empty where it has none.
[[nodiscard]] PartPictures make_pictures(const std::string& part, Workbench& bench, QWidget* parent);
/// Never null: the part's own painter, or the one that draws any side from its operations.
[[nodiscard]] PaintSide side_painter(const std::string& part);
[[nodiscard]] std::optional<WholePicture> whole_picture(const std::string& part, const Followed& followed);

/// A part whose outline can be slid over its blank in the picture of the bed.
struct SlideOver {
  std::string along, across;  // ledger keys; empty: not that way
  std::string turn;           // degrees, over the strips of its blank; empty: it cannot be turned
  Vec2 middle;                // of the blank, the part's frame: it is turned about it
  Polygon outline;            // the part's frame
  double treble = 1;          // sign of y on the treble side
};
/// Nothing for a part that lies in the middle of its blank and nowhere else.
[[nodiscard]] std::optional<SlideOver> slide_over(const std::string& part, const Followed& followed);

/// Draws any side from its set-up and operations: blank, what is cut, holes in the waste board, clamps, zero.
void paint_any_side(QPainter& g, const Followed& followed, const Planned& planned, const Side& side,
                    const QTransform& to_screen, bool for_paper);

/// How something goes on paper: which, the reader's units, and the hand router that follows a template.
struct PaperChoice {
  QString paper = QStringLiteral("a4");  // "a4", "a3", "letter"
  UnitSystem units = UnitSystem::millimetre;
  RouterOffset router;
};
/// A part's templates at full size; null where it has none.
using PrintTemplates = void (*)(QPagedPaintDevice& device, const Followed& followed, const PaperChoice& choice);
struct Templates {
  PrintTemplates print = nullptr;
  bool routed = false;  // their size follows the hand router's cutter and bearing
};
[[nodiscard]] Templates templates_of(const std::string& part);
[[nodiscard]] Expected<void> write_templates_pdf(const std::string& path, const std::string& part,
                                                 const Followed& followed, const PaperChoice& choice);

}  // namespace wren::app
