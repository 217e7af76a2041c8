#include "core/report/problem.hpp"

namespace wren {

std::string Problem::text(const Audience& audience) const {
  std::string out;
  if (!where.empty()) out += where + ": ";
  out += what.in(audience);
  if (!out.empty() && out.back() != '.') out += '.';
  if (const std::string next = todo.in(audience); !next.empty()) out += ' ' + next + (next.back() == '.' ? "" : ".");
  return out;
}

}  // namespace wren
