#include "exchange/fret_table.hpp"

#include <fmt/format.h>

namespace wren {

std::string fret_table_csv(const Fretboard& board) {
  std::string out =
      "fret,x_bass_string_mm,y_bass_string_mm,x_treble_string_mm,y_treble_string_mm,x_centre_mm,board_width_mm,tang_mm,"
      "cut_length_mm,bend_radius_mm,least_depth_mm\r\n";
  for (std::size_t i = 0; i < board.frets.size(); ++i) {
    const FretLine& f = board.frets[i];
    const FretWire& w = board.wire[i];
    const double depth =
        std::min({board.slot_depth(f.slot_bass), board.slot_depth(f.middle()), board.slot_depth(f.slot_treble)});
    out += fmt::format("{},{:.4f},{:.4f},{:.4f},{:.4f},{:.4f},{:.3f},{:.3f},{:.2f},{:.1f},{:.3f}\r\n", f.number,
                       f.bass_string.x, f.bass_string.y, f.treble_string.x, f.treble_string.y, f.middle().x,
                       w.board_width, w.tang, w.cut_length, w.bend_radius, depth);
  }
  return out;
}

std::string fret_table_text(const Fretboard& board) {
  std::string out = "fret   bass side  treble side   width    tang   cut to  bend to\n";
  for (std::size_t i = 0; i < board.frets.size(); ++i) {
    const FretLine& f = board.frets[i];
    const FretWire& w = board.wire[i];
    out += fmt::format("{:4} {:11.4f} {:12.4f} {:7.2f} {:7.2f} {:8.1f} {:>8}\n", f.number, f.bass_string.x,
                       f.treble_string.x, w.board_width, w.tang, w.cut_length,
                       w.bend_radius > 0 ? fmt::format("R {:.0f}", w.bend_radius) : "flat");
  }
  out += fmt::format("wire in all {:.0f} mm; lengths in mm, from the nut line along the board\n", board.total_wire);
  return out;
}

}  // namespace wren
