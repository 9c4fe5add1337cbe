#include "crate/crate_inside.h"

#include "formats/analysis_json.h"
#include "formats/json_read.h"

#include <algorithm>
#include <array>
#include <cstring>
#include <zlib.h>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

constexpr const char* kTables = R"(
CREATE TABLE source(id INTEGER PRIMARY KEY, hash TEXT UNIQUE, name TEXT NOT NULL,
  kind INTEGER, kindSure REAL, seconds REAL, tempo REAL, steady INTEGER, exact INTEGER, bars INTEGER,
  key INTEGER, keySure REAL, tuning REAL, lufs REAL, hits INTEGER, stars INTEGER NOT NULL DEFAULT 0,
  cleared INTEGER NOT NULL DEFAULT 0, tagged TEXT, parts INTEGER, likeness BLOB);
CREATE TABLE heard(source INTEGER PRIMARY KEY, listening BLOB NOT NULL, picture BLOB NOT NULL);
CREATE TABLE file(id INTEGER PRIMARY KEY, source INTEGER, path TEXT NOT NULL UNIQUE,
  bytes INTEGER NOT NULL, time INTEGER NOT NULL, state INTEGER NOT NULL, why TEXT,
  sweep INTEGER NOT NULL, missing INTEGER NOT NULL DEFAULT 0);
CREATE INDEX fileSource ON file(source);
CREATE INDEX fileState ON file(state);
CREATE INDEX fileBytes ON file(bytes, state);
CREATE TABLE chord(source INTEGER NOT NULL, root INTEGER NOT NULL, minor INTEGER,
  ending TEXT NOT NULL, bars REAL NOT NULL);
CREATE INDEX chordSource ON chord(source);
CREATE INDEX chordRoot ON chord(root, ending, bars, source);
CREATE INDEX chordMinor ON chord(minor, bars, source);
CREATE TABLE marks(hash TEXT PRIMARY KEY, marks TEXT NOT NULL);
CREATE TABLE tag(source INTEGER NOT NULL, tag TEXT NOT NULL COLLATE NOCASE);
CREATE INDEX tagSource ON tag(source);
CREATE INDEX tagName ON tag(tag);
CREATE TABLE used(project TEXT NOT NULL, name TEXT NOT NULL, hash TEXT NOT NULL);
CREATE INDEX usedHash ON used(hash);
CREATE TABLE search(name TEXT PRIMARY KEY, words TEXT NOT NULL);
CREATE TABLE folder(path TEXT PRIMARY KEY);
CREATE TABLE kept(name TEXT PRIMARY KEY, value TEXT NOT NULL);
CREATE VIRTUAL TABLE words USING fts5(name, folder, tags, papers,
  tokenize = "unicode61 remove_diacritics 2", prefix = '1 2 3');
)";

} // namespace

std::string stemOf(const std::string& path) { return fs::path(path).stem().string(); }

std::vector<std::uint8_t> packed(const std::string& text) {
  uLongf size = compressBound(uLong(text.size()));
  std::vector<std::uint8_t> out(4 + size);
  const auto length = std::uint32_t(text.size());
  std::memcpy(out.data(), &length, 4);
  compress2(out.data() + 4, &size, reinterpret_cast<const Bytef*>(text.data()), uLong(text.size()),
            Z_BEST_SPEED);
  out.resize(4 + size);
  return out;
}

std::string unpacked(std::span<const std::uint8_t> bytes) {
  std::uint32_t length = 0;
  if (bytes.size() < 4) return {};
  std::memcpy(&length, bytes.data(), 4);
  if (length > (64u << 20)) return {};
  std::string out(length, '\0');
  uLongf size = length;
  const int code = uncompress(reinterpret_cast<Bytef*>(out.data()), &size, bytes.data() + 4,
                              uLong(bytes.size() - 4));
  return code == Z_OK && size == length ? out : std::string();
}

Crate::Inside::Inside(const fs::path& where, const std::string& stem)
    : database(where / (stem + ".db")), folder(where),
      provenanceFile(where / (stem == "crate" ? "papers.json" : stem + ".papers.json")) {}

Statement& Crate::Inside::ask(const char* sql) {
  const auto known = m_statements.find(sql);
  if (known != m_statements.end()) return known->second;
  return m_statements.emplace(sql, database.prepare(sql)).first->second;
}

void Crate::Inside::makeTables() {
  // Another program may be making them at this moment: whoever comes second finds them made.
  Transaction all(database);
  if (auto version = database.prepare("PRAGMA user_version");
      version.step() && version.integer(0) > 0) {
    // What came to be kept after the first crates were made.
    database.run("CREATE TABLE IF NOT EXISTS kept(name TEXT PRIMARY KEY, value TEXT NOT NULL)");
    const std::int64_t schema = version.integer(0);
    version.reset();
    bringUp(schema);
    all.commit();
    return;
  }
  database.run(kTables);
  database.run("PRAGMA user_version = " + std::to_string(kSchema));
  all.commit();
}

