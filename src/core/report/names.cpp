#include "core/report/names.hpp"

#include <cctype>

namespace wren {
namespace {

bool plain(char c) { return std::isalnum(static_cast<unsigned char>(c)) != 0 && static_cast<unsigned char>(c) < 128; }

}  // namespace

std::string file_safe(std::string_view name) {
  std::string out;
  for (const char c : name) {
    if (plain(c))
      out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    else if (!out.empty() && out.back() != '-')
      out += '-';
  }
  out = out.substr(0, 40);
  while (!out.empty() && out.back() == '-') out.pop_back();
  return out.empty() ? "project" : out;
}

std::string comment_safe(std::string_view text) {
  std::string out;
  for (const char c : text) {
    if (c == '(' || c == '[')
      out += '<';
    else if (c == ')' || c == ']')
      out += '>';
    else if (c == '!' || c == '~')
      out += c == '!' ? '.' : '-';  // a controller may hold at the one and go on at the other
    else if (static_cast<unsigned char>(c) >= 32 && static_cast<unsigned char>(c) < 127)
      out += c;
    else if ((static_cast<unsigned char>(c) & 0xC0) != 0x80)
      out += '?';  // one sign for each character beyond ASCII
  }
  if (out.size() > 180) out.resize(180);
  return out;
}

std::string xml_safe(std::string_view text) {
  std::string out;
  for (const char c : text) switch (c) {
      case '&': out += "&amp;"; break;
      case '<': out += "&lt;"; break;
      case '>': out += "&gt;"; break;
      case '"': out += "&quot;"; break;
      case '\'': out += "&apos;"; break;
      default: out += static_cast<unsigned char>(c) < 32 ? ' ' : c;
    }
  return out;
}

std::string dxf_safe(std::string_view name) {
  std::string out;
  for (const char c : name.substr(0, 31))
    out += plain(c) ? static_cast<char>(std::toupper(static_cast<unsigned char>(c)))
                    : (std::string_view("-$_.").find(c) != std::string_view::npos ? c : '_');
  return out.empty() ? "0" : out;
}

}  // namespace wren
