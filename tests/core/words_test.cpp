// Sentences of the core: gaps, units, decimal sign, plural forms, and a catalogue of another language.
#include <clocale>
#include <cstdlib>
#include <filesystem>
#include <fstream>

#include <unistd.h>

#include <catch2/catch.hpp>

#include "core/report/problem.hpp"
#include "core/words/catalogue.hpp"
#include "core/words/words.hpp"

using namespace wren;

namespace {

constexpr Audience inches{UnitSystem::inch};
constexpr Audience commas{UnitSystem::millimetre, ','};

/// A catalogue made from a text of gettext's, in a folder of its own, taken away at the end.
class Translated {
 public:
  explicit Translated(const std::string& po) {
    const auto messages = folder_ / "xx" / "LC_MESSAGES";
    std::filesystem::create_directories(messages);
    std::ofstream(folder_ / "xx.po") << po;
    const std::string made = "msgfmt -o " + (messages / "wren-test.mo").string() + " " + (folder_ / "xx.po").string();
    REQUIRE(std::system(made.c_str()) == 0);
    // Any locale but "C" asks for the languages of LANGUAGE.
    before_ = std::setlocale(LC_MESSAGES, nullptr);
    REQUIRE(std::setlocale(LC_MESSAGES, "C.UTF-8") != nullptr);
    ::setenv("LANGUAGE", "xx", 1);
  }
  ~Translated() {
    ::unsetenv("LANGUAGE");
    std::setlocale(LC_MESSAGES, before_.c_str());
    std::filesystem::remove_all(folder_);
  }
  Translated(const Translated&) = delete;
  Translated& operator=(const Translated&) = delete;
  [[nodiscard]] const std::filesystem::path& folder() const { return folder_; }

 private:
  std::filesystem::path folder_ =
      std::filesystem::temp_directory_path() / ("wren-words-" + fmt::format("{}", ::getpid()));
  std::string before_;
};

const char* const three_forms = R"(msgid ""
msgstr ""
"Content-Type: text/plain; charset=UTF-8\n"
"Plural-Forms: nplurals=3; plural=n==1 ? 0 : n>=2 && n<=4 ? 1 : 2;\n"

msgid "The wall is {}, the barrel spans {:.1f}."
msgstr "Спан {1:.1f} ø, muro {0}."

msgid "{} tab holds it."
msgid_plural "{} tabs hold it."
msgstr[0] "{} uno"
msgstr[1] "{} pauci"
msgstr[2] "{} multi"
)";

}  // namespace

TEST_CASE("gaps take their insets in order, each by its type") {
  const Words w = worded("{} of {} strings, {:.2f}° and {}: {}", 3, std::size_t{6}, 1.005, "a name", mm(12.345));
  CHECK(w.str() == "3 of 6 strings, 1.00° and a name: 12.35 mm");
  CHECK(w.id() == "{} of {} strings, {:.2f}° and {}: {}");
  REQUIRE(w.insets().size() == 5);
  CHECK(std::get<long long>(w.insets()[0]) == 3);
  CHECK(std::get<Mm>(w.insets()[4]).value == 12.345);
}

TEST_CASE("lengths are read in the reader's unit, numbers with his decimal sign, and neither touches names") {
  const Words w = worded("{} is {} thick at {:.1f}°", "flat-6.35", mm(12.7), 3.5);
  CHECK(w.in(inches) == "flat-6.35 is 1/2 in thick at 3.5°");
  CHECK(w.in(commas) == "flat-6.35 is 12,7 mm thick at 3,5°");
  CHECK(worded("{}", mm(0.1 + 0.2, 3)).str() == "0.3 mm");
  CHECK(worded("{}", mm(-0.0001, 2)).str() == "0 mm");
  CHECK(worded("{}", mm(1.0 / 3, 0)).str() == "0 mm");
}