/// From an earlier schema, step after step, all or nothing: it is within a transaction.
void Crate::Inside::bringUp(std::int64_t schema) {
  if (schema >= kSchema) return;
  if (schema < 2) {
    std::vector<std::pair<std::string, std::string>> marks;
    auto rows = database.prepare("SELECT hash, marks FROM marks");
    while (rows.step()) marks.emplace_back(rows.text(0), marksTextFrom1(rows.text(1)));
    auto put = database.prepare("UPDATE marks SET marks = ?2 WHERE hash = ?1");
    for (const auto& [hash, text] : marks) put.with(hash, text).run();
  }
  if (schema < 3) wordFoldersAgain();
  if (schema < 4) {
    // They are filled as sources are heard: what was heard before said nothing of it.
    database.run("ALTER TABLE source ADD COLUMN parts INTEGER");
    database.run("ALTER TABLE source ADD COLUMN likeness BLOB");
  }
  database.run("PRAGMA user_version = " + std::to_string(kSchema));
}

std::string Crate::Inside::kept(const char* name) {
  Statement& question = ask("SELECT value FROM kept WHERE name = ?1");
  std::string value = question.with(name).step() ? question.text(0) : std::string();
  question.reset();
  return value;
}

void Crate::Inside::keep(const char* name, const std::string& value) {
  ask("INSERT OR REPLACE INTO kept(name, value) VALUES(?1, ?2)").with(name, value).run();
}

/// Every table and every column that ours has is there.
void Crate::Inside::checkTables() {
  Database ours(":memory:");
  ours.run(kTables);
  auto tables = ours.prepare("SELECT name FROM sqlite_master WHERE type = 'table'");
  while (tables.step()) {
    auto wanted = ours.prepare("SELECT name FROM pragma_table_info(?1)");
    auto there = database.prepare("SELECT 1 FROM pragma_table_info(?1) WHERE name = ?2");
    wanted.with(tables.text(0));
    while (wanted.step())
      if (!there.with(tables.text(0), wanted.text(0)).step())
        throw DatabaseTrouble{"no column " + wanted.text(0) + " of " + tables.text(0), true};
  }
}

void Crate::Inside::checkWhole() {
  checkTables();
  for (const char* table : {"source", "file", "marks", "folder", "search"}) {
    auto check = database.prepare("PRAGMA quick_check('" + std::string(table) + "')");
    if (check.step() && check.text(0) != "ok") throw DatabaseTrouble{check.text(0), true};
  }
}

void Crate::Inside::loadFacets(CrateId only) {
  static const std::string everything =
      "SELECT s.id, s.name, s.kind, s.seconds, s.tempo, s.steady, s.exact, s.bars, s.key, "
      "s.tuning, "
      "s.hits, s.stars, s.cleared, s.hash IS NOT NULL, (SELECT COUNT(*) FROM file f WHERE f.source "
      "= "
      "s.id AND f.missing = 0), EXISTS(SELECT 1 FROM used u WHERE u.hash = s.hash), s.parts, "
      "s.likeness "
      "FROM source s";
  static const std::string one = everything + " WHERE s.id = ?1";
  Statement& all = only == 0 ? ask(everything.c_str()).with() : ask(one.c_str()).with(only);
  while (all.step()) {
    Facet facet;
    facet.id = all.integer(0);
    facet.name = all.text(1);
    facet.kind = all.null(2) ? std::int8_t(-1) : std::int8_t(all.integer(2));
    facet.seconds = float(all.real(3));
    facet.tempo = float(all.real(4));
    facet.steady = all.integer(5) != 0;
    facet.exact = all.integer(6) != 0;
    facet.bars = int(all.integer(7));
    facet.key = all.null(8) ? std::int8_t(-1) : std::int8_t(all.integer(8));
    facet.tuning = float(all.real(9));
    facet.hitsASecond = facet.seconds > 0 ? float(all.integer(10)) / facet.seconds : 0.0f;
    facet.stars = std::uint8_t(std::clamp<std::int64_t>(all.integer(11), 0, 5));
    facet.cleared = all.integer(12) != 0;
    facet.heard = all.integer(13) != 0;
    facet.copies = int(all.integer(14));
    facet.used = all.integer(15) != 0;
    facet.parts = Parts(all.integer(16));
    if (const auto bytes = all.bytes(17); bytes.size() == sizeof(Likeness))
      std::memcpy(facet.likeness.emplace().data(), bytes.data(), bytes.size());
    facet.reach = -1;
    const auto [place, fresh] = placeOf.try_emplace(facet.id, facets.size());
    if (fresh) {
      namesRanked = false;
      facets.push_back(std::move(facet));
    } else {
      Facet& before = facets[place->second];
      namesRanked = namesRanked && before.name == facet.name;
      facet.nameRank = before.nameRank;
      before = std::move(facet);
    }
  }
  all.reset();
  if (only != 0) return;
  Statement& newest = ask("SELECT IFNULL(MAX(sweep), 0) FROM file");
  if (newest.with().step()) sweep = newest.integer(0);
  newest.reset();
}

