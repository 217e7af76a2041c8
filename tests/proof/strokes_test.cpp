// What a program divides into pieces is judged as what it is: passes, ways down and pecks, on the plate of bench.hpp.
// Every harm has a neighbour that does none.
#include <catch2/catch.hpp>

#include "proof/bench.hpp"

using namespace wren;
using namespace wren::bench;
using Catch::Matchers::WithinAbs;

namespace {

/// Lines of a program of its own, run before the plate's; in the waste beside the plate (x under 15).
PieceRequest first(const std::string& tool, const std::string& lines, double rpm = 18000) {
  PieceRequest r = request();
  Numbers n;
  n.rpm = rpm;
  auto& programs = r.sides[0].programs;
  programs.insert(programs.begin(), {"first.ngc", head(tool, n) + lines + "G0Z5.000\n" + tail(), {}, false});
  return r;
}
std::vector<std::string> said(const std::string& tool, const std::string& lines, double rpm = 18000) {
  return kinds(prove(first(tool, lines, rpm)));
}

/// Down a ramp of fifteen degrees at most to `deep`, to and fro over ten millimetres along y at x 8.
std::string ramp_to(double deep, double step = 2.5) {
  std::string out = "G0" + at(8, 10) + "\nZ2.500\nG1Z0.000F300\n";
  double y = 10;
  for (double z = 0; z < deep - 1e-9;) {
    z = std::min(deep, z + step);
    y = 30 - y;
    out += "G1" + at(8, y) + fmt::format("Z{:.3f}F1200\n", -z);
  }
  return out + at(8, 10) + "\n";
}

}  // namespace

TEST_CASE("M12: a pass that is too deep is one in short pieces too, whose feeds change from one to the next") {
  const auto pass = [](double deep, double piece) {
    std::string out = ramp_to(deep);
    int k = 0;
    for (double y = 20 + piece; y < 54; y += piece) out += at(8, y) + fmt::format("F{}\n", 1200 + 10 * (++k % 2));
    return said("T1", out);
  };
  CHECK(has(pass(4.0, 1.5), "pass_deep"));
  CHECK(has(pass(4.0, 0.3), "pass_deep"));
  CHECK(has(pass(4.0, 0.02), "pass_deep"));
  // A hundredth up and down between its pieces divides no pass.
  std::string hops = ramp_to(4);
  for (double y = 21; y < 54; ++y) hops += at(8, y) + "F1200\nZ-3.990\nZ-4.000\n";
  CHECK(has(said("T1", hops), "pass_deep"));
  // Nor does coming up by a millimetre, or out of the wood.
  const auto hopping = [](double deep, double up, const char* how) {
    std::string out = ramp_to(deep, 1.4);
    for (double y = 12; y < 54; y += 2)
      out += "G1" + at(8, y) + "F1200\n" + how + fmt::format("Z{:.3f}\nG1Z{:.3f}\n", up, -deep);
    return said("T1", out);
  };
  CHECK(has(hopping(4, -3, "G1"), "pass_deep"));
  CHECK(has(hopping(4, 2.5, "G1"), "pass_deep"));
  CHECK(has(hopping(4, 2.5, "G0"), "pass_deep"));
  CHECK_FALSE(has(hopping(2.9, -1, "G1"), "pass_deep"));
  CHECK_FALSE(has(hopping(2.9, 2.5, "G0"), "pass_deep"));
  CHECK_FALSE(has(pass(2.9, 1.5), "pass_deep"));
  CHECK_FALSE(has(pass(2.9, 0.3), "pass_deep"));
}

