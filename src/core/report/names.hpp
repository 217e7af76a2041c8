// What people call things, made fit for where it is written: one function for each place.
#pragma once

#include <string>
#include <string_view>

namespace wren {

/// For the name of a file, and for ids that become part of one: "Upland Wren" to "upland-wren"; letters, digits and
/// single dashes, at most 40; "project" where nothing is left.
[[nodiscard]] std::string file_safe(std::string_view name);

/// For a comment of RS-274 (NIST RS274NGC 3, 3.3.3.6): no brackets, no line ends, ASCII; at most 180.
[[nodiscard]] std::string comment_safe(std::string_view text);

/// For text and attributes of XML 1.0 (W3C, 2.2 and 2.4): escaped, without the characters that it does not know.
[[nodiscard]] std::string xml_safe(std::string_view text);

/// For names of layers in R12 of DXF: capital letters, digits, '_', '-', '$', and the point of a place, at most 31; "0"
/// where nothing is left.
[[nodiscard]] std::string dxf_safe(std::string_view name);

}  // namespace wren
