// Small pieces of project files that several parts read and write alike. Problems name the JSON path.
#pragma once

#include <nlohmann/json.hpp>

#include "core/document/project.hpp"
#include "core/plan/geometry.hpp"

namespace wren {

using Json = nlohmann::ordered_json;

[[nodiscard]] Json points_to_json(const std::vector<Vec2>& points);
/// A list of at most `most` points, each coordinate under `reach` mm.
[[nodiscard]] Expected<std::vector<Vec2>> points_from_json(const Json& j, const std::string& where, std::size_t most,
                                                           double reach);

[[nodiscard]] Json rack_to_json(const Rack& rack);
[[nodiscard]] Expected<Rack> rack_from_json(const Json& j);
/// The project's own materials, and copies of those of the table that it uses: a later table does not change a project.
[[nodiscard]] Json materials_to_json(const Materials& own, const Materials& copies);
/// The project's own, and copies that differ from the table's.
[[nodiscard]] Expected<Materials> materials_from_json(const Json& j);
[[nodiscard]] Json measures_to_json(const std::vector<Measured>& measures);
[[nodiscard]] Expected<std::vector<Measured>> measures_from_json(const Json& j);
[[nodiscard]] Json pictures_to_json(const std::vector<PlacedPicture>& pictures);
[[nodiscard]] Expected<std::vector<PlacedPicture>> pictures_from_json(const Json& j);
/// Facts, the numbers behind them, and the programs' folder.
[[nodiscard]] Json facts_to_json(const Record& record);
[[nodiscard]] std::optional<Problem> facts_from_json(const Json& j, Record& record);

/// What `all` has that `mine` has not, keys of entries in lists too; an empty object where there is nothing.
[[nodiscard]] Json left_over_keys(const Json& all, const Json& mine);
/// Puts such left-over keys back where they stood; what is there already is not overwritten.
void put_back(Json& into, const Json& left);

/// Brings a document of an older format up to the present one, step by step.
void migrate(Json& doc, std::int64_t version);

}  // namespace wren
