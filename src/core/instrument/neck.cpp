#include "core/instrument/neck.hpp"

#include <cctype>
#include <cmath>
#include <sstream>

namespace wren {

const std::vector<TunerNumbers>& known_tuners() {
  // Sizes as such parts are commonly sold; measure the ones at hand.
  static const std::vector<TunerNumbers> list{
      TunerNumbers{},
      {"open-8", 8.7, 6.3, 9, 0, 20, 8, 13, 23, 2, 8, 9, 0},
      {"stepped-10", 10, 5.8, 10, 0.6, 19, 9, 13, 24.5, 1.6, 7, 0, -11},
      {"bass-17", 17.5, 12, 14, 0, 36, 18, 19, 42, 2.5, 10, 14, -12},
      {"bass-14", 14.3, 9.5, 12, 0, 26, 13, 17, 33, 2, 9, 11, -10},
  };
  return list;
}

std::optional<std::vector<double>> note_frequencies(const std::string& notes) {
  std::vector<double> out;
  std::istringstream in(notes);
  for (std::string word; in >> word;) {
    static constexpr int semitone[7]{9, 11, 0, 2, 4, 5, 7};  // a … g above c
    std::size_t at = 0;
    const int letter = std::tolower(static_cast<unsigned char>(word[at++])) - 'a';
    if (letter < 0 || letter > 6) return {};
    int note = semitone[letter];
    while (at < word.size() && (word[at] == '#' || word[at] == 'b')) note += word[at++] == '#' ? 1 : -1;
    if (at + 1 != word.size() || std::isdigit(static_cast<unsigned char>(word[at])) == 0) return {};
    const int octave = word[at] - '0';
    out.push_back(440 * std::exp2((12 * (octave - 4) + note - 9) / 12.0));
    if (out.size() > 12) return {};
  }
  return out;
}

std::vector<double> tuning_in_use(const std::string& given, int count, double thinnest_gauge) {
  if (const auto notes = note_frequencies(given); notes && static_cast<int>(notes->size()) == count) return *notes;
  const bool bass = thinnest_gauge > 0.6;
  if (bass) {
    // Fourths up from E1; a fifth string below at B0, a sixth above at C3.
    if (count <= 4) return *note_frequencies(count == 3 ? "E1 A1 D2" : "E1 A1 D2 G2");
    std::vector<double> out = *note_frequencies("B0 E1 A1 D2 G2");
    while (static_cast<int>(out.size()) < count) out.push_back(out.back() * std::exp2(5 / 12.0));
    return out;
  }
  std::vector<double> all = *note_frequencies("E2 A2 D3 G3 B3 E4");
  while (static_cast<int>(all.size()) < count) all.insert(all.begin(), all.front() * std::exp2(-5 / 12.0));
  return {all.end() - count, all.end()};
}

}  // namespace wren
