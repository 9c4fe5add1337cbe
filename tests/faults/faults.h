// Faults by number: the n-th call of a kind fails, once or from then on, or ends the process.
// After how SQLite is tested (sqlite.org/testing.html, sections 3.1 to 3.3).
#pragma once

#include "base/hash.h"
#include "base/new_file.h"

#include <cerrno>
#include <fcntl.h>
#include <filesystem>
#include <map>
#include <string>
#include <sys/stat.h>
#include <unistd.h>

namespace tuvvo::test {

/// What is done to the n-th call.
struct Fault {
  int at = -1; ///< from 0; −1: none
  enum class How { Once, ForGood, Kill } how = How::Once;
};

/// System calls that change the disc, counted together.
class FaultyCalls : public DiscCalls {
public:
  explicit FaultyCalls(Fault fault) : m_fault(fault) { setDiscCalls(this); }
  ~FaultyCalls() override { setDiscCalls(nullptr); }
  int open(const char* p, int f, unsigned m) override {
    return fails() ? -1 : DiscCalls::open(p, f, m);
  }
  long write(int fd, const void* b, std::size_t n) override {
    if (dies() && n > 1) { // half of it gets there
      (void)DiscCalls::write(fd, b, n / 2);
      ::_exit(7);
    }
    return fails() ? -1 : DiscCalls::write(fd, b, n);
  }
  int fsync(int fd) override { return fails() ? -1 : DiscCalls::fsync(fd); }
  int close(int fd) override { // it is closed all the same, as close(2) has it
    const bool failed = fails();
    const int code = DiscCalls::close(fd);
    if (failed) errno = ENOSPC;
    return failed ? -1 : code;
  }
  int rename(const char* a, const char* b, bool over) override {
    return fails() ? -1 : DiscCalls::rename(a, b, over);
  }
  int mkdir(const char* p, unsigned m) override { return fails() ? -1 : DiscCalls::mkdir(p, m); }
  int unlink(const char* p) override {
    if (dies()) ::_exit(7);
    return DiscCalls::unlink(p); // what cannot be removed is a leftover, which other tests see to
  }
  [[nodiscard]] int count() const { return m_count; }
  [[nodiscard]] bool reached() const { return m_fault.at >= 0 && m_count > m_fault.at; }

private:
  [[nodiscard]] bool dies() const {
    return m_fault.how == Fault::How::Kill && m_count == m_fault.at;
  }
  bool fails() {
    if (dies()) ::_exit(7);
    const int place = m_count++;
    const bool failing =
        m_fault.at >= 0 && m_fault.how != Fault::How::Kill &&
        (m_fault.how == Fault::How::Once ? place == m_fault.at : place >= m_fault.at);
    if (failing) errno = ENOSPC;
    return failing;
  }
  Fault m_fault;
  int m_count = 0;
};

/// Files of a folder and what is in them, by their names below it.
using Snapshot = std::map<std::string, std::string>;
inline Snapshot snapshotOf(const std::filesystem::path& folder) {
  Snapshot out;
  for (const auto& each : std::filesystem::recursive_directory_iterator(folder)) {
    if (!each.is_regular_file()) continue;
    const auto bytes = readFile(each.path(), 1u << 30);
    out[std::filesystem::relative(each.path(), folder).string()] =
        bytes ? contentHash(bytes->data(), bytes->size()) : "unreadable";
  }
  return out;
}

/// Makes everything in a folder look as if it had been left there long ago.
inline void makeOld(const std::filesystem::path& folder) {
  for (const auto& each : std::filesystem::recursive_directory_iterator(folder)) {
    const timespec long_ago[2] = {{1'000'000'000, 0}, {1'000'000'000, 0}};
    (void)::utimensat(AT_FDCWD, each.path().c_str(), long_ago, 0);
  }
}

} // namespace tuvvo::test
