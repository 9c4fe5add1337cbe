// SQLite, as little of it as the crate needs. Inner part of crate/.
#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

struct sqlite3;
struct sqlite3_stmt;

namespace tuvvo {

/// Thrown inside crate/ only, and turned into an Error at its border.
struct DatabaseTrouble {
  std::string what;
  bool damaged = false; ///< the file is no database, or not whole
  int code = 0;         ///< SQLite's, without its details
  [[nodiscard]] std::string remedy() const;
};

/// One question, kept ready. Used by one thread at a time.
class Statement {
public:
  Statement(sqlite3* database, std::string_view sql);
  ~Statement();
  Statement(Statement&& other) noexcept;
  Statement(const Statement&) = delete;

  /// Binds in order, from the first place on; starts the statement anew.
  template <class... Values> Statement& with(const Values&... values) {
    reset();
    int place = 0;
    (bind(++place, values), ...);
    return *this;
  }
  /// @returns whether there is a row
  bool step();
  /// For statements that give no rows.
  void run() {
    while (step()) {
    }
    reset();
  }
  void reset();

  [[nodiscard]] std::int64_t integer(int column) const;
  [[nodiscard]] double real(int column) const;
  [[nodiscard]] std::string text(int column) const;
  [[nodiscard]] std::span<const std::uint8_t>
  bytes(int column) const; ///< valid until the next step
  [[nodiscard]] bool null(int column) const;

private:
  void bind(int place, std::int64_t value);
  void bind(int place, int value) { bind(place, std::int64_t(value)); }
  void bind(int place, bool value) { bind(place, std::int64_t(value)); }
  void bind(int place, double value);
  void bind(int place, std::string_view value);
  void bind(int place, const std::string& value) { bind(place, std::string_view(value)); }
  void bind(int place, const char* value) { bind(place, std::string_view(value)); }
  void bind(int place, std::span<const std::uint8_t> value);
  void bind(int place, std::nullopt_t);
  template <class T> void bind(int place, const std::optional<T>& value) {
    if (value)
      bind(place, *value);
    else
      bind(place, std::nullopt);
  }

  sqlite3* m_database;
  sqlite3_stmt* m_statement = nullptr;
};

/// A database file in write-ahead mode: after a crash it is as it was before or after a change.
class Database {
public:
  explicit Database(const std::filesystem::path& path);
  ~Database();
  Database(const Database&) = delete;
  Database& operator=(const Database&) = delete;

  void run(std::string_view sql);
  [[nodiscard]] Statement prepare(std::string_view sql) { return {m_database, sql}; }
  [[nodiscard]] std::int64_t lastId() const;

private:
  sqlite3* m_database = nullptr;
};

/// All or nothing: what is not committed is taken back.
class Transaction {
public:
  explicit Transaction(Database& database) : m_database(database) {
    m_database.run("BEGIN IMMEDIATE");
  }
  ~Transaction();
  Transaction(const Transaction&) = delete;
  Transaction& operator=(const Transaction&) = delete;
  void commit() {
    m_database.run("COMMIT");
    m_open = false;
  }

private:
  Database& m_database;
  bool m_open = true;
};

} // namespace tuvvo
