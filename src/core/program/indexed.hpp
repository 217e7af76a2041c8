// Iterating what is looked up by its number and handed out by value, because it is kept in a smaller form.
#pragma once

#include <cstddef>
#include <iterator>

namespace wren {

/// Stands at a row of `Rows`, which has operator[](std::size_t). Rows are values: they outlive nothing.
template <class Rows>
class RowIterator {
 public:
  using iterator_category = std::input_iterator_tag;  // what it gives is no reference
  using value_type = typename Rows::value_type;
  using difference_type = std::ptrdiff_t;
  using pointer = void;
  using reference = value_type;

  RowIterator(const Rows& rows, std::size_t at) : rows_(&rows), at_(at) {}
  value_type operator*() const { return (*rows_)[at_]; }
  RowIterator& operator++() {
    ++at_;
    return *this;
  }
  RowIterator operator++(int) {
    const RowIterator before = *this;
    ++at_;
    return before;
  }
  RowIterator operator+(std::ptrdiff_t n) const {
    return {*rows_, static_cast<std::size_t>(static_cast<std::ptrdiff_t>(at_) + n)};
  }
  friend bool operator==(const RowIterator& a, const RowIterator& b) { return a.at_ == b.at_; }

 private:
  const Rows* rows_;
  std::size_t at_;
};

}  // namespace wren
