// Who has a project open: one window writes, the others look.
#pragma once

#include "base/result.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>

namespace tuvvo {

/// Who holds a folder, as its lock file says.
struct LockHolder {
  std::string host, user;
  std::int64_t process = 0;
  std::int64_t started = 0; ///< of the process, in the system's ticks since it was booted
  std::int64_t since = 0;   ///< when the folder was opened, in seconds since 1970
};

/// A file "lock" in a folder, with host, process and time. It is locked by flock(2) as long as it
/// is held, so that a killed process holds nothing; where the file system cannot do that, and for
/// other machines that share the folder, what is written in it tells: a lock of this machine whose
/// process is gone is stale, and so is one of another machine that was not refreshed for five
/// minutes.
///
/// Lives on one thread; taken again by the same process it is busy as well.
class FolderLock {
public:
  enum class State { Held, Busy, Impossible };
  struct Taken {
    State state = State::Impossible;  ///< Impossible: the folder cannot be written to
    std::unique_ptr<FolderLock> lock; ///< with Held
    std::optional<LockHolder> holder; ///< with Busy, where it can be read
  };
  [[nodiscard]] static Taken take(const std::filesystem::path& folder);
  /// Lets go and removes the file.
  ~FolderLock();
  FolderLock(const FolderLock&) = delete;
  FolderLock& operator=(const FolderLock&) = delete;
  /// Says that it is still held; call it at least every two minutes.
  void refresh();

private:
  FolderLock(std::filesystem::path folder, int fd) : m_folder(std::move(folder)), m_fd(fd) {}
  std::filesystem::path m_folder;
  int m_fd;
};

/// Makes a folder that nobody else has: "NAME.tuvvo", "NAME 2.tuvvo" and so on, in one step, so
/// that two programs that ask at once get two.
[[nodiscard]] Result<std::filesystem::path> makeFreshFolder(const std::filesystem::path& above,
                                                            const std::string& name,
                                                            const std::string& ending);

} // namespace tuvvo
