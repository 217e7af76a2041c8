// A text of many megabytes that several hold and hardly anybody changes.
#pragma once

#include <memory>
#include <string>
#include <string_view>
#include <utility>

namespace wren {

/// A string that its copies share. Reads like one; who changes it gets a copy of its own first.
class SharedText {
 public:
  SharedText() : text_(empty()) {}
  SharedText(std::string text) : text_(std::make_shared<std::string>(std::move(text))) {}  // NOLINT: is one
  SharedText(const char* text) : SharedText(std::string(text)) {}                          // NOLINT
  [[nodiscard]] const std::string& str() const { return *text_; }
  operator const std::string&() const { return *text_; }  // NOLINT
  [[nodiscard]] std::size_t size() const { return text_->size(); }

  [[nodiscard]] std::string& edit() {
    if (text_.use_count() > 1) text_ = std::make_shared<std::string>(*text_);
    return *text_;
  }
  friend bool operator==(const SharedText& a, std::string_view b) { return a.str() == b; }

 private:
  static const std::shared_ptr<std::string>& empty() {
    static const auto none = std::make_shared<std::string>();
    return none;
  }
  std::shared_ptr<std::string> text_;
};

}  // namespace wren