TEST_CASE("M12, M1: a ball of full width is full, narrower as it is") {
  const auto with_ball = [](const std::string& lines) {
    PieceRequest r = first("T9", lines);
    r.rack.push_back(cutter("ball-4", 9, CutterKind::ball, 4));
    return kinds(prove(r));
  };
  for (const double deep : {3.2, 3.5, 4.0, 5.0}) {
    CAPTURE(deep);
    CHECK(has(with_ball(ramp_to(deep, 1.4) + at(8, 52) + "F1200\n"), "pass_deep"));
  }
  CHECK_FALSE(has(with_ball(ramp_to(2.9, 1.4) + at(8, 52) + "F1200\n"), "pass_deep"));
  // With half of its width none is: its own groove lies beside it.
  std::string beside;
  for (const double x : {8.0, 10.0}) {
    beside += "G0" + at(x, 10) + "\nZ2.500\nG1Z0.000F300\n";
    for (double z = 1; z < 5.5; ++z)
      beside += at(x, 20) + fmt::format("Z{:.3f}F1200\n", -z) + at(x, 10) + "\n" + at(x, 52) + "\n" + at(x, 10) + "\n";
    beside += "G0Z5.000\n";
  }
  CHECK_FALSE(has(with_ball(beside), "pass_deep"));
  // A quarter of a millimetre to and fro on its way down: each way is a ramp, all of them a plunge.
  const auto wagging = [&](double bottom) {
    std::string out = "G0" + at(8, 30) + "\nZ2.500\nG1Z0.000F300\n";
    double side = 0.1;
    for (double z = 0; z > -bottom + 1e-9; side = -side) {
      z = std::max(-bottom, z - 0.05);
      out += at(8, 30 + side) + fmt::format("Z{:.3f}F600\n", z);
    }
    return with_ball(out);
  };
  CHECK(has(wagging(1.6), "way_down"));
  CHECK_FALSE(has(wagging(0.9), "way_down"));
  // What it takes off a wall on its way down is soon as much as its tip alone takes, and no plunge.
  const auto beside_a_wall = [&](double in) {
    std::string out = "G0" + at(18, 30) + "\nZ2.500\nG1Z-5.500F300\nG0Z5.000\n";
    out += at(18 - in, 31) + "\nZ2.500\nG1Z-4.500F300\nG0Z5.000\n";
    Numbers n;
    n.before_end = "G0Z5.000\n";
    PieceRequest r = request(n);
    r.rack.push_back(cutter("ball-4", 9, CutterKind::ball, 4));
    r.sides[0].programs.push_back({"wall.ngc", head("T9", {}) + out + tail(), {}, false});
    return kinds(prove(r));
  };
  for (const double in : {0.1, 0.6, 1.0, 1.15}) CHECK_FALSE(has(beside_a_wall(in), "way_down"));
  CHECK(has(beside_a_wall(3.5), "way_down"));
}

TEST_CASE("M12: what is deep at the end of a long way is no less deep") {
  // The ramp has cleared y 10 to 20; the way goes on into whole wood.
  const auto on = [](double to) { return said("T1", ramp_to(4) + at(8, to) + "F1200\n"); };
  CHECK(has(on(34), "pass_deep"));
  CHECK(has(on(46), "pass_deep"));
  CHECK_FALSE(has(on(23), "pass_deep"));
  // Twice as deep as it may be, over four millimetres.
  const auto deeper = [](double to) {
    std::string out = "G0" + at(8, 10) + "\nZ2.500\nG1Z0.000F300\n";
    for (int z = 1; z <= 6; ++z) out += "G1" + at(8, 20) + fmt::format("Z{}F1200\n", -z) + at(8, 10) + "\n";
    return said("T1", out + at(8, to) + "\n");
  };
  CHECK(has(deeper(26), "pass_deep"));
  CHECK_FALSE(has(deeper(21), "pass_deep"));
}

TEST_CASE("M12: arcs are passes like lines") {
  // A ring of 5 in the waste: its chords are far shorter than a pass is judged over.
  const auto ring = [](double deep) {
    std::string out = "G0" + at(8, 45) + "\nZ2.500\nG1Z0.000F300\n";
    double z = 0;
    while (z < deep - 1e-9) {
      z = std::min(deep, z + 2.5);
      out += fmt::format("G3X8.000Y45.000Z{:.3f}I0.000J5.000F1200\n", -z);
    }
    return said("T1", out + "G3X8.000Y45.000I0.000J5.000\n");
  };
  // A helix cuts level by level: nothing of it is too deep.
  CHECK_FALSE(has(ring(5), "pass_deep"));
  // The same ring in one turn down and once round.
  const auto at_once = [](double deep) {
    return said("T1", ramp_to(deep) + fmt::format("G3X8.000Y20.000I0.000J5.000F1200\n"));
  };
  CHECK(has(at_once(4.5), "pass_deep"));
  CHECK_FALSE(has(at_once(2.8), "pass_deep"));
}

