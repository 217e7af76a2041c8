// What each part shows on the bench: its outline in plan, its profile from the side, what stands on it, and the numbers
// that are drawn and can be dragged there. One table, beside that of the parts' own pictures.
#pragma once

#include <functional>

#include <QPainter>
#include <QString>

#include "app/workbench.hpp"

namespace wren::app {

/// A number drawn on the bench. Where it has a key it can be dragged: moving the mouse by one millimetre along `way`
/// changes it by `per`.
struct BenchNumber {
  std::string key;  // ledger key; of a worked-out number where `way` is null
  QString name;     // "Spread at the bridge"
  double value = 0;
  Vec2 at;    // plan: x, y; side: x, z
  Vec2 from;  // the measure's other end
  Vec2 way;   // zero: only shown
  double per = 1;
  bool side = false;
};

/// In the bench's frame: that of the body in plan, z up from its face; without a body, the neck's.
struct OnBench {
  Polygon outline;                                               // plan
  Polygon profile;                                               // from the side: x, z
  std::function<void(QPainter&, const QTransform&)> plan, side;  // what stands on it
  std::vector<BenchNumber> numbers;
  std::vector<std::string> facts;  // ledger keys of what hangs on several numbers: balance, break angles
};

/// Nothing for a part that has no place on the instrument, or none follows.
[[nodiscard]] OnBench on_bench(const std::string& part, const Followed& followed);

}  // namespace wren::app
