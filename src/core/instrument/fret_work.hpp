// What follows from how frets are held and when they are pressed, and from what fills the position marks. mm.
#pragma once

#include "core/instrument/fretboard.hpp"

namespace wren {

/// How much wider than the bare tang a slot should be.
struct SlotPlay {
  double least = 0;
  double most = 0;
};
/// Common practice: pressed frets want a slot barely wider than the tang; with a drop of glue a little more does; frets
/// that glue alone holds go into loose slots.
[[nodiscard]] SlotPlay slot_play(FretsHeld held);

namespace practice {
/// Share of the barbs' interference that spreads a slot: the rest crushes the wood beside them (from memory, rough;
/// a board of 6.35 mm bows by some 2 mm over its length).
constexpr double wedge_share = 0.05;
constexpr double back_bow_told = 0.3;
/// Bench minutes of a prepared board (common practice): pressing a set, and one round of clamps.
constexpr double pressing_minutes = 9;
constexpr double clamping_minutes = 25;
}  // namespace practice

/// How much each pressed fret spreads its slot, mm; 0 in a slot that is wider than the barbs, and where glue alone
/// holds.
[[nodiscard]] double slot_spread(const Instrument& in);

/// Height of the arc that the wedged frets bend a loose board into, backwards, between its outer frets. A strip whose
/// upper layer (as deep as the slots) is longer than the rest by the spread over the distance of the frets: curvature
/// κ = 6·ε·h₁·h₂/h³ (Timoshenko, Analysis of Bi-metal Thermostats, J. Opt. Soc. Am. 11, 1925, for two layers of equal
/// modulus), height κ·L²/8.
[[nodiscard]] double back_bow(const Fretboard& board);

/// Room in the marks under the crown, ticks over the edge included, mm³.
[[nodiscard]] double filling_volume(const Fretboard& board);
/// Deepest mark under the crown, and in how many goes resin is poured into it.
[[nodiscard]] double deepest_filling(const Fretboard& board);
[[nodiscard]] int pours_of(const Fretboard& board);

}  // namespace wren
