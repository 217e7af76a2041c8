// Memo: the last few results of a pure function, by their inputs, so that an edit works out again only what depends on
// it. Thread safe; a value is worked out outside the lock, so two threads may do the same work once.
#pragma once

#include <list>
#include <mutex>
#include <utility>

namespace wren {

template <class Key, class Value>
class Memo {
 public:
  explicit Memo(std::size_t most) : most_(most) {}

  template <class Make>
  Value get(const Key& key, const Make& make) {
    {
      const std::lock_guard lock(mutex_);
      for (auto it = kept_.begin(); it != kept_.end(); ++it)
        if (it->first == key) {
          kept_.splice(kept_.begin(), kept_, it);
          return kept_.front().second;
        }
    }
    Value value = make();
    const std::lock_guard lock(mutex_);
    kept_.emplace_front(key, value);
    if (kept_.size() > most_) kept_.pop_back();
    return value;
  }

 private:
  std::size_t most_;
  std::mutex mutex_;
  std::list<std::pair<Key, Value>> kept_;
};

}  // namespace wren
