// Covering arrays: rows of choices that hold every permitted pair of ways at least once, where all combinations would
// be thousands (pairwise testing, greedily: Cohen, Dalal, Fredman, Patton, IEEE Trans. Softw. Eng. 23, 1997).
#pragma once

#include <array>
#include <functional>
#include <set>

#include "support/made.hpp"
#include "support/random.hpp"

namespace wren {

/// A question, and each way of answering it as the edits that take it.
struct Choice {
  const char* name;
  std::vector<Edits> ways;
};

using Picked = std::vector<std::size_t>;  // a way for each choice

inline std::size_t way_of(const std::vector<Choice>& choices, const Picked& p, const std::string& name) {
  for (std::size_t i = 0; i < choices.size(); ++i)
    if (choices[i].name == name) return p[i];
  throw std::logic_error(name);
}

/// Rows that hold every permitted pair, from a seed.
inline std::vector<Picked> covering(const std::vector<Choice>& choices,
                                    const std::function<bool(const Picked&)>& permitted, unsigned seed) {
  Random random(seed);
  const std::size_t n = choices.size();
  using Pair = std::array<std::size_t, 4>;
  const auto pairs_of = [&](const Picked& p) {
    std::vector<Pair> out;
    for (std::size_t i = 0; i < n; ++i)
      for (std::size_t k = i + 1; k < n; ++k) out.push_back({i, p[i], k, p[k]});
    return out;
  };
  const auto any = [&] {
    Picked p(n);
    do
      for (std::size_t i = 0; i < n; ++i)
        p[i] = static_cast<std::size_t>(random.between(0, static_cast<double>(choices[i].ways.size()) - 1e-9));
    while (!permitted(p));
    return p;
  };
  std::set<Pair> open;
  for (int k = 0; k < 20000; ++k)
    for (const Pair& pair : pairs_of(any())) open.insert(pair);  // pairs that some permitted row has
  std::vector<Picked> rows;
  while (!open.empty()) {
    Picked best;
    std::size_t most = 0;
    for (int k = 0; k < 1200; ++k) {
      const Picked p = any();
      std::size_t covers = 0;
      for (const Pair& pair : pairs_of(p)) covers += open.count(pair);
      if (covers > most) {
        most = covers;
        best = p;
      }
    }
    if (most == 0) continue;
    for (const Pair& pair : pairs_of(best)) open.erase(pair);
    rows.push_back(best);
  }
  return rows;
}

inline Edits edits_of(const std::vector<Choice>& choices, const Picked& row) {
  Edits out;
  for (std::size_t i = 0; i < row.size(); ++i)
    out.insert(out.end(), choices[i].ways[row[i]].begin(), choices[i].ways[row[i]].end());
  return out;
}

inline std::string words_of(const Edits& edits) {
  std::string out;
  for (const auto& [key, value] : edits) out += " " + key + "=\"" + value + "\"";
  return out;
}

/// What stops the work, a line each.
inline std::string stopping(const std::vector<Remark>& remarks) {
  std::string out;
  for (const Remark& r : remarks)
    if (r.weight == Weight::stop) out += r.kind + ": " + r.sentence + "\n";
  return out;
}

}  // namespace wren
