// Cache: results of pure functions by exactly their inputs, so that an edit works out again only what depends on it.
// Owned by whoever asks; thread safe. A value is worked out outside the lock, so two threads may do the same work once.
#pragma once

#include <list>
#include <map>
#include <memory>
#include <mutex>
#include <typeindex>
#include <utility>

namespace wren {

class Cache {
 public:
  /// The value of `make()` for this key; the last `most` of each kind of key and value are kept.
  template <class Value, class Key, class Make>
  Value get(const Key& key, std::size_t most, const Make& make) {
    auto& kept = kept_of<Key, Value>();
    {
      const std::lock_guard lock(mutex_);
      for (auto it = kept.begin(); it != kept.end(); ++it)
        if (it->first == key) {
          kept.splice(kept.begin(), kept, it);
          return kept.front().second;
        }
    }
    Value value = make();
    const std::lock_guard lock(mutex_);
    kept.emplace_front(key, value);
    if (kept.size() > most) kept.pop_back();
    return value;
  }

 private:
  template <class Key, class Value>
  std::list<std::pair<Key, Value>>& kept_of() {
    using List = std::list<std::pair<Key, Value>>;
    const std::lock_guard lock(mutex_);
    auto& slot = lists_[std::type_index(typeid(List))];
    if (!slot) slot = std::make_shared<List>();
    return *static_cast<List*>(slot.get());
  }
  std::mutex mutex_;
  std::map<std::type_index, std::shared_ptr<void>> lists_;
};

}  // namespace wren
