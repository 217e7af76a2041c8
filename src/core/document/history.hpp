// History: undo and redo as a list of whole projects with names. A change that changed nothing is no step; changes with
// the same mark (a drag, one field being typed) join into one step until another mark or `settle`; one that leads back
// to where it began is no step either. What was measured and made (the record) is the same in all of them: undo and
// redo never touch it. The oldest steps go when there are too many, or when they need too many bytes.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/document/project.hpp"
#include "core/words/words.hpp"

namespace wren {

class History {
 public:
  explicit History(Project start) : saved_(start) { steps_.push_back({std::move(start), {}, {}}); }

  [[nodiscard]] const Project& now() const { return steps_[at_].project; }
  /// True where it became a step, or joined the last one.
  bool change(Project project, Words name, std::string mark = {});
  void settle() { steps_[at_].mark.clear(); }
  /// Takes back the gesture under way, whose mark nobody has settled: it is no step, and not to be redone. False where
  /// there is none.
  bool give_up();
  bool undo();
  bool redo();
  [[nodiscard]] bool can_undo() const { return at_ > 0; }
  [[nodiscard]] bool can_redo() const { return at_ + 1 < steps_.size(); }
  [[nodiscard]] Words undo_name() const { return can_undo() ? steps_[at_].name : Words(); }
  [[nodiscard]] Words redo_name() const { return can_redo() ? steps_[at_ + 1].name : Words(); }
  /// A fact is no step: it is so before and after every edit.
  void set_record(Record record) {
    steps_[at_].project.record = std::move(record);
    ++revision_;
  }
  /// Counts up with everything that changes the present project.
  [[nodiscard]] std::uint64_t revision() const { return revision_; }
  [[nodiscard]] std::size_t steps() const { return steps_.size(); }
  /// The present step's place among them; the steps before it are how the project came to be.
  [[nodiscard]] std::size_t present() const { return at_; }
  [[nodiscard]] const Project& project_at(std::size_t step) const { return steps_[step].project; }
  /// What the step did; empty for the first.
  [[nodiscard]] const Words& name_at(std::size_t step) const { return steps_[step].name; }
  /// Of all steps together, beyond what they share.
  [[nodiscard]] std::size_t bytes() const;
  void mark_saved() { saved_ = now(); }
  [[nodiscard]] bool modified() const { return !(saved_ == now()); }

 private:
  static constexpr std::size_t most_ = 1000;
  static constexpr std::size_t most_bytes_ = 256U << 20;
  void go_to(std::size_t step);
  void make_room();
  struct StepBack {
    Project project;
    Words name;
    std::string mark;
    std::size_t bytes = 0;  // beside the step before
  };
  std::vector<StepBack> steps_;
  std::size_t at_ = 0;
  std::uint64_t revision_ = 0;
  Project saved_;
};

}  // namespace wren