void Crate::Inside::rankNames() {
  if (namesRanked) return;
  // Large and small letters stand together. The first sixteen letters decide nearly always.
  struct Entry {
    std::array<std::uint64_t, 2> start;
    Facet* facet;
  };
  const auto small = [](char c) { return c >= 'A' && c <= 'Z' ? char(c + 32) : c; };
  std::vector<Entry> order;
  order.reserve(facets.size());
  for (auto& facet : facets) {
    std::array<std::uint64_t, 2> start{};
    for (std::size_t i = 0; i < std::min<std::size_t>(16, facet.name.size()); ++i)
      start[i / 8] |= std::uint64_t(static_cast<unsigned char>(small(facet.name[i])))
                      << (56 - 8 * (i % 8));
    order.push_back({start, &facet});
  }
  std::sort(order.begin(), order.end(), [&](const Entry& a, const Entry& b) {
    if (a.start != b.start) return a.start < b.start;
    return std::lexicographical_compare(
        a.facet->name.begin(), a.facet->name.end(), b.facet->name.begin(), b.facet->name.end(),
        [&](char x, char y) {
          return static_cast<unsigned char>(small(x)) < static_cast<unsigned char>(small(y));
        });
  });
  std::int32_t rank = 0;
  for (const Entry& entry : order) entry.facet->nameRank = rank++;
  namesRanked = true;
}

std::optional<Analysis> Crate::Inside::analysisOf(CrateId id) {
  Statement& question = ask("SELECT listening FROM heard WHERE source = ?1");
  if (!question.with(id).step()) return std::nullopt;
  const std::string text = unpacked(question.bytes(0));
  question.reset();
  try {
    auto heard = analysisFromJson(json_read::parse(text));
    if (heard) return *heard;
  } catch (const json_read::Bad&) {
    // Told as not heard; the file can be heard again.
  }
  return std::nullopt;
}

CrateId Crate::Inside::idOf(const std::string& hash) {
  Statement& question = ask("SELECT id FROM source WHERE hash = ?1");
  const CrateId id = question.with(hash).step() ? question.integer(0) : 0;
  question.reset();
  return id;
}

CrateId Crate::Inside::idOfFile(std::int64_t file) {
  Statement& question = ask("SELECT source FROM file WHERE id = ?1");
  const CrateId id = question.with(file).step() ? question.integer(0) : 0;
  question.reset();
  return id;
}

Marks Crate::Inside::marksOf(const std::string& hash) {
  Statement& question = ask("SELECT marks FROM marks WHERE hash = ?1");
  Marks marks;
  if (question.with(hash).step())
    if (auto read = marksFromText(question.text(0))) marks = std::move(*read);
  question.reset();
  return marks;
}

void Crate::Inside::drop(CrateId id) {
  for (const char* sql :
       {"DELETE FROM source WHERE id = ?1", "DELETE FROM heard WHERE source = ?1",
        "DELETE FROM words WHERE rowid = ?1", "DELETE FROM chord WHERE source = ?1",
        "DELETE FROM tag WHERE source = ?1"})
    ask(sql).with(id).run();
  const auto found = placeOf.find(id);
  if (found == placeOf.end()) return;
  const std::size_t place = found->second;
  placeOf.erase(found);
  if (place + 1 < facets.size()) {
    facets[place] = std::move(facets.back());
    placeOf[facets[place].id] = place;
  }
  facets.pop_back();
}

void Crate::Inside::dropIfUnwanted(CrateId id) {
  Statement& wanted =
      ask("SELECT EXISTS(SELECT 1 FROM file WHERE source = ?1) OR EXISTS(SELECT 1 FROM source s "
          "WHERE s.id = ?1 AND s.hash IS NOT NULL AND (EXISTS(SELECT 1 FROM marks m WHERE m.hash = "
          "s.hash) OR EXISTS(SELECT 1 FROM used u WHERE u.hash = s.hash)))");
  const bool keep = wanted.with(id).step() && wanted.integer(0) != 0;
  wanted.reset();
  if (keep)
    loadFacets(id);
  else
    drop(id);
}

void Crate::Inside::takeExport(const CrateExport& all, bool over) {
  Transaction once(database);
  for (const auto& folderPath : all.folders)
    ask("INSERT OR IGNORE INTO folder(path) VALUES(?1)").with(folderPath).run();
  for (const auto& [name, words] : all.searches)
    ask(over ? "INSERT OR REPLACE INTO search(name, words) VALUES(?1, ?2)"
             : "INSERT OR IGNORE INTO search(name, words) VALUES(?1, ?2)")
        .with(name, words)
        .run();
  for (const auto& [hash, marks] : all.marks) {
    ask(over ? "INSERT OR REPLACE INTO marks(hash, marks) VALUES(?1, ?2)"
             : "INSERT OR IGNORE INTO marks(hash, marks) VALUES(?1, ?2)")
        .with(hash, marksToText(marks))
        .run();
    if (const CrateId id = idOf(hash)) refresh(id);
  }
  keep("papersRest", extraText(all.extra));
  once.commit();
}

Crate::Crate(std::unique_ptr<Inside> inside) : m_inside(std::move(inside)) {}
Crate::~Crate() = default;

} // namespace tuvvo
