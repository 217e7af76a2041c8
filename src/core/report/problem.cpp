#include "core/report/problem.hpp"

namespace wren {

std::string Problem::text() const {
  std::string out;
  if (!where.empty()) out += where + ": ";
  out += what;
  if (!out.empty() && out.back() != '.') out += '.';
  if (!todo.empty()) out += ' ' + todo + (todo.back() == '.' ? "" : ".");
  return out;
}

}  // namespace wren
