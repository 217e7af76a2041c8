// What a body has beyond single numbers, as JSON: the drawn outline's nodes, sections of a carved face, further
// cavities.
#pragma once

#include <nlohmann/json.hpp>

#include "core/instrument/body.hpp"

namespace wren {

void body_to_json(const Body& body, nlohmann::ordered_json& doc);
/// Reads what is there into the body; the Problem names the JSON path.
[[nodiscard]] std::optional<Problem> body_from_json(const nlohmann::ordered_json& doc, Body& body);

}  // namespace wren