TEST_CASE("M12: what slants gently is a pass too") {
  // Forty millimetres long and four and a half deep at its end: six degrees.
  const auto slant = [](double deep) {
    return said("T1",
                "G0" + at(8, 10) + "\nZ2.500\nG1Z0.000F300\nG1" + at(8, 52) + fmt::format("Z{:.3f}F1200\n", -deep));
  };
  CHECK_FALSE(has(slant(2.8), "pass_deep"));
  CHECK(has(slant(4.5), "pass_deep"));
  std::string pieces = "G0" + at(8, 10) + "\nZ2.500\nG1Z0.000F300\n";
  for (int k = 1; k <= 20; ++k)
    pieces += "G1" + at(8, 10 + 2.1 * k) + fmt::format("Z{:.3f}F{}\n", -0.25 * k, 1200 + 10 * (k % 2));
  CHECK(has(said("T1", pieces), "pass_deep"));
}

TEST_CASE("M12: what rises through whole wood is a pass too") {
  // A channel along y to its full depth by good passes; from its end one slants up into the wood.
  const auto rise = [](double deep, double angle, int pieces = 1) {
    std::string out = ramp_to(deep, 1.4) + at(8, 20) + "\n";
    const double run = std::min(12.0, deep / std::tan(angle / 57.29577951308232));
    for (int k = 1; k <= pieces; ++k)
      out += "G1" + at(8, 20 + run * k / pieces) +
             fmt::format("Z{:.3f}F1200\n", -deep + std::tan(angle / 57.29577951308232) * run * k / pieces);
    return said("T1", out);
  };
  CHECK_FALSE(has(rise(2.5, 1), "pass_deep"));
  CHECK(has(rise(9, 30), "pass_deep"));
  CHECK(has(rise(9, 45), "pass_deep"));
  CHECK(has(rise(9, 45, 12), "pass_deep"));
  CHECK_FALSE(has(rise(4, 45), "pass_deep"));  // soon shallow
  CHECK_FALSE(has(rise(9, 89), "pass_deep"));  // out of its own hole
}

TEST_CASE("M1: wagging on its way down a cutter plunges") {
  // Fourteen degrees each way: a good ramp, were it longer.
  const auto wag = [](double by, double deep, double feed = 600) {
    std::string out = "G0" + at(8, 50) + "\nZ2.500\nG1Z0.000F300\n";
    double z = 0;
    for (int k = 0; z < deep; ++k) {
      z = std::min(deep, z + by * std::tan(14 / 57.29577951308232));
      out += at(8 + by * (k % 2 == 0 ? 1 : 0), 50) + fmt::format("Z{:.3f}F{:.0f}\n", -z, feed);
    }
    return said("T1", out);
  };
  CHECK(has(wag(0.2, 3), "way_down"));
  CHECK(has(wag(0.35, 3), "way_down"));
  CHECK_FALSE(has(wag(0.2, 0.9), "way_down"));  // less than a quarter of the diameter
  CHECK_FALSE(has(wag(4, 3), "way_down"));
  // The same in turns: a helix of a tenth of a millimetre is a plunge, one of half the cutter is none.
  const auto helix = [](double radius) {
    std::string out = "G0" + at(8 + radius, 50) + "\nZ2.500\nG1Z0.000F300\n";
    const double turn = 2 * 3.14159265 * radius * std::tan(10 / 57.29577951308232);
    for (double z = turn; z < 3; z += turn)
      out += fmt::format("G3X{0:.3f}Y50.000Z{1:.3f}I{2:.3f}J0.000F600\n", 8 + radius, -z, -radius);
    return said("T1", out);
  };
  CHECK(has(helix(0.1), "way_down"));
  CHECK_FALSE(has(helix(1.0), "way_down"));
}

TEST_CASE("M1: what pecks without coming out plunges, and without an edge at its centre it does so all the same") {
  const auto pecks = [](const std::string& tool, double lift, double bite) {
    std::string out = "G0" + at(8, 50) + "\nZ2.500\n";
    for (double z = bite; z < 4; z += bite)
      out += fmt::format("G1Z{:.3f}F300\nG{}Z{:.3f}\n", -z, lift > 4 ? 0 : 1, std::min(2.5, -z + lift));
    return said(tool, out);
  };
  CHECK(has(pecks("T1", 0.1, 0.8), "way_down"));
  CHECK(has(pecks("T1", 1.0, 0.8), "way_down"));
  CHECK_FALSE(has(pecks("T1", 9, 0.8), "way_down"));  // out each time
  // A cutter that does not cut at its centre may not go straight down, however often it comes out.
  CHECK(has(pecks("T3", 0.1, 0.4), "way_down"));
  CHECK(has(pecks("T3", 9, 0.4), "way_down"));
}

