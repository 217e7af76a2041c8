// Overview: how far every section of the build sheet is, what waits for what, and what is next: what the bench shows
// and the folded heads of the build sheet say. Made of the sheet's lines and the parts' remarks; knows no part by name.
#pragma once

#include <set>

#include "core/job/build_sheet.hpp"

namespace wren {

/// What the numbers and programs of a part are worth.
enum class Standing { open, waits, ready, older, proved, refused };
/// "open question", "waits", "ready, not proved", "proved for older numbers", "proved", "not proved".
[[nodiscard]] const char* standing_name(Standing standing);

/// What was made of it in wood. Spoiled: it was begun again from a new blank, and nothing of that is cut yet.
enum class WoodState { none, spoiled, begun, cut, measured };
[[nodiscard]] const char* wood_state_name(WoodState state);

/// One folding section of the build sheet.
struct SectionState {
  std::string id;
  Words title;
  Standing standing = Standing::ready;
  WoodState wood = WoodState::none;
  /// Steps: cuts, rehearsal, programs, sheets, measures, and questions that are open. A number that is answered is
  /// none.
  std::size_t done = 0;
  std::size_t of = 0;
  std::size_t cuts = 0;  // that there are to make
  std::size_t cuts_done = 0;
  double seconds_left = 0;  // of cuts not made yet
  std::size_t stops = 0;    // remarks that stop the work
  std::size_t older = 0;    // made or written from other numbers than those of now
  bool made = false;        // something is made in it: a rehearsal stands among its lines
  bool has_next = false;
};

/// A line that cannot go on before another.
struct Wait {
  std::string line;  // that waits
  std::string on;    // for this one; empty where it waits for no line but a fact
  Words fact;        // the sentence of its note: "Waits for the neck, sanded and measured: Heel width."
};

struct NextStep {
  BuildLine line;
  Words section;  // title of where it stands
  Words why;      // the question, or what is to do here
};

struct Overview {
  std::vector<SectionState> sections;  // in the sheet's order
  std::vector<Wait> waits;
  std::optional<NextStep> next;  // nothing: everything is made and measured
};

/// `refused`: parts whose programs of now were rehearsed and not proved. `remarks` of every part, by part.
[[nodiscard]] Overview overview_of(const Parts& parts, const Followed& followed,
                                   const std::vector<const Planned*>& planned, const std::vector<BuildLine>& sheet,
                                   const std::set<std::string>& refused = {});

/// A line or a number that somebody looks for.
struct FoundPlace {
  std::string line;   // of the build sheet
  std::string key;    // of the ledger; empty: the line itself
  Words title;        // "Pocket depth"
  Words place;        // "Body, Set-up and neck pocket"
  std::string value;  // as the ledger shows it
};
/// Lines and numbers whose words or key hold every word of `text`, whatever their case; those that begin with it first.
/// At most `most`; nothing for no words.
[[nodiscard]] std::vector<FoundPlace> find_in_job(const std::vector<BuildLine>& sheet,
                                                  const std::vector<LedgerLine>& ledger, const std::string& text,
                                                  const Audience& audience, std::size_t most = 40);

}  // namespace wren
