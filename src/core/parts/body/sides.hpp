// The pieces of a body as they are built up, side by side: what its files share (layers, wood taken out, carves and
// edges, outline, the set-up once the neck is on). mm; side frame.
#pragma once

#include "core/cutting/choose.hpp"
#include "core/parts/body/part.hpp"
#include "core/parts/body/target.hpp"

namespace wren {

class BodySides {
 public:
  BodySides(const Project& p, const BodyDesign& d)
      : w_(body_of(p).work), d_(std::make_shared<const BodyDesign>(d)), s_(d_->shape) {}

  Pieces run();

 private:
  [[nodiscard]] const Cutter* cutter(const std::string& id) const { return find_cutter(d_->rack, id); }

  void keep(Piece piece);

  void begin(std::string id, Words title, const Setup& setup);

  /// How the wood comes to its place: bored here for its pins, onto pins that stand, or turned over.
  void align();

  Operation& add(std::string id, Words title, const std::string& cutter, Shape shape, const char* key,
                 std::vector<std::string> keys);

  /// The clearing cutter where it reaches, else the deep one.
  [[nodiscard]] const Cutter* reaching(const std::string& id, double depth) const;
  [[nodiscard]] double side_z(double body_z) const { return turned_z(turn_, body_z); }

  // ---- pins and layers

  void pins(double thickness);

  void layer(std::size_t k, const std::shared_ptr<const Makeable>& made);

  void glue_up();

  /// A layer's share of the cavities, from one of its faces.
  void layer_cavities(std::size_t k, bool from_below);

  /// Round along a window's walls, what is inside held by tabs.
  void window(const LayerCut& cut, const Cavity& c, double thick);

  /// The top by itself, larger than the body, with tabs; it is glued on and goes flush with the body's own outline
  /// later.
  void oversize_cut(std::size_t k);

  // ---- what an oversize top is found by

  [[nodiscard]] bool oversize_top() const { return w_.top_oversize > 0 && s_.layers.size() > 1; }

  [[nodiscard]] std::string glue_register() const;

  /// Two small holes through the top and into the layer under it, in wood that goes; or ticks where centre line and
  /// scale line leave the body.
  void register_cut(std::size_t k);

  // ---- cavities

  struct Cleared {
    const Region& region;  // body plan
    const std::string& id;
    const std::string& title;
  };
  /// `floor` is a side z over side places.
  void clear(const Cleared& c, double top, const Height& floor, double lowest, double slope, bool finish);

  void cavities(bool from_back);

  // ---- holes

  /// Those that are drilled with the body, or those that are held back.
  void holes(bool from_back, bool held = false);
  static void longer_drill(Operation& op, const Cutter& drill);

  [[nodiscard]] int rank(const BodyHole& h) const;

  void note_thin(const Cutter& drill, const BodyHole& h);

  // ---- carves and edges

  void carve(bool from_back);

  void edge(bool from_back);

  // ---- outline

  static std::vector<std::string> outline_keys();
  void outline_words(Operation& op) const;

  /// How far the carved face has fallen under a cutter that goes by at a place of the outline, at most.
  [[nodiscard]] double fallen_at(Vec2 at, double wide) const;

  /// The last skim in stretches, each in its safer direction: conventional where that runs with the grain, else climb.
  void in_stretches(OutlinePlan& plan, const Contour& contour) const;

  /// First of all, in one go from the front: tabs of a stated section under the back hold the body from then on.
  void outline_first();

  [[nodiscard]] double fallen_back_at(Vec2 at, double wide) const;

  void outline(bool from_back);

  // ---- placements

  void front();

  void back();

  /// The finished body with its neck on, found by its own centre line and scale line: what was held back is drilled
  /// where the real neck shows that it belongs.
  void once_the_neck_is_on(const std::shared_ptr<const Makeable>& made);

  /// The neck with its board, over the body and beyond: nothing may come near it.
  void neck_stands(Setup& s) const;

  /// The body sawn out beside its groove, back on its pins by its ears, its back up: the last skim at full depth, and
  /// the ears last of all.
  void sawn(const std::shared_ptr<const Makeable>& made);

  const BodyWork w_;
  std::shared_ptr<const BodyDesign> d_;
  const BodyShape& s_;
  Side side_;
  Turn turn_ = Turn::none;
  double top_ = 0;
  std::string edge_;         // the cutter that rounds a floor's edge; empty: it stays square
  bool after_pins_ = false;  // the next cut waits for the hand that sets them
  Pieces out_;
};

}  // namespace wren