TEST_CASE("M2: a drill that goes aside by hundredths goes aside") {
  const auto steps = [](double by, int n) {
    std::string out = "G0" + at(8, 50) + "\nZ2.500\nG1Z-3.000F300\n";
    for (int k = 1; k <= n; ++k) out += fmt::format("X{:.3f}F{}\n", 8 + by * k, 600 + k % 2);
    return said("T2", out);
  };
  CHECK(has(steps(0.015, 20), "drill_sideways"));
  CHECK_FALSE(has(steps(0.001, 8), "drill_sideways"));
}

TEST_CASE("M5: a tooth is overloaded in small pieces too") {
  // A cutter of 0.6, 0.4 deep: a piece of two hundredths is 0.005 mm³.
  const auto cut = [](double feed, double piece) {
    std::string out = "G0" + at(4, 52) + "\nZ2.500\nG1Z0.000F200\nX7.000Z-0.250F200\n";
    int k = 0;
    for (double x = 7 + piece; x < 12; x += piece) out += fmt::format("X{:.3f}F{:.0f}\n", x, feed + (++k % 2));
    PieceRequest r = first("T6", out);
    Cutter thin = r.rack[0];
    thin.id = "thin-0.6";
    thin.number = 6;
    thin.diameter = 0.6;
    thin.cutting_length = 3;
    r.rack.push_back(thin);
    return kinds(prove(r));
  };
  CHECK(has(cut(2000, 0.02), "tooth_overloaded"));
  CHECK(has(cut(2000, 1), "tooth_overloaded"));
  CHECK_FALSE(has(cut(400, 0.02), "tooth_overloaded"));
}

TEST_CASE("M1: a drill comes out, however its way down is divided") {
  // A drill of 1.5, eight deep: more than five of its diameters.
  const auto hole = [](const std::string& down) {
    PieceRequest r = first("T2", "G0" + at(8, 50) + "\nZ2.500\n" + down);
    r.rack[1].diameter = 1.5;
    r.sides[0].programs.erase(r.sides[0].programs.begin() + 1);  // the plate's own hole is another drill's
    return kinds(prove(r));
  };
  CHECK(has(hole("G1Z-8.000F300\n"), "peck_long"));
  CHECK(has(hole("G1Z-3.000F300\nZ-5.500F290\nZ-8.000F300\n"), "peck_long"));
  CHECK(has(hole("G1Z-4.000F300\nZ-3.800\nZ-8.000\n"), "peck_long"));
  CHECK(has(hole("G1Z-4.000F300\nG0Z-3.000\nG1Z-8.000\n"), "peck_long"));
  CHECK_FALSE(has(hole("G1Z-4.000F300\nG0Z2.500\nZ-3.500\nG1Z-8.000\n"), "peck_long"));
  // Near its mouth is out: a little of the drill may stay in.
  CHECK_FALSE(has(hole("G1Z-4.000F300\nG0Z-1.000\nG1Z-8.000\n"), "peck_long"));
  // Two holes side by side are two.
  CHECK_FALSE(has(hole("G1Z-4.000F300\nG0Z2.500\nG0" + at(8, 44) + "\nG1Z-4.500F300\n"), "peck_long"));
}

TEST_CASE("M5: a drill that creeps burns its way") {
  // 3 mm in wood of the middle class: a chip of 0.043; a fiftieth of that at two flutes and 18 000 1/min is F31.
  const auto hole = [](double feed) {
    return said("T2", "G0" + at(8, 50) + fmt::format("\nZ2.500\nG1Z0.200F300\nZ-5.000F{:.0f}\n", feed));
  };
  CHECK(has(hole(25), "tooth_rubs"));
  CHECK_FALSE(has(hole(40), "tooth_rubs"));
}

TEST_CASE("M5: the spindle is not switched off down in the wood") {
  const auto off = [](const std::string& lines) { return said("T1", ramp_to(2) + lines); };
  CHECK(has(off("M5\nG0Z5.000\n"), "spindle_still"));
  CHECK(has(off("G0Z-0.500\nM5\nG0Z5.000\n"), "spindle_still"));
  CHECK_FALSE(has(off("G0Z5.000\nM5\nG0Z10.000\n"), "spindle_still"));
  // Beside the blank, as deep, it may.
  CHECK_FALSE(has(off("G0Z5.000\nG0" + at(-20, 20) + "\nZ-5.000\nM5\nG0Z5.000\n"), "spindle_still"));
}

