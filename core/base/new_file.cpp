#include "base/new_file.h"

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <ctime>
#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

constexpr std::string_view kBeginning = ".tuvvo-", kEnding = ".part";
constexpr std::int64_t kOldSeconds = 60;
std::atomic<unsigned> fileCount{0};

/// The rename itself is only safe on disc once the folder is.
Result<void> syncFolder(const fs::path& folder) {
  auto& calls = discCalls();
  const std::string name = folder.empty() ? std::string(".") : folder.string();
  const int fd = calls.open(name.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC, 0);
  if (fd < 0) {
    if (errno == EACCES) return {}; // a folder that may be written to and not read
    return discError("Opening the folder", folder, errno);
  }
  const int failed = calls.fsync(fd) < 0 ? errno : 0;
  calls.close(fd);
  // Some file systems cannot sync a folder and say EINVAL; the rename stands all the same.
  if (failed && failed != EINVAL) return discError("Writing the folder", folder, failed);
  return {};
}

} // namespace

NewFile::NewFile(fs::path target, std::string path, int fd)
    : m_target(std::move(target)), m_path(std::move(path)), m_fd(fd) {}

NewFile::NewFile(NewFile&& other) noexcept
    : m_target(std::move(other.m_target)), m_path(std::exchange(other.m_path, {})),
      m_fd(std::exchange(other.m_fd, -1)), m_trouble(other.m_trouble), m_at(other.m_at),
      m_written(other.m_written) {}

NewFile::~NewFile() {
  if (m_fd >= 0) discCalls().close(m_fd);
  if (!m_path.empty()) discCalls().unlink(m_path.c_str());
}

Result<NewFile> NewFile::beside(const fs::path& target, unsigned mode) {
  auto& calls = discCalls();
  struct stat before {};
  const bool replaces = ::stat(target.c_str(), &before) == 0 && S_ISREG(before.st_mode);
  if (replaces) mode = before.st_mode & 0777;
  for (int attempt = 0; attempt < 100; ++attempt) {
    const std::string name = std::string(kBeginning) + std::to_string(::getpid()) + "-" +
                             std::to_string(fileCount.fetch_add(1)) + std::string(kEnding);
    // Whole before anything is on the disc: what runs out of memory leaves nothing behind.
    NewFile file(target, (target.parent_path() / name).string(), -1);
    file.m_fd =
        calls.open(file.m_path.c_str(), O_RDWR | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, mode);
    if (file.m_fd < 0) {
      const int trouble = errno;
      file.m_path.clear();
      if (trouble == EEXIST) continue; // left by another process of that number
      return discError("Creating the file", target, trouble);
    }
    (void)::flock(file.m_fd, LOCK_EX | LOCK_NB);   // where it cannot be locked, its age tells
    if (replaces) (void)::fchmod(file.m_fd, mode); // the mask may have taken from it
    return file;
  }
  return discError("Creating the file", target, EEXIST);
}

Error NewFile::failed(const char* doing, int code) {
  if (m_trouble == 0) m_trouble = code;
  return discError(doing, m_target, m_trouble);
}

Result<void> NewFile::write(std::string_view bytes) {
  if (writeSome(bytes.data(), bytes.size()) < 0) return failed("Writing", errno);
  return {};
}

long NewFile::writeSome(const void* bytes, std::size_t count) {
  const auto* from = static_cast<const char*>(bytes);
  std::size_t done = 0;
  while (done < count) {
    const long n = discCalls().write(m_fd, from + done, count - done);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) {
      if (n == 0) errno = ENOSPC;
      if (m_trouble == 0) m_trouble = errno;
      return -1;
    }
    done += std::size_t(n);
    m_at += n;
    m_written = std::max(m_written, m_at);
  }
  return long(done);
}

long NewFile::readSome(void* bytes, std::size_t count) {
  long n = 0;
  do n = ::read(m_fd, bytes, count);
  while (n < 0 && errno == EINTR);
  if (n > 0) m_at += n;
  return n;
}

std::int64_t NewFile::seek(std::int64_t offset, int whence) {
  const auto at = ::lseek(m_fd, offset, whence);
  if (at >= 0) m_at = at;
  return at;
}

std::int64_t NewFile::size() const {
  struct stat look {};
  return ::fstat(m_fd, &look) == 0 ? std::int64_t(look.st_size) : -1;
}

Result<void> NewFile::sync() {
  if (m_trouble != 0) return failed("Writing", m_trouble);
  if (discCalls().fsync(m_fd) < 0) return failed("Writing to the disc", errno);
  if (size() != m_written) return failed("Writing", EIO);
  // What is read back from now on comes from the disc, not from memory, where the system allows.
  (void)::posix_fadvise(m_fd, 0, 0, POSIX_FADV_DONTNEED);
  return {};
}

Result<void> NewFile::putInPlace(Replace replace) {
  auto& calls = discCalls();
  if (m_trouble != 0) return failed("Writing", m_trouble);
  if (calls.close(std::exchange(m_fd, -1)) < 0) return failed("Closing the file", errno);
  if (calls.rename(m_path.c_str(), m_target.c_str(), replace == Replace::Yes) < 0)
    return failed("Renaming", errno);
  m_path.clear();
  return syncFolder(m_target.parent_path());
}

unsigned modeLike(const fs::path& origin) {
  struct stat look {};
  return ::stat(origin.c_str(), &look) == 0 && S_ISREG(look.st_mode) ? look.st_mode & 0666 : 0666;
}

int removeLeftovers(const fs::path& folder) {
  int removed = 0;
  for (const auto& name : namesIn(folder)) {
    if (!name.starts_with(kBeginning) || !name.ends_with(kEnding)) continue;
    const fs::path path = folder / name;
    const int fd = ::open(path.c_str(), O_RDONLY | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC);
    if (fd < 0) continue;
    struct stat look {};
    const bool ours =
        ::fstat(fd, &look) == 0 && S_ISREG(look.st_mode) && look.st_uid == ::geteuid();
    const std::int64_t age = std::int64_t(std::time(nullptr)) - look.st_mtim.tv_sec;
    // A clock that was set back makes files of the future; they are as old as the other ones.
    const bool old = age > kOldSeconds || age < -kOldSeconds;
    if (ours && old && ::flock(fd, LOCK_EX | LOCK_NB) == 0)
      removed += discCalls().unlink(path.c_str()) == 0;
    ::close(fd);
  }
  return removed;
}

} // namespace tuvvo
