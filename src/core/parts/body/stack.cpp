// Layers glued of strips: weight, movement, and where the joints lie.
#include <algorithm>
#include <cmath>
#include <numbers>

#include <fmt/format.h>

#include "core/parts/body/part.hpp"

namespace wren {
namespace {

constexpr double near_wall = 1.2;       // mm: less beside a joint is a sliver that the cutter pulls off
constexpr double along_least = 10;      // mm over which it does
constexpr double smallest_share = 800;  // mm² of body that a joint alone may hold
constexpr double veneer = 3;            // mm: thinner strips are lines, and no pieces of wood
constexpr double layers_apart = 1.2;    // mm that glued layers may want to differ by

std::string num(double v) { return format_mm(v, 2); }

StripStack seen(const StripStack& stack, double treble) {
  StripStack out = stack;
  if (!out.across && treble < 0) std::reverse(out.strips.begin(), out.strips.end());
  return out;
}

FindMaterial finder(const Project& p) {
  return [own = p.materials](const std::string& name) { return find_material(own, name); };
}

StackPlace place_of(const BodyWork& work, const BodyDesign& d) {
  // The outline turned over the strips is the strips turned the other way under it.
  return {d.blank_middle, -work.over_turn * (std::numbers::pi / 180) * (d.shape.treble > 0 ? 1 : -1)};
}

class StackJudge {
 public:
  StackJudge(const Project& p, const BodyDesign& d) : w_(body_of(p).work), d_(d), p_(p) {}

  std::vector<Remark> run() {
    for (std::size_t k = 0; k < d_.shape.layers.size(); ++k)
      if (const StripStack& stack = stack_of(w_, k); !stack.empty()) {
        size(k, stack);
        joints(k);
        shares(k, stack);
      }
    moves();
    return std::move(out_);
  }

 private:
  Remark& say(const char* kind, Weight weight, Words text, double number, double limit, const char* source,
              std::string place) {
    out_.push_back({kind, weight, std::move(text), number, limit, "mm", source, std::move(place), {}, {}, {}});
    return out_.back();
  }
  [[nodiscard]] std::string key(std::size_t k) const { return fmt::format("body.strips_{}", k + 1); }
  [[nodiscard]] const std::string& name(std::size_t k) const { return d_.shape.layers[k].layer.name; }

  void size(std::size_t k, const StripStack& stack) {
    const bool turned = w_.over_turn != 0;
    const double blank = width_needed(stack, {d_.blank.length, d_.blank.width}, place_of(w_, d_).angle);
    const double off = stack.width() - blank;
    // A blank that is sawn aslant out of the strips may leave some of them over.
    if (turned ? off >= -0.5 : std::abs(off) <= 0.5) return;
    const char* which = stack.across ? "body.blank.length" : "body.blank.width";
    Remark& r = say(
        "body.strips_size", off > 0 ? Weight::stop : Weight::think_again,
        turned
            ? worded("The strips of layer '{}' are {} together; to saw its blank out of them, turned by {}°, takes {}.",
                     name(k), mm(stack.width()), num(w_.over_turn), mm(blank))
            : worded("The strips of layer '{}' are {} together; its blank is {} {}.", name(k), mm(stack.width()),
                     mm(blank), stack.across ? "long" : "wide"),
        stack.width(), blank, "the strips and the blank, as measured", key(k));
    if (!turned)
      r.repair = Repair{worded("The blank is {} {}", mm(stack.width()), stack.across ? "long" : "wide"),
                        {{which, num(stack.width())}}};
    // The outer two take up the difference alike.
    StripStack other = stack;
    other.strips.front().width -= off / 2;
    other.strips.back().width -= off / 2;
    const Repair outer{turned ? "Wider outer strips" : "Trim the outer strips alike", {{key(k), strips_text(other)}}};
    if (turned) {
      r.repair = outer;
      r.others.push_back({"Do not turn the outline", {{"body.over_turn", "0"}}});
    } else if (other.strips.front().width > 5 && other.strips.back().width > 5) {
      r.others.push_back(outer);
    }
  }

  /// Cavities whose walls stand in this layer.
  [[nodiscard]] std::vector<const Cavity*> cavities_in(std::size_t k) const {
    const LayerPlace& layer = d_.shape.layers[k];
    std::vector<const Cavity*> out;
    for (const Cavity& c : d_.shape.cavities) {
      const double top = c.from_back ? c.floor : c.layer >= 0 ? layer.top : 1e9;
      const double bottom = c.from_back ? -1e9 : c.floor;
      if ((c.layer < 0 || c.layer == static_cast<int>(k)) && bottom <= layer.top - 0.2 && top >= layer.bottom + 0.2)
        out.push_back(&c);
    }
    return out;
  }

  /// Slides the outline over the blank until no joint of this layer runs beside a wall.
  [[nodiscard]] std::optional<Repair> slide(std::size_t k, const std::vector<const Cavity*>& cavities) const {
    std::vector<Region> walls;
    for (const Cavity* c : cavities) walls.push_back(c->region);
    const auto way = free_slide(d_.joints[k], walls, near_wall, along_least, 40);
    if (!way) return {};
    // Square to the joints, as the numbers have it.
    const Vec2 by = left_of(d_.joints[k].front().along) * *way;
    Repair out{worded("Slide the outline by {}", mm(std::abs(*way))), {}};
    const auto edit = [&](const char* over, double now, double more) {
      if (std::abs(more) > 0.005) out.edits.emplace_back(over, num(now + more));
    };
    edit("body.over_along", w_.over_along, by.x);
    edit("body.over_across", w_.over_across, by.y * (d_.shape.treble > 0 ? 1 : -1));
    return out;
  }