TEST_CASE("M5: the rim of a wide cutter") {
  const auto turning = [](double diameter, double rpm) {
    PieceRequest r = first(
        "T6", "G0" + at(-diameter / 2 - 3, 55) + "\nZ2.500\nG1Z-0.500F300\n" + at(-diameter / 2 + 3, 55) + "F3000\n",
        rpm);
    Cutter wide = r.rack[0];
    wide.id = "wide";
    wide.number = 6;
    wide.diameter = diameter;
    wide.flutes = 2;
    wide.overall = 60;
    r.rack.push_back(wide);
    return kinds(prove(r));
  };
  CHECK(has(turning(38, 24000), "rim_fast"));        // 47.8 m/s
  CHECK_FALSE(has(turning(38, 18000), "rim_fast"));  // 35.8
  CHECK_FALSE(has(turning(25, 24000), "rim_fast"));  // 31.4
}

TEST_CASE("M11: no move takes more wood at once than its flutes are long, however thin the shank") {
  // Flutes of 2 under a thin shank, eight across: as wide a pass may be six deep.
  const auto pass = [](double deep) {
    PieceRequest r =
        first("T6", "G0" + at(-8, 52) + fmt::format("\nZ2.500\nG1Z{:.3f}F300\n", -deep) + at(10, 52) + "F1200\n");
    Cutter wide = r.rack[0];
    wide.id = "flat-8";
    wide.number = 6;
    wide.diameter = 8;
    wide.cutting_length = 2;
    wide.shank_diameter = 4;
    r.rack.push_back(wide);
    return kinds(prove(r));
  };
  CHECK(has(pass(2.5), "beyond_cutting_length"));
  CHECK_FALSE(has(pass(1.9), "beyond_cutting_length"));
}

TEST_CASE("M7: the waste board is no longer what was probed once it is cut there") {
  // z is probed on the board, 8 beside the blank; a cut comes by a tenth into it.
  const auto scratched = [](double x, double deep) {
    PieceRequest r = first("T1", "G0" + at(x, 8) + fmt::format("\nZ2.500\nG1Z{:.3f}F300\n", -thick - deep));
    r.sides[0].setup.probe = Setup::Probe{{-10, 8}, true};
    return kinds(prove(r));
  };
  CHECK(has(scratched(-10, 0.1), "probe_gone"));
  CHECK(has(scratched(-14, 0.1), "probe_gone"));
  CHECK_FALSE(has(scratched(-10, -0.1), "probe_gone"));  // a tenth over it
  CHECK_FALSE(has(scratched(-17, 0.1), "probe_gone"));   // beside it
}

TEST_CASE("M10: a tab leads to the blank, and no skin holds a piece of it") {
  // On the outer side of the lower tab, from 36 to 44 along the kerf at y 13: a channel at y 9.5.
  const auto channel = [](double from, double to, double bottom) {
    std::string out = "G0Z5.000\nG0" + at(from, 9.5) + "\nZ2.500\nG1Z0.000F300\n";
    double z = 0;
    double x = from;
    while (z > bottom + 1e-9) {
      z = std::max(bottom, z - 1.5);
      x = x > (from + to) / 2 ? from : to;
      out += "G1" + at(x, 9.5) + fmt::format("Z{:.3f}F1200\n", z);
    }
    out += at(from, 9.5) + "\n" + at(to, 9.5) + "\n";
    return kinds(with([&](Numbers& n) { n.before_end = out; }));
  };
  CHECK(has(channel(30, 50, -thick - through), "tab_loose"));
  CHECK(has(channel(30, 50, -thick + 0.4), "tab_loose"));  // a skin leads nowhere either
  CHECK_FALSE(has(channel(30, 50, -thick + 3), "tab_loose"));
  CHECK_FALSE(has(channel(18, 30, -thick - through), "tab_loose"));  // beside the tab
  // A block as large as a thumb, cut free at the blank's right upper corner.
  const auto block = [](double side) {
    const double r = side + 4;
    std::string out = "G0" + at(82 - r, 62) + "\nZ2.500\nG1Z0.000F300\n";
    for (double z = 0; z > -thick - through + 1e-9;) {
      z = std::max(-thick - through, z - 1.5);
      out += "G1" + at(82 - r, 62 - r) + fmt::format("Z{:.3f}F1200\n", z) + at(82, 62 - r) + "\n" + at(82 - r, 62 - r) +
             "\n" + at(82 - r, 62) + "\n";
    }
    return kinds(with([&](Numbers& n) { n.between = out + "G0Z5.000\n"; }));
  };
  CHECK(has(block(12), "offcut_loose"));
  CHECK(has(block(8), "offcut_loose"));        // as large as a fingernail
  CHECK_FALSE(has(block(4), "offcut_loose"));  // goes with the chips
  // A strip of the blank's right side that hangs on a skin.
  const auto strip = [](double bottom) {
    std::string out = "G0" + at(70, -4) + "\nZ2.500\nG1Z0.000F300\n";
    double y = -4;
    for (double z = 0; z > bottom + 1e-9;) {
      z = std::max(bottom, z - 1.5);
      y = y < 0 ? 64 : -4;
      out += fmt::format("G1Z{:.3f}F300\nY{:.3f}F1200\n", z, y);
    }
    return kinds(with([&](Numbers& n) { n.between = out + "G0Z5.000\n"; }));
  };
  CHECK(has(strip(-thick - through), "offcut_loose"));
  CHECK(has(strip(-thick + 0.4), "offcut_loose"));
  CHECK_FALSE(has(strip(-thick + 1.5), "offcut_loose"));
}

