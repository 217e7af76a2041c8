#include "core/job/number_words.hpp"

#include <algorithm>
#include <array>

namespace wren {
namespace {

struct Choice {
  const char* key;  // empty: whatever the field
  const char* id;
  const char* words;
};

constexpr std::array choices{
    Choice{"", "separate_board", "separate board"},
    Choice{"", "soft_v", "soft V"},
    Choice{"", "flat_first", "flat cuts first"},
    Choice{"", "crown_first", "crown first"},
    Choice{"board.blank.lie", "x", "machine's x"},
    Choice{"board.blank.lie", "y", "machine's y"},
    Choice{"neck.blank.lie", "x", "machine's x"},
    Choice{"neck.blank.lie", "y", "machine's y"},
    Choice{"body.blank.lie", "x", "machine's x"},
    Choice{"body.blank.lie", "y", "machine's y"},
    Choice{"strings.spacing", "centres", "equal centres"},
    Choice{"strings.spacing", "gaps", "equal gaps"},
    Choice{"body.school", "action", "string height"},
    Choice{"body.school", "flat", "strings on frets"},
    Choice{"body.outline_school", "full", "to full depth"},
    Choice{"body.outline_school", "halves", "half each side"},
    Choice{"body.outline_school", "guide", "groove, then saw"},
    Choice{"body.turn", "none", "not turned over"},
    Choice{"neck.turn", "none", "not turned over"},
    Choice{"body.turn", "length", "long axis"},
    Choice{"neck.turn", "length", "long axis"},
    Choice{"body.turn", "width", "short axis"},
    Choice{"neck.turn", "width", "short axis"},
    Choice{"frets.when", "board_glued", "board glued"},
    Choice{"frets.when", "board_loose", "board still loose"},
    Choice{"frets.held", "pressing_and_glue", "pressing and glue"},
    Choice{"frets.held", "glue", "glue in loose slots"},
    Choice{"strings.spread_from", "given", "a number"},
    Choice{"strings.spread_from", "pieces", "single pieces"},
    Choice{"marks.side", "ticks", "ticks over the edge"},
    Choice{"body.pocket_from", "measured_heel", "measured heel"},
    Choice{"body.pocket_from", "numbers", "numbers alone"},
    Choice{"body.pocket_from", "sample", "sample in scrap"},
    Choice{"bridge.kind", "pieces", "single pieces"},
    Choice{"bridge.holes", "with_body", "with the body"},
    Choice{"bridge.holes", "held_back", "once neck is on"},
    Choice{"wire.jack_when", "body_bare", "in bare body"},
    Choice{"wire.jack_when", "body_finished", "by guide, finished"},
    Choice{"body.outline_when", "last", "last of all"},
    Choice{"body.outline_when", "first", "first, on tabs"},
    Choice{"board.outline_when", "last", "last of all"},
    Choice{"board.outline_when", "first", "first, on tabs"},
    Choice{"neck.alignment", "ticks", "engraved ticks"},
    Choice{"body.alignment", "ticks", "engraved ticks"},
};

struct Group {
  const char* begins;
  const char* title;
};

constexpr std::array groups{
    Group{"project.", "Project"},
    Group{"strings.", "Strings and scale"},
    Group{"frets.", "Frets and wire"},
    Group{"board.", "Board"},
    Group{"board.blank.", "Board's blank"},
    Group{"crown.", "Crown"},
    Group{"slot.", "Slots"},
    Group{"marks.", "Marks"},
    Group{"outline.", "Board's outline"},
    Group{"setup.", "Place on the machine"},
    Group{"programs.", "Programs"},
    Group{"neck.", "Neck"},
    Group{"neck.blank.", "Neck's blank"},
    Group{"neck.heel_", "Heel"},
    Group{"neck.tenon_", "Tenon"},
    Group{"neck.pin_", "Pins"},
    Group{"neck.fence_", "Fence"},
    Group{"necksetup.", "Jog distances"},
    Group{"rod.", "Truss rod"},
    Group{"nut.", "Nut"},
    Group{"head.", "Head"},
    Group{"tuner.", "Tuners"},
    Group{"scarf.", "Scarf joint"},
    Group{"body.", "Body"},
    Group{"body.blank.", "Body's blank"},
    Group{"body.pocket_", "Neck pocket"},
    Group{"body.pin_", "Pins"},
    Group{"body.fence_", "Fence"},
    Group{"bridge.", "Bridge"},
    Group{"saddle.", "Saddles"},
    Group{"action.", "String height over the frets"},
    Group{"pickup.", "Pickups"},
    Group{"pickup.neck.", "Pickup at the neck"},
    Group{"pickup.middle.", "Pickup in the middle"},
    Group{"pickup.bridge.", "Pickup at the bridge"},
    Group{"control.", "Controls"},
    Group{"chamber.", "Chambers"},
    Group{"wire.", "Wires and jack"},
    Group{"cover.", "Cover"},
    Group{"coupon.", "Test coupon"},
    Group{"cradle.", "Cradle"},
    Group{"caul.", "Caul"},
    Group{"plate.", "Scratch plate"},
    Group{"sample.", "Heel's sample"},
    Group{"measured.", "Measured"},
    Group{"machine.", "Machine"},
    Group{"rack.", "Cutter rack"},
    Group{"material.", "Materials"},
    Group{"cuts.", "Of the cut"},
};

}  // namespace

std::string choice_words(const std::string& key, const std::string& id) {
  const Choice* found = nullptr;
  for (const Choice& c : choices)
    if (id == c.id && (key == c.key || (c.key[0] == '\0' && found == nullptr))) found = &c;
  if (found != nullptr) return found->words;
  std::string words = id;
  std::replace(words.begin(), words.end(), '_', ' ');
  return words;
}

Words number_group(const std::string& key) {
  const Group* found = nullptr;
  std::size_t longest = 0;
  for (const Group& g : groups)
    if (const std::string begins = g.begins; key.starts_with(begins) && begins.size() > longest) {
      found = &g;
      longest = begins.size();
    }
  if (found == nullptr) return "Other numbers";
  const std::string begins = found->begins;
  if (begins != "rack." && begins != "material.") return found->title;
  // Each cutter and each wood under its own name, which may have a point in it; the number's own has none.
  const std::size_t end = key.rfind('.');
  if (end == std::string::npos || end < begins.size()) return found->title;
  const std::string name = key.substr(begins.size(), end - begins.size());
  return begins == "rack." ? worded("Cutter {}", name) : worded("Material {}", name);
}

}  // namespace wren
