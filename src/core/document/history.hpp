// History: undo and redo as a list of whole projects with names. A change that changed nothing is no step; changes with
// the same mark (a drag, one field being typed) join into one step until another mark or `settle`; one that leads back
// to where it began is no step either.
#pragma once

#include <string>
#include <vector>

#include "core/document/project.hpp"

namespace wren {

class History {
 public:
  explicit History(Project start) : saved_(start) { steps_.push_back({std::move(start), {}, {}}); }

  [[nodiscard]] const Project& now() const { return steps_[at_].project; }
  /// True where it became a step, or joined the last one.
  bool change(Project project, std::string name, std::string mark = {});
  void settle() { steps_[at_].mark.clear(); }
  /// Takes back the gesture under way, whose mark nobody has settled: it is no step, and not to be redone. False where
  /// there is none.
  bool give_up();
  bool undo();
  bool redo();
  [[nodiscard]] bool can_undo() const { return at_ > 0; }
  [[nodiscard]] bool can_redo() const { return at_ + 1 < steps_.size(); }
  [[nodiscard]] std::string undo_name() const { return can_undo() ? steps_[at_].name : ""; }
  [[nodiscard]] std::string redo_name() const { return can_redo() ? steps_[at_ + 1].name : ""; }
  /// Replaces the present project without a step, in every later comparison too (what was written to disk is no edit).
  void amend(Project project) { steps_[at_].project = std::move(project); }
  void mark_saved() { saved_ = now(); }
  [[nodiscard]] bool modified() const { return !(saved_ == now()); }

 private:
  static constexpr std::size_t most_ = 1000;
  struct StepBack {
    Project project;
    std::string name;
    std::string mark;
  };
  std::vector<StepBack> steps_;
  std::size_t at_ = 0;
  Project saved_;
};

}  // namespace wren