TEST_CASE("M10: what comes off while it is cut is found though nothing is left of it at the end") {
  // The corner of the blank: a block cut free, and then milled away.
  const auto block = [](double side, bool through_it, bool away) {
    const double r = side + 4;
    const double bottom = through_it ? -thick - through : -thick + 1;
    std::string out = "G0" + at(82 - r, 62) + "\nZ2.500\nG1Z0.000F300\n";
    for (double z = 0; z > bottom + 1e-9;) {
      z = std::max(bottom, z - 1.5);
      out += "G1" + at(82 - r, 62 - r) + fmt::format("Z{:.3f}F1200\n", z) + at(82, 62 - r) + "\n" + at(82 - r, 62 - r) +
             "\n" + at(82 - r, 62) + "\n";
    }
    for (double z = 0; away && z > -thick - through + 1e-9;) {
      z = std::max(-thick - through, z - 1.5);
      out += fmt::format("G1Z{:.3f}F300\n", z);
      for (double y = 62; y > 62 - r; y -= 2)
        out += at(82, y) + "F1200\n" + at(82 - r, y) + "\n" + at(82 - r, y - 2) + "\n";
      out += "G0Z1.500\nG0" + at(82 - r, 62) + "\n";
    }
    return kinds(with([&](Numbers& n) { n.between = out + "G0Z5.000\n"; }));
  };
  CHECK(has(block(12, true, true), "offcut_loose"));
  CHECK_FALSE(has(block(12, false, true), "offcut_loose"));  // it hangs on a millimetre until it is chips
  CHECK_FALSE(has(block(4, true, true), "offcut_loose"));    // goes with the chips
}

TEST_CASE("M10: the waste hangs together by more than thin bridges") {
  // A channel across the blank, 8 beside the plate, interrupted in two places.
  const auto channel = [](double wide) {
    std::string out;
    const std::array<double, 4> ends{-4, 20, 40, 64};
    for (std::size_t k = 0; k + 1 < ends.size(); ++k) {
      const double a = ends[k] + (k == 0 ? 0 : 2 + wide / 2);
      const double b = ends[k + 1] - (k == 2 ? 0 : 2 + wide / 2);
      out += "G0" + at(70, a) + "\nZ2.500\nG1Z0.000F300\n";
      double y = a;
      for (double z = 0; z > -thick - through + 1e-9;) {
        z = std::max(-thick - through, z - 1.5);
        y = y > (a + b) / 2 ? a : b;
        out += "G1" + at(70, y) + fmt::format("Z{:.3f}F1200\n", z);
      }
      out += at(70, a) + "\n" + at(71.5, b) + "\nG0Z5.000\n";
    }
    return kinds(with([&](Numbers& n) { n.between = out; }));
  };
  CHECK(has(channel(1.4), "offcut_loose"));
  CHECK_FALSE(has(channel(5), "offcut_loose"));
}

