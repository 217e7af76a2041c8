#include <algorithm>
#include <tuple>

#include "core/program/reader.hpp"

namespace wren {

bool ReadMoves::Less::operator()(const ReadMove& a, const ReadMove& b) const {
  const auto all = [](const ReadMove& m) {
    return std::tie(m.feed, m.rpm, m.kind, m.plane, m.clockwise, m.spindle, m.backwards, m.waited, m.machine, m.known,
                    m.tool);
  };
  return all(a) < all(b);
}

void ReadMoves::push_back(const ReadMove& move) {
  ReadMove said = move;
  said.to = said.centre = {};
  said.line = 0;
  std::uint32_t number = kept_.empty() ? 0 : kept_.back().said;
  if (kept_.empty() || Less()(said, said_[number]) || Less()(said_[number], said)) {
    const auto [it, fresh] = number_.try_emplace(said, static_cast<std::uint32_t>(said_.size()));
    if (fresh) said_.push_back(said);
    number = it->second;
  }
  if (move.kind == ReadKind::arc) centres_.emplace_back(kept_.size(), move.centre);
  kept_.push_back({move.to, move.line, number});
}

ReadMove ReadMoves::operator[](std::size_t i) const {
  const Kept& k = kept_[i];
  ReadMove out = said_[k.said];
  out.to = k.to;
  out.line = k.line;
  if (out.kind == ReadKind::arc)
    out.centre = std::lower_bound(centres_.begin(), centres_.end(), i, [](const auto& c, std::size_t at) {
                   return c.first < at;
                 })->second;
  return out;
}

}  // namespace wren
