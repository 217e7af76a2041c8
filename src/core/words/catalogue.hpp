// The one catalogue of sentences: GNU gettext's, so that a translation is a file (po/, docs/translating.md).
#pragma once

#include <filesystem>
#include <string>

namespace wren {

/// Sentences in the language of the process' messages: the caller has chosen it by setlocale(LC_MESSAGES, …). What the
/// files do not have stays English.
class Catalogue {
 public:
  /// `folder` holds LANGUAGE/LC_MESSAGES/DOMAIN.mo.
  explicit Catalogue(const std::filesystem::path& folder, std::string domain = "upland-wren");
  [[nodiscard]] std::string text(const std::string& id) const;
  [[nodiscard]] std::string text(const std::string& one, const std::string& many, unsigned long count) const;

 private:
  std::string domain_;
};

}  // namespace wren