TEST_CASE("P3: walls are looked at down to their foot") {
  // The outline once more, its last millimetre four tenths proud.
  const auto foot = [](double bottom, double grown) {
    Numbers n;
    n.bottom = bottom;
    std::string all = outline(n);
    n.bottom = -(thick + through);
    n.grown = grown;
    PieceRequest r = request();
    Numbers good;
    r.sides[0].programs.back().text = head("T1", good) + all + outline(n) + tail();
    return kinds(prove(r));
  };
  CHECK(has(foot(-(thick - 0.8), 0.4), "wall_proud"));
  CHECK_FALSE(has(foot(-(thick + through), 0.4), "wall_proud"));  // all of it was cut before
  // The pocket, its last half millimetre narrower.
  const auto pocket_foot = [](double first, double grown) {
    return kinds(with([&](Numbers& n) {
      n.pocket_floor = first;
      Numbers last;
      last.pocket_grown = grown;
      n.between = pocket(last);
    }));
  };
  CHECK(has(pocket_foot(-2.5, -0.15), "cavity_tight"));
  CHECK_FALSE(has(pocket_foot(-3, -0.15), "cavity_tight"));
}

TEST_CASE("P3: one dent in a wall is found, wherever it lies") {
  const auto dent = [](double y, double by) {
    return kinds(with([&](Numbers& n) {
      n.before_end = at(18, y) + "\n" + at(18 + by, y) + "\n" + at(18, y) + "\n" + at(18, 13) + "\n";
    }));
  };
  for (const double y : {20.0, 27.3, 29.9, 31.62}) CHECK(has(dent(y, 0.12), "wall_cut"));
  CHECK_FALSE(has(dent(29.9, 0.04), "wall_cut"));
}

TEST_CASE("M5: short waits in one cut are one wait") {
  const auto waits = [](double each, int count, bool out_between) {
    std::string lines = ramp_to(2);
    for (int k = 0; k < count; ++k)
      lines +=
          at(8, 12 + 4 * k) + fmt::format("\nG4 P{}\n", each) + (out_between ? "G0Z2.500\nG1Z-2.000F300\nF1200\n" : "");
    return said("T1", lines);
  };
  CHECK(has(waits(0.9, 6, false), "waits_in_wood"));
  CHECK_FALSE(has(waits(0.9, 3, false), "waits_in_wood"));
  CHECK_FALSE(has(waits(0.9, 6, true), "waits_in_wood"));
}

TEST_CASE("M7: the machine's coordinates lead to its top and to nowhere else") {
  const auto with_line = [](const std::string& line) {
    return kinds(with([&](Numbers& n) { n.between = line + "G0" + at(10, 52) + "\nZ5.000\n"; }));
  };
  CHECK(with_line("G53 G0 Z0\n").empty());
  CHECK(has(with_line("G53 G0 Z-20\n"), "machine_low"));
  CHECK(has(with_line("G53 G1 Z-20 F600\n"), "machine_low"));
  CHECK(has(with_line("G53 G0 X300 Y400\n"), "machine_low"));  // over, at the height of the last lift
  CHECK_FALSE(has(with_line("G53 G0 Z0\nG53 G0 X300 Y400\n"), "machine_low"));
}

TEST_CASE("M8: the machine's travels hold before a cutter is named, too") {
  const auto first_line = [](const std::string& line) {
    PieceRequest r = first("T1", "G0" + at(8, 50) + "\nZ2.500\nG1Z-0.500F300\n");
    std::string text = r.sides[0].programs[0].text.str();
    const auto tool = text.find("T1 M6");
    text.insert(tool, line);
    r.sides[0].programs[0].text = text;
    return kinds(prove(r));
  };
  CHECK(has(first_line("G53 G0 X-40 Y10\nG53 G0 X60 Y60\n"), "outside_travel"));
  CHECK_FALSE(has(first_line("G53 G0 X10 Y10\nG53 G0 X60 Y60\n"), "outside_travel"));
}

TEST_CASE("P2: a program that never comes down to the wood has forgotten what it is for") {
  const auto adds = [](const std::string& lines) { return kinds(prove(first("T1", lines))); };
  CHECK(has(adds(""), "cut_missing"));
  CHECK(has(adds("G0" + at(8, 50) + "\nZ2.500\nG1Z0.500F300\n" + at(8, 40) + "\n"), "cut_missing"));  // over it
  CHECK_FALSE(has(adds("G0" + at(8, 50) + "\nZ2.500\nG1Z-0.500F300\n"), "cut_missing"));
}
