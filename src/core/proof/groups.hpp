// Places of a blank and which of them hang together: what is one piece of wood, and what has come off it. mm.
#pragma once

#include <utility>
#include <vector>

#include "core/workshop/setup.hpp"

namespace wren {

/// Places of a blank's plan, `pace` apart. The set-up has to outlive it.
class Groups {
 public:
  static constexpr double pace = 1.5;  // mm
  struct Group {
    std::size_t cells = 0;
    int i = 0, j = 0;  // one of them
    [[nodiscard]] double area() const { return static_cast<double>(cells) * pace * pace; }
  };

  explicit Groups(const Setup& setup);
  [[nodiscard]] bool any() const { return columns_ >= 2 && rows_ >= 2; }
  /// A place in the set-up's work frame.
  [[nodiscard]] Vec2 work(int i, int j) const {
    return {setup_->blank_corner.x + (i + 0.5) * pace, setup_->blank_corner.y + (j + 0.5) * pace};
  }
  /// The same in the instrument's.
  [[nodiscard]] Vec2 place(int i, int j) const { return turned(setup_->turn, setup_->to_work.back(work(i, j))); }
  /// `wood(i, j)` tells where there is any.
  template <class Wood>
  void fill(const Wood& wood) {
    for (int j = 0; j < rows_; ++j)
      for (int i = 0; i < columns_; ++i) number_[index(i, j)] = wood(i, j) ? unnamed : air;
    name();
  }
  /// Takes away what is less than two places wide, where `thin(i, j)` says that it may be.
  template <class Thin>
  void open(const Thin& thin) {
    const std::vector<int> before = number_;
    const auto stands = [&](int i, int j) {
      return i >= 0 && j >= 0 && i < columns_ && j < rows_ && before[index(i, j)] != air;
    };
    for (int j = 0; j < rows_; ++j)
      for (int i = 0; i < columns_; ++i) {
        if (before[index(i, j)] == air) continue;
        bool wide = !thin(i, j);
        for (const auto& [a, b] : {std::pair{0, 0}, std::pair{-1, 0}, std::pair{0, -1}, std::pair{-1, -1}})
          wide = wide || (stands(i + a, j + b) && stands(i + a + 1, j + b) && stands(i + a, j + b + 1) &&
                          stands(i + a + 1, j + b + 1));
        number_[index(i, j)] = wide ? unnamed : air;
      }
    name();
  }
  /// Those of `smallest` mm² and more, the largest first.
  [[nodiscard]] std::vector<Group> largest(double smallest) const;
  /// The largest group within so far of a place of the plan (instrument); nullptr: none.
  [[nodiscard]] const Group* near(Vec2 p, double reach) const;

 private:
  static constexpr int air = -1, unnamed = -2;
  [[nodiscard]] std::size_t index(int i, int j) const {
    return static_cast<std::size_t>(j) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(i);
  }
  void name();
  void flood(int i, int j);

  const Setup* setup_;
  int columns_, rows_;
  std::vector<int> number_;
  std::vector<Group> groups_;
  std::vector<std::pair<int, int>> open_;
};

}  // namespace wren
