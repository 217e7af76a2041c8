// Shop: the window's hold on the shop's book. Opened when it is first asked for; what cannot be read or written is said
// in words. The book is small: it is read on the window's thread.
#pragma once

#include <filesystem>
#include <optional>

#include "app/workbench.hpp"
#include "core/record/shop_book.hpp"

namespace wren::app {

class Shop : public QObject {
  Q_OBJECT
 public:
  Shop(Workbench& bench, std::filesystem::path file, QObject* parent = nullptr);

  [[nodiscard]] const std::filesystem::path& file() const { return file_; }
  void set_file(std::filesystem::path file);
  /// There is a book, and it can be read.
  [[nodiscard]] bool there();
  /// Why there is none.
  [[nodiscard]] const std::optional<Problem>& trouble() const { return trouble_; }
  /// Makes a book; the project's own rack and machine go in where `own`.
  std::optional<Problem> begin(ShopBook::Begin how, bool own);

  [[nodiscard]] const std::vector<Entry<Cutter>>& cutters();
  [[nodiscard]] const std::vector<Entry<ShopMachine>>& machines();
  [[nodiscard]] std::vector<Run> runs(std::size_t most = 200);
  [[nodiscard]] std::vector<Run> runs_of(const std::string& sha256);
  [[nodiscard]] const std::vector<Pace>& paces();
  [[nodiscard]] const std::vector<Entry<Material>>& materials();
  [[nodiscard]] std::map<std::string, double> seconds_cut();
  [[nodiscard]] std::vector<Entry<Cutter>> history_of(const std::string& cutter);
  [[nodiscard]] static Told told();
  /// Does something to the book; what was refused is returned, else everybody looks again.
  template <class Deed>
  std::optional<Problem> change(Deed deed) {
    if (!there()) return trouble_;
    if (const auto done = deed(*book_); !done) return done.error();
    look_again();
    return {};
  }
  /// The cutter as the shop has it goes into the project, in one step that can be undone; the other way round.
  std::optional<Problem> take_into_project(const std::string& cutter);
  std::optional<Problem> keep_in_shop(const std::string& cutter);
  /// The same of the machine of that name.
  std::optional<Problem> take_machine();
  std::optional<Problem> keep_machine();

 Q_SIGNALS:
  void changed();

 private:
  void look_again();
  void tell_differences();
  Workbench& bench_;
  std::filesystem::path file_;
  std::optional<ShopBook> book_;
  std::optional<Problem> trouble_;
  std::optional<std::vector<Entry<Cutter>>> cutters_;
  std::optional<std::vector<Entry<ShopMachine>>> machines_;
  std::optional<std::vector<Pace>> paces_;
  std::optional<std::vector<Entry<Material>>> materials_;
  bool tried_ = false;
  bool telling_ = false;
};

}  // namespace wren::app
