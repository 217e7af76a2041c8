// Everything a part can be written as: one table. A solid mesh goes out for every part; drawings belong to their part.
#pragma once

#include "core/job/follow.hpp"
#include "exchange/body_out.hpp"

namespace wren {

struct ExportChoice {
  std::string what;     // where a format has several contents: "sections", "plan"; empty: the first
  RouterOffset router;  // templates' and outlines' offset
};

struct ExportFormat {
  std::string part;    // empty: every part that has a shape to show
  std::string ending;  // ".stl"
  std::string what;
  std::string title;  // for a menu: "Plan as DXF"
  /// Bytes of the file; null where another program of the family writes it.
  Expected<std::string> (*write)(const PartKind&, const Followed&, Cache&, const ExportChoice&) = nullptr;
  std::string program;  // that program: "wren-step", "upland-wren" (papers)
};

[[nodiscard]] const std::vector<ExportFormat>& export_formats();
/// The format of a part by its ending and content; nullptr where there is none.
[[nodiscard]] const ExportFormat* find_export(const std::string& part, const std::string& ending,
                                              const std::string& what);
/// The part that a file of this ending is usual for: what --part means where it is left out; empty: none.
[[nodiscard]] std::string usual_export_part(const std::string& ending);
/// ".stl, .dxf or .pdf": for messages.
[[nodiscard]] std::string export_endings(const std::string& part);

}  // namespace wren
