#include "core/document/history.hpp"

#include <numeric>

namespace wren {

bool History::change(Project project, Words name, std::string mark) {
  if (project == now()) return false;
  Project before = now();
  before.record = project.record;
  if (project == before) {
    // Only a fact was added.
    set_record(std::move(project.record));
    return true;
  }
  ++revision_;
  const bool joins = !mark.empty() && at_ > 0 && steps_[at_].mark == mark;
  steps_.resize(at_ + 1);
  if (joins) {
    steps_[at_ - 1].project.record = project.record;
    if (project == steps_[at_ - 1].project) {
      steps_.pop_back();
      --at_;
      return true;
    }
    steps_[at_].bytes = weight_beside(project, steps_[at_ - 1].project);
    steps_[at_].project = std::move(project);
    return true;
  }
  const std::size_t bytes = weight_beside(project, now());
  steps_[at_].project.record = {};  // kept by the present step alone
  steps_.push_back({std::move(project), std::move(name), std::move(mark), bytes});
  at_ = steps_.size() - 1;
  make_room();
  return true;
}

std::size_t History::bytes() const {
  return std::accumulate(steps_.begin(), steps_.end(), std::size_t{0},
                         [](std::size_t sum, const StepBack& s) { return sum + s.bytes; });
}

void History::make_room() {
  std::size_t all = bytes();
  std::size_t gone = 0;
  // The last step can always be taken back.
  while (steps_.size() - gone > 2 && (steps_.size() - gone > most_ || all > most_bytes_)) all -= steps_[gone++].bytes;
  steps_.erase(steps_.begin(), steps_.begin() + static_cast<std::ptrdiff_t>(gone));
  at_ -= gone;
}

void History::go_to(std::size_t step) {
  if (step == at_) return;
  ++revision_;
  steps_[step].project.record = std::move(steps_[at_].project.record);
  steps_[at_].project.record = {};
  at_ = step;
}

bool History::give_up() {
  if (at_ == 0 || steps_[at_].mark.empty()) return false;
  go_to(at_ - 1);
  steps_.resize(at_ + 1);
  return true;
}

bool History::undo() {
  if (!can_undo()) return false;
  settle();
  go_to(at_ - 1);
  return true;
}

bool History::redo() {
  if (!can_redo()) return false;
  go_to(at_ + 1);
  return true;
}

}  // namespace wren
