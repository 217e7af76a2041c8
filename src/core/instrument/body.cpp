#include "core/instrument/body.hpp"

#include <sstream>

#include <fmt/format.h>

#include "core/units/length.hpp"

namespace wren {

const std::vector<BridgeNumbers>& known_bridges() {
  // Usual sizes of such pieces (common practice); a maker measures the ones at hand.
  static const std::vector<BridgeNumbers> bridges = [] {
    std::vector<BridgeNumbers> out{BridgeNumbers{}};
    BridgeNumbers flat;
    flat.name = "plate-52";
    flat.kind = BridgeKind::plate;
    flat.low = 8;
    flat.high = 13;
    flat.travel = 14;
    flat.anchor_behind = 28;
    flat.anchor_height = 3;
    flat.string_through = true;
    flat.weight_g = 180;
    out.push_back(flat);
    BridgeNumbers wide = flat;
    wide.name = "plate-66";
    wide.low = 9.5;
    wide.high = 16;
    wide.travel = 18;
    wide.compensation_bass = 6;
    wide.compensation_treble = 3;
    wide.plate_length = 58;
    wide.plate_width = 96;
    wide.plate_ahead = 12;
    wide.screws = 4;
    wide.screw_diameter = 3.2;
    wide.screw_behind = 40;
    wide.anchor_behind = 33;
    wide.string_hole = 4;
    wide.ferrule = 9.5;
    wide.weight_g = 420;
    out.push_back(wide);
    BridgeNumbers single = flat;
    single.name = "single-pieces";
    single.kind = BridgeKind::pieces;
    single.low = 9;
    single.high = 14;
    single.travel = 16;
    single.screw_diameter = 2.4;
    single.screw_depth = 12;
    single.screw_behind = 6;
    single.anchor_behind = 22;
    single.string_through = false;
    single.weight_g = 190;
    out.push_back(single);
    return out;
  }();
  return bridges;
}

const std::vector<PickupNumbers>& known_pickups() {
  static const std::vector<PickupNumbers> pickups = [] {
    std::vector<PickupNumbers> out(1);
    PickupNumbers twin;
    twin.name = "twin-coil";
    out.push_back(twin);
    PickupNumbers single = twin;
    single.name = "single-coil";
    single.width = 18;
    single.length = 70;
    single.corner = 9;
    single.ear_length = 84;
    single.ear_width = 9;
    single.ear_depth = 19;
    single.screw_pitch = 77;
    single.weight_g = 55;
    out.push_back(single);
    PickupNumbers bar = twin;
    bar.name = "bar-five";
    bar.length = 101.6;
    bar.width = 38.1;
    bar.corner = 3.2;
    bar.poles = 66;
    bar.depth = 21;
    bar.ear_length = 0;  // screws go through its own corners
    bar.screw_pitch = 92;
    bar.weight_g = 190;
    out.push_back(bar);
    return out;
  }();
  return pickups;
}

Body usual_body() {
  Body body;
  body.layers.push_back({"top", 6.5, "ash"});
  body.layers.push_back({"body", 37.5, "cherry"});
  body.pickups[0] = known_pickups()[1];
  body.pickups[0].from_bridge = 141;
  body.pickups[2] = known_pickups()[1];
  body.pickups[2].from_bridge = 30;
  return body;
}

Expected<std::vector<BodyLayer>> layers_from(const std::string& text) {
  std::vector<BodyLayer> out;
  std::istringstream in(text);
  std::string part;
  const auto bad = [&](const Words& what) {
    return fail(ProblemKind::input, what, "body.layers",
                "Write name, wood and thickness of each layer from the face down: top ash 6.5; body cherry 37.5");
  };
  while (std::getline(in, part, ';')) {
    std::istringstream words(part);
    BodyLayer layer;
    std::string size;
    words >> layer.name >> layer.wood;
    std::getline(words, size);
    if (layer.name.empty()) continue;
    if (layer.wood.empty() || size.empty()) return bad(worded("'{}' does not give name, wood and thickness", part));
    const auto thick = parse_length(size);
    if (!thick) return bad(worded("the thickness of '{}' is not understood: {}", layer.name, thick.error().what));
    if (!(*thick >= 0.5 && *thick <= 120))
      return bad(worded("'{}' is {} thick; 0.5 to 120 is possible", layer.name, mm(*thick, 3)));
    layer.thickness = *thick;
    if (layer.name.size() > 30 || layer.wood.size() > 30) return bad("a name has more than 30 letters");
    out.push_back(std::move(layer));
    if (out.size() > most_layers) return bad(worded("more than {} layers", most_layers));
  }
  if (out.empty()) return bad("no layer is named");
  return out;
}

std::string layers_text(const std::vector<BodyLayer>& layers) {
  std::string out;
  for (const BodyLayer& l : layers)
    out += fmt::format("{}{} {} {}", out.empty() ? "" : "; ", l.name, l.wood, format_mm(l.thickness));
  return out;
}

}  // namespace wren
