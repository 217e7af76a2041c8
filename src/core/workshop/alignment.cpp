#include "core/workshop/alignment.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "core/units/length.hpp"

namespace wren {
namespace {

Vec2 to_work_axes(const Blank& blank, Vec2 v) { return blank.lie == Lie::along_y ? Vec2{-v.y, v.x} : v; }

}  // namespace

const char* school_name(School school) {
  switch (school) {
    case School::ticks: return "centre ticks on the crossed lines";
    case School::pins: return "two pins in the waste";
    case School::fence: return "corner fence";
  }
  return "";
}

PinPlan pin_plan(const Blank& blank, const AlignmentNumbers& a, Vec2 middle) {
  const double run = blank.length / 2 - a.pin_inset;
  return {middle - Vec2{run, 0}, middle + Vec2{run, a.pin_offset}};
}

Setup side_setup(const Machine& machine, const Blank& blank, const AlignmentNumbers& a, Vec2 middle, Turn turn,
                 double top_z) {
  Setup setup;
  setup.machine = machine;
  setup.blank = blank;
  setup.turn = turn;
  const Vec2 size = blank.lie == Lie::along_y ? Vec2{blank.width, blank.length} : Vec2{blank.length, blank.width};
  const Vec2 centre{machine.travel.x / 2, machine.travel.y / 2};
  // Where the blank's middle lies in the work frame. It is the same for both sides, so the work zero is set once.
  Vec2 at = size * 0.5;
  if (a.school == School::pins)
    at = to_work_axes(blank, middle - pin_plan(blank, a, middle).first);
  else if (a.school == School::ticks && blank.zero == ZeroPlace::centre)
    at = {};
  place_blank(setup, turned(turn, middle), at, turned_z(turn, top_z));
  if (turn != Turn::none) {
    setup.found_by = register_of(blank, a);
  }
  // On a side that bores their holes they stand from then on.
  if (a.school == School::pins && a.pin_length > 0) {
    const PinPlan pins = pin_plan(blank, a, middle);
    for (const Vec2 pin : {pins.first, pins.second}) {
      const Vec2 q = setup.to_work.apply(turned(turn, pin));
      const double r = a.pin_diameter / 2;
      setup.standing.push_back(
          {"pin", {q.x - r, q.y - r, setup.bed_z()}, {q.x + r, q.y + r, setup.bed_z() + a.pin_length - a.pin_depth}});
    }
  }
  if (a.school == School::fence) {
    constexpr double bar = 20;  // mm
    const double top = setup.bed_z() + a.fence_height;
    const Vec2 corner{setup.blank_corner.x, setup.blank_corner.y};
    const Vec2 far = corner + setup.blank_size;
    setup.standing.push_back({"fence", {corner.x - bar, corner.y - bar, setup.bed_z()}, {far.x, corner.y, top}});
    setup.standing.push_back({"fence", {corner.x - bar, corner.y - bar, setup.bed_z()}, {corner.x, far.y, top}});
    setup.zero_in_machine = {a.fence_x, a.fence_y, blank.thickness};
    setup.jogs = {{"From home to the corner of the fence", a.fence_x, a.fence_y}};
  } else {
    setup.zero_in_machine = {centre.x - at.x, centre.y - at.y, blank.thickness};
    if (a.school == School::pins) {
      setup.jogs = {{"From home to the first pin's hole", setup.zero_in_machine.x, setup.zero_in_machine.y}};
    } else {
      setup.jogs = {{"From home to the crossed lines", centre.x, centre.y}};
      if (length(at) > 0)
        setup.jogs.push_back({"From the crossed lines back to the blank's lower-left corner", -at.x, -at.y});
    }
  }
  return setup;
}

std::vector<BedHole> waste_board_holes(const Setup& front, const Setup& back, const PinPlan& pins,
                                       const AlignmentNumbers& a) {
  std::vector<BedHole> out;
  for (const Setup* s : {&front, &back})
    for (const Vec2 pin : {pins.first, pins.second}) {
      const Vec2 at = s->to_work.apply(turned(s->turn, pin));
      const bool there =
          std::any_of(out.begin(), out.end(), [&](const BedHole& h) { return distance(h.at, at) < 1e-6; });
      if (!there) out.push_back({at, a.pin_diameter / 2, a.pin_depth});
    }
  return out;
}

RegisterError expected_error(const Blank& blank, const AlignmentNumbers& a) {
  RegisterError e;
  const double run = std::max(1.0, blank.length - 2 * a.pin_inset);
  switch (a.school) {
    case School::ticks:
      // Each side is read once along and once across; the two readings across at the ends make the turn.
      e.shift = {2 * a.tick_error, 2 * a.tick_error};
      e.angle = 2 * a.tick_error / std::max(1.0, blank.length);
      e.reason = worded("ticks read to {} on each side", exact_mm(a.tick_error));
      break;
    case School::pins:
      e.shift = {a.play(), a.play()};
      e.angle = 2 * a.play() / run;
      e.reason =
          worded("pins {} with {} of play, {} apart", exact_mm(a.pin_diameter), exact_mm(a.play()), exact_mm(run));
      break;
    case School::fence: {
      // Turned over, another edge lies at the fence: what the blank lacks in parallel shows as shift and as turn.
      const double slope = a.square_error / 100;
      const bool long_edge = a.turn == Turn::about_length;
      e.shift = long_edge ? Vec2{slope * blank.width, slope * blank.length / 2}
                          : Vec2{slope * blank.length / 2, slope * blank.width};
      e.angle = slope;
      e.reason =
          worded("a blank out of square or parallel by {} in 100 mm against the fence", exact_mm(a.square_error));
      break;
    }
  }
  return e;
}

Register register_of(const Blank& blank, const AlignmentNumbers& a, bool ears) {
  const RegisterError e = expected_error(blank, a);
  const Vec2 axes = to_work_axes(blank, e.shift);
  Register out{RegisterKind::lines, {std::abs(axes.x), std::abs(axes.y)}, e.angle, e.reason};
  if (a.school == School::fence) out.kind = RegisterKind::fence;
  if (a.school == School::pins) out.kind = ears ? RegisterKind::ears : RegisterKind::pins;
  return out;
}

const char* register_id(RegisterKind kind) {
  const char* const ids[] = {"first", "pins", "ears", "hole", "lines", "fence"};
  return ids[static_cast<int>(kind)];
}

const char* register_name(RegisterKind kind) {
  switch (kind) {
    case RegisterKind::first: return "nothing before it";
    case RegisterKind::pins: return "two pins";
    case RegisterKind::ears: return "two pins in its ears";
    case RegisterKind::hole: return "two small holes through both";
    case RegisterKind::lines: return "its marks on the lines";
    case RegisterKind::fence: return "the corner fence";
  }
  return "";
}

Words register_words(const Setup& s) {
  const Register& r = s.found_by;
  const double worst = r.worst_at(s.blank_size * 0.5);
  return worded("Its place is found by {}: likely within {}, at worst {} off at the blank's corners{}.",
                Words(register_name(r.kind)), exact_mm(worst * likely_register), exact_mm(worst),
                r.reason.empty() ? Words() : worded(" ({})", r.reason));
}

std::vector<Words> alignment_steps(const Setup& s, const AlignmentNumbers& a, Seating seating) {
  const bool second = seating == Seating::turned;
  std::vector<Words> out;
  const Vec2 size = s.blank_size;
  const bool along_x = s.blank.lie == Lie::along_x;
  if (second) {
    const bool about_length = s.turn == Turn::about_length;
    out.push_back(
        about_length
            ? along_x ? "Turn the blank over about its length: the edge that lay at the front now lies at the back; "
                        "every end keeps its place."
                      : "Turn the blank over about its length: the edge that lay at the left now lies at the right; "
                        "every end keeps its place."
        : along_x ? "Turn the blank over about its width: the edge that lay at the left now lies at the right; "
                    "every long edge keeps its place."
                  : "Turn the blank over about its width: the edge that lay at the front now lies at the back; "
                    "every long edge keeps its place.");
  } else {
    out.push_back("Check the blank flat, square and parallel; measure it again and compare with the figures above.");
  }
  switch (a.school) {
    case School::ticks:
      if (!second)
        out.push_back(
            worded("Mark the middle of all four edges, {} and {} from the lower-left corner, always measuring from the "
                   "same side; carry the marks down the edges to the other face.",
                   exact_mm(size.x / 2), exact_mm(size.y / 2)));
      out.push_back("Set the four marks on the two crossed lines of the waste board and fix the blank as drawn.");
      if (!second)
        for (std::size_t i = 0; i < s.jogs.size(); ++i)
          out.push_back(worded(i + 1 == s.jogs.size() ? "{}: x {}, y {}. Set x and y to zero here." : "{}: x {}, y {}.",
                               Words(s.jogs[i].what), exact_mm(s.jogs[i].x), exact_mm(s.jogs[i].y)));
      else
        out.push_back("Keep the same zero for x and y.");
      break;
    case School::pins:
      if (!second) {
        out.push_back(worded("{}: x {}, y {}. Set x and y to zero here.", Words(s.jogs.front().what),
                             exact_mm(s.jogs.front().x), exact_mm(s.jogs.front().y)));
        if (seating == Seating::again) {
          out.push_back("Push the pins through it into the waste board's holes, then fix it by clamps at its waste.");
          break;
        }
        out.push_back(
            worded("Fix the blank by clamps at its waste; the first program bores the two pin holes ({}) through it, "
                   "over those in the waste board ({} deep), which that board's own program has bored.",
                   exact_mm(a.pin_diameter), exact_mm(a.pin_depth)));
        out.push_back("Push the pins through the blank into the waste board before anything else is cut.");
      } else {
        out.push_back(
            "Clear chips from holes and faces. Set the pins into the waste board's holes for the turned side and lower "
            "the blank onto them; it goes on one way only.");
        out.push_back("Keep the same zero for x and y.");
      }
      break;
    case School::fence:
      out.push_back(second ? "Push the blank into the corner of the fence again, the other edge now at the fence."
                           : "Push the blank into the corner of the fence and fix it.");
      if (!second)
        out.push_back(worded("{}: x {}, y {}. Set x and y to zero here.", Words(s.jogs.front().what),
                             exact_mm(s.jogs.front().x), exact_mm(s.jogs.front().y)));
      else
        out.push_back("Keep the same zero for x and y.");
      break;
  }
  return out;
}

std::string zero_place(School school) {
  return school == School::pins ? "first pin's hole" : school == School::fence ? "corner of the fence" : "";
}

std::string zero_words(const Blank& blank, const std::string& place) {
  const std::string own = blank.zero == ZeroPlace::corner ? "lower-left corner of the blank" : "middle of the blank";
  return (place.empty() ? own : place) +
         (blank.thickness > 0 ? ", z = 0 on top of the blank" : ", z = 0 on the waste board");
}

std::string seat_words(const Setup& setup, const std::string& how) {
  const char* const ways[] = {"front side up", "turned about its length", "turned about its width"};
  return std::string(ways[static_cast<int>(setup.turn)]) + ", " + how;
}

Setup bare_board(Setup setup) {
  setup.wood_top = {};
  setup.standing.clear();
  setup.top_profile.reset();
  setup.blank.thickness = 0;
  setup.to_work.shift.z = 0;
  setup.zero_in_machine.z = 0;
  return setup;
}

}  // namespace wren
