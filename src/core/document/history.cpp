#include "core/document/history.hpp"

namespace wren {

bool History::change(Project project, std::string name, std::string mark) {
  if (project == now()) return false;
  const bool joins = !mark.empty() && at_ > 0 && steps_[at_].mark == mark;
  steps_.resize(at_ + 1);
  if (joins && project == steps_[at_ - 1].project) {
    steps_.pop_back();
    --at_;
    return true;
  }
  if (joins) {
    steps_[at_].project = std::move(project);
    return true;
  }
  steps_.push_back({std::move(project), std::move(name), std::move(mark)});
  if (steps_.size() > most_) steps_.erase(steps_.begin());
  at_ = steps_.size() - 1;
  return true;
}

bool History::give_up() {
  if (at_ == 0 || steps_[at_].mark.empty()) return false;
  steps_.resize(at_);
  --at_;
  return true;
}

bool History::undo() {
  if (!can_undo()) return false;
  settle();
  --at_;
  return true;
}

bool History::redo() {
  if (!can_redo()) return false;
  ++at_;
  return true;
}

}  // namespace wren
