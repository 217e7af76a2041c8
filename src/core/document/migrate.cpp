// Older formats of project files, brought up one version at a time. A step is never changed once it was released: it
// says what the format was then, whatever the tables say today.
#include "core/document/json_pieces.hpp"

namespace wren {
namespace {

/// 1 → 2: the parts' numbers move from the top of the document into groups of their own, and records of what was
/// written, proved and cut are named after their part.
void into_parts(Json& doc) {
  // A test slot's width belongs to the cutter that cut it.
  if (const auto slot = doc.find("slot"); slot != doc.end() && slot->is_object() && slot->contains("measured_width")) {
    const Json width = (*slot)["measured_width"];
    const Json cutter = slot->contains("cutter") ? (*slot)["cutter"] : Json("slot-0.58");
    if (width.is_number() && doc.contains("rack") && doc["rack"].is_array())
      for (Json& c : doc["rack"])
        if (c.is_object() && c.contains("id") && c["id"] == cutter) c["measured"] = width;
    slot->erase("measured_width");
  }
  const auto move = [&](const char* part, std::initializer_list<const char*> groups) {
    Json own = Json::object();
    for (const char* group : groups)
      if (const auto it = doc.find(group); it != doc.end()) {
        own[group] = *it;
        doc.erase(it);
      }
    if (!own.empty()) doc["parts"][part] = std::move(own);
  };
  move("fretboard", {"strings", "frets", "board", "crown", "slot", "marks", "outline"});
  move("neck", {"neck", "rod", "nut", "head", "tuner"});
  move("body", {"body", "bridge", "pickup", "control", "chamber", "wire", "cover"});
  if (const auto it = doc.find("written"); it != doc.end() && it->is_array())
    for (Json& record : *it) {
      if (!record.is_object() || !record.contains("kind") || !record["kind"].is_string()) continue;
      const std::string kind = record["kind"].get<std::string>();
      const auto after = [&](const char* with) { return kind.substr(std::string(with).size()); };
      if (kind.starts_with("cut:"))
        record["kind"] = "fretboard.cut.top." + after("cut:");
      else if (kind.starts_with("neckcut."))
        record["kind"] = "neck.cut." + after("neckcut.");
      else if (kind.starts_with("bodycut.cover."))
        record["kind"] = "cover.cut." + after("bodycut.");
      else if (kind.starts_with("bodycut."))
        record["kind"] = "body.cut." + after("bodycut.");
      else if (kind.starts_with("neck-"))
        record["kind"] = "neck." + after("neck-");
      else if (kind.starts_with("body-"))
        record["kind"] = "body." + after("body-");
      else
        record["kind"] = "fretboard." + kind;
    }
}

/// 2 → 3: what happened stands as facts; what was written is read from the programs' own folders, of which the last one
/// is known.
void into_facts(Json& doc) {
  const auto it = doc.find("written");
  if (it == doc.end()) return;
  Json happened = Json::array();
  std::string folder;
  if (it->is_array())
    for (const Json& record : *it) {
      const auto text = [&](const char* key) {
        return record.is_object() && record.contains(key) && record[key].is_string() ? record[key].get<std::string>()
                                                                                     : std::string();
      };
      const std::string kind = text("kind");
      if (kind.ends_with(".programs")) folder = text("path");
      if (kind.ends_with(".proof") || kind.find(".cut.") != std::string::npos)
        happened.push_back({{"what", kind}, {"date", text("date")}, {"fingerprint", text("fingerprint")}});
    }
  doc["facts"] = {{"happened", happened}, {"programs_folder", folder}};
  doc.erase("written");
}

/// Older files leave out what newer ones name: pins whose play is not that of ground ones were measured.
void say_what_was_meant(Json& doc) {
  if (!doc.contains("parts") || !doc["parts"].is_object()) return;
  // A hole too narrow for a plate was a barrel's.
  if (Json& all = doc["parts"]; all.contains("body") && all["body"].is_object() && all["body"].contains("wire"))
    if (Json& wire = all["body"]["wire"]; wire.is_object() && !wire.contains("jack_kind") && wire.contains("jack") &&
                                          wire["jack"].is_number() && wire["jack"].get<double>() < 17)
      wire["jack_kind"] = "barrel";
  for (const char* part : {"neck", "body"}) {
    if (!doc["parts"].contains(part) || !doc["parts"][part].is_object() || !doc["parts"][part].contains(part)) continue;
    Json& own = doc["parts"][part][part];
    if (own.is_object() && !own.contains("pins") && own.contains("pin_play") && own["pin_play"].is_number() &&
        std::abs(own["pin_play"].get<double>() - 0.015) > 1e-9)
      own["pins"] = "measured";
  }
}

}  // namespace

void migrate(Json& doc, std::int64_t version) {
  if (version < 2) into_parts(doc);
  if (version < 3) into_facts(doc);
  say_what_was_meant(doc);
}

}  // namespace wren
