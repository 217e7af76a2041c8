// Names that people give reach files and formats in the form that each of them knows.
#include <cmath>
#include <cstring>
#include <limits>

#include "support/made.hpp"
#include "core/report/names.hpp"
#include "exchange/body_out.hpp"
#include "exchange/exports.hpp"

using namespace wren;
using Catch::Matchers::Contains;

namespace {

const char* const awkward[] = {"N/B",       "a\"><b&",    "line\nfeed", "../../etc/passwd", "",   "  ",
                               "solid oak", "0\nSECTION", "(x) [y] %",  "\xc3\xa4\xc3\xb6", "-",  "\x01\x02",
                               "CON",       ".hidden",    "a;b|c`d`",   "--force",          "*?", "'; DROP"};

bool is_xml_text(const std::string& s) {
  for (std::size_t i = 0; i < s.size(); ++i) {
    if (std::strchr("<>\"'", s[i]) != nullptr || static_cast<unsigned char>(s[i]) < 32) return false;
    if (s[i] == '&' && s.find(';', i) == std::string::npos) return false;
  }
  return true;
}

Path square(double x, double y, double a) {
  Path p(4);
  p[0].at = {x, y};
  p[1].at = {x + a, y};
  p[2].at = {x + a, y + a};
  p[3].at = {x, y + a};
  return p;
}

}  // namespace

TEST_CASE("one function for each place makes any name fit") {
  for (const std::string name : awkward) {
    INFO(name);
    const std::string file = file_safe(name);
    CHECK_FALSE(file.empty());
    CHECK(file.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789-") == std::string::npos);
    CHECK(file.front() != '-');
    const std::string comment = comment_safe(name);
    CHECK(comment.find_first_of("()[]\n\r") == std::string::npos);
    CHECK(is_xml_text(xml_safe(name)));
    const std::string layer = dxf_safe(name);
    CHECK_FALSE(layer.empty());
    CHECK(layer.find_first_of("\n\r /\\") == std::string::npos);
  }
  CHECK(file_safe("Upland Wren") == "upland-wren");
  CHECK(file_safe(std::string(39, 'a') + "-b").back() != '-');
  CHECK(xml_safe("a\"><b&'") == "a&quot;&gt;&lt;b&amp;&apos;");
  CHECK(dxf_safe("lower horn 2") == "LOWER_HORN_2");
  CHECK(dxf_safe("X-31.5") == "X-31.5");  // sections are found again by their place
  CHECK(dxf_safe(std::string(100, 'x')).size() == 31);
}

TEST_CASE("cavities of awkward and of equal names reach programs, DXF and SVG whole") {
  Project p = *project_from("plain");
  Body& body = body_of(p).body;
  int k = 0;
  for (const char* name : {"N/B", "a\"><b&", "line\nfeed", "N/B"})
    body.drawn.push_back({name, square(350 + 22.0 * k++, 60, 14), false, 8});
  const Made m = made(p, "body");
  std::vector<std::string> ids;
  for (const Cavity& c : m.body().shape.cavities)
    if (c.id.starts_with("drawn-")) ids.push_back(c.id);
  CHECK(ids == std::vector<std::string>{"drawn-n-b", "drawn-a-b", "drawn-line-feed", "drawn-n-b-2"});
  std::size_t found = 0;
  for (const PlacedProgram& f : m.programs) {
    CHECK(f.file.file.find_first_not_of("abcdefghijklmnopqrstuvwxyz0123456789-.") == std::string::npos);
    found += f.file.file.find("drawn") != std::string::npos ||
             std::any_of(f.file.cuts.begin(), f.file.cuts.end(), [](auto& c) { return c.starts_with("drawn-"); });
  }
  CHECK(found > 0);
  const std::string svg = body_svg(m.body().shape, {});
  CHECK(svg.find("a\"><b") == std::string::npos);
  CHECK(std::count(svg.begin(), svg.end(), '"') % 2 == 0);
  CHECK_THAT(body_dxf(m.body().shape, {}), Contains("DRAWN_LINE_FEED"));
}

TEST_CASE("a project called as a format's own word makes a binary STL all the same") {
  Project p = *project_from("plain");
  for (const char* name : {"solid oak", "solid", "S\nolid"}) {
    p.name = name;
    const Made m = made(p, "cover");
    const ExportFormat* stl = find_export("fretboard", ".stl", "");
    REQUIRE(stl != nullptr);
    const auto bytes = stl->write(*all_parts().find("fretboard"), m.followed, *m.cache, {});
    REQUIRE(bytes);
    CHECK(bytes->substr(0, 5) != "solid");
    std::uint32_t triangles = 0;
    std::memcpy(&triangles, bytes->data() + 80, 4);
    CHECK(bytes->size() == 84 + 50 * static_cast<std::size_t>(triangles));
  }
}

TEST_CASE("a router that cannot be is a sentence, and an offset that leaves nothing leaves templates out") {
  for (const double d : {0.0, -1.0, 400.0, std::nan(""), std::numeric_limits<double>::infinity()}) {
    CHECK(check_router({d, 12.7}));
    CHECK(check_router({12.7, d}));
  }
  CHECK_FALSE(check_router({12.7, 25.4}));
  const Made m = made(*project_from("plain"), "body");
  CHECK(router_templates(m.body().shape, {12.7, 80}).size() < router_templates(m.body().shape, {}).size() + 1);
  CHECK(router_templates(m.body().shape, {1, 900}).size() <= 1);  // an outline of less than nothing
}
