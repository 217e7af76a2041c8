#include <fmt/format.h>
#include "golden/walk.hpp"

#include <cmath>

#include "core/job/programs.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/table.hpp"
#include "golden/sample.hpp"

namespace wren::golden {
namespace {

Json remarks_of_all(const std::vector<Remark>& all) {
  Json out = Json::array();
  std::vector<std::string> words;
  for (const Remark& r : all) words.push_back(r.kind + " " + fmt::to_string(std::lround(r.number * 1000)));
  std::sort(words.begin(), words.end());
  for (const auto& w : words) out.push_back(w);
  return out;
}

Json outline_of(const Polygon& p) {
  const Box2 box = bounds(p);
  return {std::lround(std::abs(signed_area(p)) * 10), std::lround(box.low.x * 1e4), std::lround(box.low.y * 1e4),
          std::lround(box.high.x * 1e4), std::lround(box.high.y * 1e4)};
}

template <class Holes>
Json holes_of(const Holes& holes) {
  Json out = Json::array();
  for (const auto& h : holes)
    out.push_back({std::lround(h.at.x * 1e4), std::lround(h.at.y * 1e4), std::lround(h.diameter * 1e4)});
  return out;
}

}  // namespace

Json walk(const Project& p) {
  Json out;
  Cache cache;
  const Parts& parts = all_parts();
  const Followed followed = follow(parts, p, cache);
  std::vector<const Planned*> all;
  std::vector<Planned> kept;
  kept.reserve(parts.kinds().size());
  for (const PartKind& kind : parts.kinds()) {
    const auto planned = plan(kind, followed, cache);
    // A cover is cut after its body, and stands with it here.
    const std::string group = kind.id() == "cover" ? "body" : kind.id();
    if (!planned) {
      if (kind.id() == group) out[group] = planned.error().text();
      continue;
    }
    kept.push_back(*planned);
    all.push_back(&kept.back());
    if (group == "waste-board" || group == "cradle") continue;
    const auto programs = programs_of(p, *planned, "");
    for (const Placement& s : planned->cuts.sides)
      if (!s.paths.empty()) out[group][s.id] = skin_after(texts_of(programs, s.id), planned->rack, s.setup);
    if (kind.id() == group) out[group]["remarks"] = remarks_of_all(remarks_of(kind, followed, &*planned));
  }
  if (followed.designs.find("fretboard"))
    out["fretboard"]["outline"] = outline_of(followed.designs.shape<BoardDesign>().board.corners);
  if (followed.designs.find("neck")) {
    out["neck"]["outline"] = outline_of(followed.designs.shape<NeckDesign>().cut_outline);
    out["neck"]["holes"] = holes_of(followed.designs.shape<NeckDesign>().shape.holes);
  }
  if (followed.designs.find("body")) {
    out["body"]["outline"] = outline_of(followed.designs.shape<BodyDesign>().shape.corners);
    out["body"]["holes"] = holes_of(followed.designs.shape<BodyDesign>().shape.holes);
  }
  for (const LedgerLine& l : ledger(parts, followed, cache, all))
    if (l.origin == Origin::derived && l.key.find("cuts.") == std::string::npos)
      if (const double* v = std::get_if<double>(&l.value)) out["numbers"][l.key] = std::round(*v * 1e6) / 1e6;
  return out;
}

}  // namespace wren::golden
