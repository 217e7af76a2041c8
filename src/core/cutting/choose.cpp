#include "core/cutting/choose.hpp"

#include <algorithm>

namespace wren {

const Cutter* widest_that_goes(const Rack& rack, const Region& region, double depth) {
  const auto reaches = [&](const Cutter& c) { return c.cutting_length + 0.01 >= depth && c.stickout > depth + 1; };
  const Cutter* best = nullptr;
  for (const Cutter& c : rack) {
    if (c.kind != CutterKind::flat || offset(region, -(c.radius() - goes_in)).empty()) continue;
    if (best == nullptr || (reaches(c) == reaches(*best) ? c.radius() > best->radius() : reaches(c))) best = &c;
  }
  return best;
}

const Cutter* drill_in_use(const Rack& rack, double diameter) {
  const Cutter* best = nullptr;
  for (const Cutter& c : rack)
    if (c.kind == CutterKind::drill && c.effective_diameter() <= diameter + 0.05 &&
        (best == nullptr || c.effective_diameter() > best->effective_diameter()))
      best = &c;
  return best;
}

const Cutter* one_that_reaches(const Rack& rack, const Cutter& like, double flutes, double stickout) {
  // What is cleared by a thinner cutter is as wide; a drill's hole is as thin as the drill.
  const double least = (like.kind == CutterKind::drill ? 0.9 : 0.4) * like.effective_diameter();
  const Cutter* best = nullptr;
  for (const Cutter& o : rack)
    if (o.kind == like.kind && o.effective_diameter() <= like.effective_diameter() + 0.01 &&
        o.effective_diameter() > least && o.cutting_length >= flutes && o.stickout > stickout &&
        (best == nullptr || o.effective_diameter() > best->effective_diameter()))
      best = &o;
  return best;
}

}  // namespace wren