TEST_CASE("a sentence in the gap of another, or behind it, keeps what stands in its own gaps") {
  const Words reason = worded("pins {} with {} of play", mm(8), mm(0.127, 3));
  const Words w = worded("It may miss by {} ({}).", mm(25.4), reason);
  CHECK(w.str() == "It may miss by 25.4 mm (pins 8 mm with 0.127 mm of play).");
  CHECK(w.in(inches) == "It may miss by 1 in (pins 0.315 in with 0.005 in of play).");
  CHECK(w.in(commas) == "It may miss by 25,4 mm (pins 8 mm with 0,127 mm of play).");
  const Words behind = "Sides apart: " + reason + "; as given {}";
  CHECK(behind.in(inches) == "Sides apart: pins 0.315 in with 0.005 in of play; as given {}");
  // Nothing before or behind is nothing more.
  CHECK((Words() + reason).id() == reason.id());
  CHECK((reason + "").id() == reason.id());
  CHECK((Words() + "").empty());
  Words long_one;
  for (int k = 0; k < 500; ++k) long_one = long_one + (k > 0 ? ", " : "") + worded("{}", mm(k));
  CHECK(long_one.in(commas).ends_with("498 mm, 499 mm"));
}

TEST_CASE("a text is a sentence as it stands, whatever braces a name has") {
  for (const char* text : {"{} {:.1f} {{x}}", "}{", "{", "layer '{top}'", ""}) {
    CHECK(Words(text).str() == text);
    CHECK(Words(std::string(text)).in(inches) == text);
  }
  CHECK(worded("layer '{}' lies on {{this}}", "a{}b{:x}").str() == "layer 'a{}b{:x}' lies on {this}");
  // Brackets that are no gap, and gaps that nothing is left for, stay.
  CHECK(worded("{a} {} {", 1).str() == "{a} 1 {");
  CHECK(worded("{} {}", 1).str() == "1 {}");
}

TEST_CASE("a sentence says itself wherever a text is wanted") {
  const Words w = worded("{} deep", mm(5));
  const std::string text = w;
  CHECK(text == "5 mm deep");
  CHECK("so " + w == "so 5 mm deep");
  CHECK(w + "." == "5 mm deep.");
  CHECK(fmt::format("[{}] [{:>8}]", w, mm(2)) == "[5 mm deep] [    2 mm]");
  CHECK(w == worded("5 mm {}", "deep"));
  CHECK_FALSE(w == worded("{} deep", mm(6)));
  Words longer{"{} wide", {4.0}};
  longer += ", {} deep";
  longer.add(1.23456);
  CHECK(longer.str() == "4 mm wide, 1.235 mm deep");
  CHECK(Words().empty());
  CHECK_FALSE(w.empty());
}

TEST_CASE("English counts: one, and all others") {
  for (const long long n : {0LL, 2LL, 5LL, 101LL})
    CHECK(worded_by(n, "{} tab holds it.", "{} tabs hold it.", n).str() == fmt::format("{} tabs hold it.", n));
  CHECK(worded_by(1, "{} tab holds it.", "{} tabs hold it.", 1).str() == "1 tab holds it.");
}

TEST_CASE("a problem is told in the reader's words") {
  const Problem p{ProblemKind::range, worded("the blank is {} too short", mm(25.4)), "body.blank",
                  worded("Take one of {} or more", mm(508))};
  CHECK(p.text() == "body.blank: the blank is 25.4 mm too short. Take one of 508 mm or more.");
  CHECK(p.text(inches) == "body.blank: the blank is 1 in too short. Take one of 20 in or more.");
}

TEST_CASE("a translation is a file: order turned round, as many plural forms as the language has, the rest English") {
  const Translated made(three_forms);
  const Catalogue catalogue(made.folder(), "wren-test");
  const Audience there{UnitSystem::inch, ',', &catalogue};
  const Words w = worded("The wall is {}, the barrel spans {:.1f}.", mm(25.4), 9.04);
  CHECK(w.in(there) == "Спан 9,0 ø, muro 1 in.");
  CHECK(w.str() == "The wall is 25.4 mm, the barrel spans 9.0.");
  const auto tabs = [&](long long n) { return worded_by(n, "{} tab holds it.", "{} tabs hold it.", n).in(there); };
  CHECK(tabs(1) == "1 uno");
  CHECK(tabs(3) == "3 pauci");
  CHECK(tabs(12) == "12 multi");
  CHECK(worded("Nobody translated {}.", 1).in(there) == "Nobody translated 1.");
  CHECK(Words("").in(there).empty());
}
