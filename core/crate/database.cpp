#include "crate/database.h"

#include <sqlite3.h>
#include <utility>

namespace tuvvo {

namespace {

[[noreturn]] void fail(sqlite3* database, int code) {
  const int plain = code & 0xff;
  throw DatabaseTrouble{database ? sqlite3_errmsg(database) : sqlite3_errstr(code),
                        plain == SQLITE_CORRUPT || plain == SQLITE_NOTADB, plain};
}

constexpr int kPatienceMs = 10'000;

} // namespace

std::string DatabaseTrouble::remedy() const {
  if (damaged) return "It is built again from your files; nothing you wrote is lost.";
  switch (code) {
  case SQLITE_FULL:
    return "Make room on the disc.";
  case SQLITE_READONLY:
  case SQLITE_PERM:
  case SQLITE_CANTOPEN:
  case SQLITE_AUTH:
    return "Check that its folder is there and may be written to.";
  case SQLITE_BUSY:
  case SQLITE_LOCKED:
    return "Another program is using it; try again in a moment.";
  case SQLITE_IOERR:
    return "The disc may be full or failing.";
  default:
    return "Start Tuvvo again.";
  }
}

Statement::Statement(sqlite3* database, std::string_view sql) : m_database(database) {
  const int code =
      sqlite3_prepare_v3(database, sql.data(), int(sql.size()), 0, &m_statement, nullptr);
  if (code != SQLITE_OK) fail(database, code);
}

Statement::~Statement() { sqlite3_finalize(m_statement); }

Statement::Statement(Statement&& other) noexcept
    : m_database(other.m_database), m_statement(std::exchange(other.m_statement, nullptr)) {}

bool Statement::step() {
  const int code = sqlite3_step(m_statement);
  if (code == SQLITE_ROW) return true;
  if (code == SQLITE_DONE) return false;
  sqlite3_reset(m_statement);
  fail(m_database, code);
}

void Statement::reset() {
  sqlite3_reset(m_statement);
  sqlite3_clear_bindings(m_statement);
}

void Statement::bind(int place, std::int64_t value) {
  sqlite3_bind_int64(m_statement, place, value);
}
void Statement::bind(int place, double value) { sqlite3_bind_double(m_statement, place, value); }
void Statement::bind(int place, std::string_view value) {
  sqlite3_bind_text64(m_statement, place, value.data(), value.size(), SQLITE_TRANSIENT,
                      SQLITE_UTF8);
}
void Statement::bind(int place, std::span<const std::uint8_t> value) {
  sqlite3_bind_blob64(m_statement, place, value.data(), value.size(), SQLITE_TRANSIENT);
}
void Statement::bind(int place, std::nullopt_t) { sqlite3_bind_null(m_statement, place); }

std::int64_t Statement::integer(int column) const {
  return sqlite3_column_int64(m_statement, column);
}
double Statement::real(int column) const { return sqlite3_column_double(m_statement, column); }
std::string Statement::text(int column) const {
  const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(m_statement, column));
  return text ? std::string(text, std::size_t(sqlite3_column_bytes(m_statement, column)))
              : std::string();
}
std::span<const std::uint8_t> Statement::bytes(int column) const {
  const auto* data = static_cast<const std::uint8_t*>(sqlite3_column_blob(m_statement, column));
  return {data, std::size_t(sqlite3_column_bytes(m_statement, column))};
}
bool Statement::null(int column) const {
  return sqlite3_column_type(m_statement, column) == SQLITE_NULL;
}

Database::Database(const std::filesystem::path& path) {
  const int code =
      sqlite3_open_v2(path.c_str(), &m_database,
                      SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE | SQLITE_OPEN_FULLMUTEX, nullptr);
  if (code != SQLITE_OK) {
    sqlite3* database = std::exchange(m_database, nullptr);
    const DatabaseTrouble trouble{database ? sqlite3_errmsg(database) : sqlite3_errstr(code),
                                  (code & 0xff) == SQLITE_NOTADB, code & 0xff};
    sqlite3_close(database);
    throw trouble;
  }
  sqlite3_busy_timeout(m_database, kPatienceMs);
  // Changing to write-ahead mode does not wait for others by itself.
  for (int waited = 0;; waited += 20) try {
      run("PRAGMA journal_mode = WAL; PRAGMA synchronous = NORMAL; PRAGMA cache_size = -16000;");
      break;
    } catch (const DatabaseTrouble& trouble) {
      if (trouble.code == SQLITE_BUSY && waited < kPatienceMs) {
        sqlite3_sleep(20);
        continue;
      }
      sqlite3_close(m_database);
      throw;
    }
}

Database::~Database() { sqlite3_close(m_database); }

void Database::run(std::string_view sql) {
  const int code = sqlite3_exec(m_database, std::string(sql).c_str(), nullptr, nullptr, nullptr);
  if (code != SQLITE_OK) fail(m_database, code);
}

std::int64_t Database::lastId() const { return sqlite3_last_insert_rowid(m_database); }

Transaction::~Transaction() {
  if (!m_open) return;
  try {
    m_database.run("ROLLBACK");
  } catch (const DatabaseTrouble&) {
    // SQLite has rolled back by itself where it had to.
  }
}

} // namespace tuvvo
