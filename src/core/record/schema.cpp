// The tables of the shop's book, version by version: each step is run once, in order. docs/shop-book.md.
#include "core/record/session.hpp"

#include <fmt/format.h>

namespace wren {
namespace {

constexpr const char* first = R"sql(
CREATE TABLE book (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
CREATE TABLE cutter_fact (
  n INTEGER PRIMARY KEY, cutter TEXT NOT NULL, at TEXT NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL,
  note TEXT NOT NULL, retired INTEGER NOT NULL CHECK (retired IN (0, 1)),
  number INTEGER NOT NULL, kind TEXT NOT NULL, diameter_mm REAL NOT NULL, measured_mm REAL, corner_radius_mm REAL NOT NULL,
  point_angle_deg REAL NOT NULL, flutes INTEGER NOT NULL, cutting_length_mm REAL NOT NULL, overall_mm REAL NOT NULL,
  stickout_mm REAL NOT NULL, nut_mm REAL NOT NULL, modulus_gpa REAL NOT NULL, centre_cutting INTEGER NOT NULL,
  spiral TEXT NOT NULL, shank_mm REAL, collet_mm REAL, lengths_measured INTEGER NOT NULL);
CREATE INDEX cutter_facts ON cutter_fact (cutter, n);
CREATE VIEW cutter AS SELECT * FROM cutter_fact WHERE n IN (SELECT max(n) FROM cutter_fact GROUP BY cutter);
CREATE TABLE machine_fact (
  n INTEGER PRIMARY KEY, machine TEXT NOT NULL, at TEXT NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL,
  note TEXT NOT NULL, retired INTEGER NOT NULL CHECK (retired IN (0, 1)), numbers TEXT NOT NULL);
CREATE INDEX machine_facts ON machine_fact (machine, n);
CREATE VIEW machine AS SELECT * FROM machine_fact WHERE n IN (SELECT max(n) FROM machine_fact GROUP BY machine);
CREATE TABLE material_fact (
  n INTEGER PRIMARY KEY, material TEXT NOT NULL, at TEXT NOT NULL, who TEXT NOT NULL, what TEXT NOT NULL,
  note TEXT NOT NULL, retired INTEGER NOT NULL CHECK (retired IN (0, 1)), numbers TEXT NOT NULL);
CREATE INDEX material_facts ON material_fact (material, n);
CREATE VIEW material AS SELECT * FROM material_fact WHERE n IN (SELECT max(n) FROM material_fact GROUP BY material);
)sql";

constexpr const char* second = R"sql(
CREATE TABLE run (
  id TEXT PRIMARY KEY, began TEXT NOT NULL, ended TEXT NOT NULL, instrument TEXT NOT NULL, project TEXT NOT NULL,
  part TEXT NOT NULL, piece TEXT NOT NULL, side TEXT NOT NULL, program TEXT NOT NULL, sha256 TEXT NOT NULL,
  cutter TEXT NOT NULL, cuts TEXT NOT NULL, machine TEXT NOT NULL, signed_by TEXT NOT NULL, proved_for TEXT NOT NULL,
  outcome TEXT NOT NULL, air INTEGER NOT NULL, planned_s REAL NOT NULL, real_s REAL NOT NULL, lines INTEGER NOT NULL,
  done INTEGER NOT NULL, from_line INTEGER NOT NULL, feed_low REAL NOT NULL, feed_high REAL NOT NULL);
CREATE INDEX run_began ON run (began);
CREATE TABLE run_event (
  run TEXT NOT NULL REFERENCES run (id), n INTEGER NOT NULL, seconds REAL NOT NULL, kind TEXT NOT NULL,
  line INTEGER NOT NULL, words TEXT NOT NULL, PRIMARY KEY (run, n)) WITHOUT ROWID;
CREATE VIEW pace AS SELECT cutter, cuts, count(*) AS runs, sum(planned_s) AS planned_s, sum(real_s) AS real_s
  FROM run WHERE outcome = 'done' AND air = 0 AND from_line = 1 AND planned_s > 0 GROUP BY cutter, cuts;
)sql";

/// The library runs one statement at a time.
void run_all(soci::session& sql, std::string script) {
  for (std::size_t end = script.find(';'); end != std::string::npos; end = script.find(';')) {
    sql << script.substr(0, end);
    script.erase(0, end + 1);
  }
}

}  // namespace

void make_schema(soci::session& sql, int from) {
  const char* steps[] = {first, second};
  for (int version = from; version < ShopBook::schema; ++version) run_all(sql, steps[version]);
  const std::string now = fmt::to_string(ShopBook::schema);
  sql << "INSERT OR REPLACE INTO book VALUES ('schema', :v)", soci::use(now);
}

}  // namespace wren
