// Finding: one fault of a set of programs, with the rule it breaks (docs/proof.md), its place, and how often it occurs.
#pragma once

#include <cstdint>
#include <string>

#include "core/plan/geometry.hpp"
#include "core/report/remark.hpp"

namespace wren {

struct Finding {
  std::string kind;  // "gouge", "rapid_in_wood", …: documented in docs/proof.md
  Weight weight = Weight::stop;
  Words text;
  std::string program;
  std::uint32_t line = 0;  // 0: not at a line
  Vec3 at;                 // work frame
  double number = 0;
  double limit = 0;
  std::string rule{};     // "M1" … "P8": of docs/proof.md
  std::size_t count = 1;  // places at which the same fault stands; this is the worst
};

}  // namespace wren