  void joints(std::size_t k) {
    const auto cavities = cavities_in(k);
    const std::optional<Repair> way = slide(k, cavities);
    for (const Joint& j : d_.joints[k]) {
      for (const Cavity* cavity : cavities) {
        const Cavity& c = *cavity;
        const JointBeside beside = joint_beside(j, c.region, near_wall, along_least);
        if (beside.length <= 0) continue;
        Remark& r =
            say("body.joint_wall", Weight::think_again,
                worded("In layer '{}' the joint of {} runs {} beside a wall of '{}' over {}: a sliver that comes off.",
                       name(k), j.between, mm(beside.distance), c.title, mm(beside.length)),
                beside.distance, near_wall, "common practice", key(k));
        r.at = std::pair{beside.at.x, beside.at.y};
        r.repair = way;
      }
      for (const BodyHole& h : d_.shape.holes) {
        const double aside = std::abs(dot(h.at - j.at, left_of(j.along)));
        if (aside >= h.diameter / 2 + 1) continue;
        Remark& r = say("body.joint_hole", Weight::worth_knowing,
                        worded("'{}' lies on the joint of {} in layer '{}': a drill follows the softer wood.", h.title,
                               j.between, name(k)),
                        aside, h.diameter / 2 + 1, "common practice", key(k));
        r.at = std::pair{h.at.x, h.at.y};
        break;  // one of a row is enough
      }
    }
  }

  /// Pieces of the body, a horn's tip for one, that nothing but a joint holds.
  void shares(std::size_t k, const StripStack& given) {
    const StripStack stack = seen(given, d_.shape.treble);
    double low = -stack.width() / 2;
    for (std::size_t i = 0; i < stack.strips.size(); ++i) {
      const double from = i == 0 ? -2900 : low;
      const double to = i + 1 == stack.strips.size() ? 2900 : low + stack.strips[i].width;
      low += stack.strips[i].width;
      if (stack.strips[i].width < veneer) continue;
      for (const Region& part : parts_of(intersected({d_.shape.corners}, {place_of(w_, d_).band(stack, from, to)}))) {
        const double share = area(part);
        if (share >= smallest_share || share < 1) continue;
        const Vec2 at = bounds(part.front()).middle();
        Remark& r = say("body.joint_share", Weight::think_again,
                        worded("In layer '{}' {:.1f} cm² of {} near x {:.0f}, y {:.0f} hang on a joint alone.", name(k),
                               share / 100, stack.strips[i].wood, at.x, at.y),
                        share, smallest_share, "common practice", key(k));
        r.unit = "mm²";
        r.at = std::pair{at.x, at.y};
      }
    }
  }

  void moves() {
    const auto& layers = d_.shape.layers;
    for (std::size_t k = 0; k + 1 < layers.size(); ++k) {
      const double a = layer_moves(p_, d_, k, dry_room, damp_room);
      const double b = layer_moves(p_, d_, k + 1, dry_room, damp_room);
      if (std::abs(a - b) < layers_apart) continue;
      say("body.layers_move", Weight::worth_knowing,
          worded("Between {} and {} % moisture layer '{}' moves {} across and '{}' {}: glue them when both are as dry "
                 "as the room, and not in a hurry.",
                 dry_room, damp_room, name(k), mm(a), name(k + 1), mm(b)),
          std::abs(a - b), layers_apart, "Wood Handbook ch. 13", "body.layers");
    }
  }

  const BodyWork& w_;
  const BodyDesign& d_;
  const Project& p_;
  std::vector<Remark> out_;
};

}  // namespace

const StripStack& stack_of(const BodyWork& work, std::size_t layer) {
  static const StripStack none;
  return layer < work.strips.size() ? work.strips[layer] : none;
}

std::vector<Joint> layer_joints(const BodyWork& work, const BodyDesign& d, std::size_t layer) {
  return joints_of(seen(stack_of(work, layer), d.shape.treble), place_of(work, d));
}

std::vector<StripBand> layer_bands(const Project& p, const BodyDesign& d, std::size_t layer) {
  const BodyWork& work = body_of(p).work;
  return bands_of(seen(stack_of(work, layer), d.shape.treble), place_of(work, d), {d.blank.length, d.blank.width},
                  finder(p));
}

DensityAt density_of(const Project& p, const BodyDesign& d) {
  struct Layer {
    StripStack stack;
    std::vector<double> of_strip;
    double whole = 600;
  };
  std::vector<Layer> layers;
  for (std::size_t k = 0; k < d.woods.size(); ++k) {
    Layer l{seen(stack_of(body_of(p).work, k), d.shape.treble), {}, d.woods[k].density};
    for (const Strip& s : l.stack.strips) {
      const auto m = find_material(p.materials, s.wood);
      l.of_strip.push_back(m ? m->density : l.whole);
    }
    layers.push_back(std::move(l));
  }
  return [layers = std::move(layers), place = place_of(body_of(p).work, d)](std::size_t k, Vec2 at) {
    const Layer& l = layers.at(k);
    if (l.stack.empty()) return l.whole;
    const Strip& s = l.stack.at(place.from_middle(l.stack, at));
    return l.of_strip[static_cast<std::size_t>(&s - l.stack.strips.data())];
  };
}

double layer_moves(const Project& p, const BodyDesign& d, std::size_t k, double moisture, double later) {
  const double width = bounds(d.shape.corners).size().y;
  const StripStack& stack = stack_of(body_of(p).work, k);
  if (stack.empty() || stack.across) {
    const Material& m = d.woods[k];
    return m.grain == Grain::along ? moisture_change(width, m.shrink_tangential, moisture, later) : 0;
  }
  return stack_moves(stack, finder(p), moisture, later) * width / stack.width();
}

std::vector<Remark> stack_remarks(const Project& p, const BodyDesign& d) { return StackJudge(p, d).run(); }

}  // namespace wren
