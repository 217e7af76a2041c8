// PartValues: the numbers of every part of a project, each under its part's id, without knowing what they are. A part's
// numbers are a plain comparable struct T with `static constexpr const char* part`, and `drawn_bytes()` where they can
// hold much (drawn outlines, sections); copies share them until one is changed. Numbers never touched are the usual
// ones, T{}, and compare equal to them.
#pragma once

#include <map>
#include <memory>
#include <stdexcept>
#include <string>

namespace wren {

class PartValues {
  struct Any {
    virtual ~Any() = default;
    [[nodiscard]] virtual bool same(const Any& other) const = 0;
    [[nodiscard]] virtual bool usual() const = 0;
    [[nodiscard]] virtual std::size_t weight() const = 0;
  };
  template <class T>
  struct Holds final : Any {
    explicit Holds(T v) : value(std::move(v)) {}
    [[nodiscard]] bool same(const Any& other) const override {
      const auto* o = dynamic_cast<const Holds*>(&other);
      return o != nullptr && value == o->value;
    }
    [[nodiscard]] bool usual() const override { return value == T{}; }
    [[nodiscard]] std::size_t weight() const override {
      if constexpr (requires { value.drawn_bytes(); })
        return sizeof(T) + value.drawn_bytes();
      else
        return sizeof(T);
    }
    T value;
  };

 public:
  /// Valid until the part's numbers are changed.
  template <class T>
  [[nodiscard]] const T& of() const {
    const auto it = values_.find(T::part);
    if (it == values_.end()) {
      static const T usual{};
      return usual;
    }
    return held<T>(*it->second);
  }
  /// To change them: copied first where another project shares them.
  template <class T>
  [[nodiscard]] T& of() {
    auto& slot = values_[T::part];
    if (!slot) {
      slot = std::make_shared<Holds<T>>(T{});
    } else if (slot.use_count() > 1) {
      slot = std::make_shared<Holds<T>>(held<T>(*slot));
    }
    return const_cast<T&>(held<T>(*slot));
  }
  /// True where both have the same numbers of a part.
  [[nodiscard]] bool same(const PartValues& other, const std::string& part) const {
    const auto a = values_.find(part);
    const auto b = other.values_.find(part);
    const bool here = a != values_.end();
    const bool there = b != other.values_.end();
    if (here && there) return a->second == b->second || a->second->same(*b->second);
    return (!here || a->second->usual()) && (!there || b->second->usual());
  }
  /// Bytes of the parts that are not shared with another project.
  [[nodiscard]] std::size_t weight_beside(const PartValues& other) const {
    std::size_t bytes = 0;
    for (const auto& [part, value] : values_)
      if (const auto it = other.values_.find(part); it == other.values_.end() || it->second != value)
        bytes += value->weight();
    return bytes;
  }
  /// Back to the usual numbers.
  void forget(const std::string& part) { values_.erase(part); }

  friend bool operator==(const PartValues& a, const PartValues& b) {
    for (const auto& [part, value] : a.values_)
      if (!a.same(b, part)) return false;
    for (const auto& [part, value] : b.values_)
      if (!a.same(b, part)) return false;
    return true;
  }

 private:
  template <class T>
  [[nodiscard]] static const T& held(const Any& any) {
    const auto* holds = dynamic_cast<const Holds<T>*>(&any);
    if (holds == nullptr) throw std::logic_error(std::string("the numbers of part '") + T::part + "' are of two kinds");
    return holds->value;
  }
  std::map<std::string, std::shared_ptr<const Any>> values_;
};

}  // namespace wren
