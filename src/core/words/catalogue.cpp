#include "core/words/catalogue.hpp"

#include <utility>

#include <libintl.h>

namespace wren {

Catalogue::Catalogue(const std::filesystem::path& folder, std::string domain) : domain_(std::move(domain)) {
  bindtextdomain(domain_.c_str(), folder.c_str());
  bind_textdomain_codeset(domain_.c_str(), "UTF-8");
}

std::string Catalogue::text(const std::string& id) const {
  // The empty id is the file's own head.
  return id.empty() ? id : dgettext(domain_.c_str(), id.c_str());
}

std::string Catalogue::text(const std::string& one, const std::string& many, unsigned long count) const {
  return dngettext(domain_.c_str(), one.c_str(), many.c_str(), count);
}

}  // namespace wren
