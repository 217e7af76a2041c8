// PartKind: a part as the interpreter knows it. A part brings its numbers' table, its own geometry and judgement, and
// says what its pieces are; everything else — cuts, programs, proof, ledger, build sheet, run sheet, files, window and
// command line — follows from that in one way. A new part is one file, one line in parts/table.cpp, and its tests.
#pragma once

#include <any>

#include "core/job/build_line.hpp"
#include "core/job/cache.hpp"
#include "core/job/ledger.hpp"
#include "core/job/make_cuts.hpp"
#include "core/skin/mesh.hpp"

namespace wren {

/// What follows from a part's numbers without planning a cut: fast enough to follow every keystroke.
struct Design {
  std::any shape;  // the part's own, held as shared_ptr<const T>
  Rack rack;       // in use: measured diameters taken over
  std::vector<Remark> remarks;
  bool present = true;  // false: these numbers ask for no such part (no cover, no cradle)
};

/// Designs of the parts that a part is made from, and its own.
class Designs {
 public:
  void set(const std::string& part, std::shared_ptr<const Design> design) { all_[part] = std::move(design); }
  [[nodiscard]] std::shared_ptr<const Design> find(const std::string& part) const {
    const auto it = all_.find(part);
    return it != all_.end() ? it->second : nullptr;
  }
  /// The shape of the part that T::part names. Precondition: the part is there and its shape is a T.
  template <class T>
  [[nodiscard]] const T& shape() const {
    return *shared<T>();
  }
  template <class T>
  [[nodiscard]] const std::shared_ptr<const T>& shared() const {
    return std::any_cast<const std::shared_ptr<const T>&>(all_.at(T::part)->shape);
  }

 private:
  std::map<std::string, std::shared_ptr<const Design>> all_;
};

struct PartInput {
  const Project& project;
  const Designs& designs;
  Cache& cache;
};

/// What a part is cut from and how, with the numbers that follow from choosing it.
struct Pieces {
  std::vector<Piece> pieces;  // in running order
  std::vector<Remark> remarks;
  std::vector<LedgerLine> numbers;
};

/// How near a mesh comes to the design, mm: for export, and for the picture, which follows every edit.
constexpr double mesh_for_export = 0.02;
constexpr double mesh_for_picture = 0.15;

/// What a part's run sheet says beyond its sides' steps.
struct SheetWords {
  std::vector<std::pair<std::string, Words>> facts;
  std::vector<Words> set_up;
  std::vector<Words> by_hand;
  Materials materials;                // for cautions about their dust
  std::vector<std::string> cautions;  // of its own
  std::vector<std::string> boxes;     // to fill in by hand
};

struct PartKind {
  PartTable table;                      // id, title, fields
  std::vector<std::string> needs{};     // parts whose designs it is made from
  std::vector<std::string> measures{};  // keys, or beginnings of keys, whose measured values it follows
  Expected<Design> (*design)(const PartInput&) = nullptr;
  Pieces (*pieces)(const PartInput&) = nullptr;
  std::vector<LedgerLine> (*numbers)(const PartInput&) = nullptr;  // worked out of the design
  PartLines (*lines)(const PartInput*, const Project&) = nullptr;  // null input: no design follows
  SheetWords (*words)(const PartInput&) = nullptr;
  /// Within `within` mm of the design, walls and rounded edges too: coarse for the picture, fine for export.
  Mesh (*mesh)(const PartInput&, double within) = nullptr;
  /// A cover, a jig: stands among the small parts of the build sheet, not in a section of its own.
  bool small = false;

  [[nodiscard]] const std::string& id() const { return table.id; }
  [[nodiscard]] const std::string& title() const { return table.title; }
};

/// The parts there are, in running order, with the book of all their fields.
class Parts {
 public:
  explicit Parts(std::vector<PartKind> kinds);
  [[nodiscard]] const std::vector<PartKind>& kinds() const { return kinds_; }
  [[nodiscard]] const FieldBook& book() const { return book_; }
  /// nullptr where there is none of this id.
  [[nodiscard]] const PartKind* find(const std::string& id) const;
  /// "fretboard, neck or body": for messages.
  [[nodiscard]] std::string names() const;
  /// A part and everything it is made from, the deepest first.
  [[nodiscard]] std::vector<std::string> made_from(const PartKind& kind) const;

 private:
  std::vector<PartKind> kinds_;
  FieldBook book_;
};

/// A part's design from its own shape, which carries the rack in use and its remarks.
template <class T>
[[nodiscard]] Design design_of(T shape) {
  Rack rack = shape.rack;
  std::vector<Remark> remarks = shape.remarks;
  return {std::shared_ptr<const T>(std::make_shared<const T>(std::move(shape))), std::move(rack), std::move(remarks),
          true};
}

}  // namespace wren
