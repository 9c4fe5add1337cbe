// A file that comes into being beside its target and takes its place only when it is whole.
#pragma once

#include "base/files.h"

namespace tuvvo {

/// Opened with O_EXCL and O_NOFOLLOW under a hidden name of its own (.tuvvo-PROCESS-N.part), and
/// locked as long as it is written, so that what a killed process left behind can be told from what
/// is being written. A file that was not put in place is removed again.
///
/// Every byte goes through discCalls(). The first call that fails is remembered, for libraries that
/// hide it: putInPlace() then refuses. Used by one thread at a time; not for the audio thread.
class NewFile {
public:
  /// @param mode  permissions of a new file, before the process's mask; one that is replaced keeps
  ///              those it has
  [[nodiscard]] static Result<NewFile> beside(const std::filesystem::path& target,
                                              unsigned mode = 0666);
  NewFile(NewFile&& other) noexcept;
  NewFile& operator=(NewFile&&) = delete;
  ~NewFile();

  /// All of it, at the place where the last call ended.
  Result<void> write(std::string_view bytes);

  // As POSIX has them, for libraries that write through callbacks; −1 when they fail.
  long writeSome(const void* bytes, std::size_t count);
  long readSome(void* bytes, std::size_t count);
  std::int64_t seek(std::int64_t offset, int whence);
  [[nodiscard]] std::int64_t size() const;

  /// Fsyncs, and compares the length with what was written.
  Result<void> sync();
  /// Renames to the target and fsyncs the folder. Call sync() before.
  Result<void> putInPlace(Replace replace);

private:
  NewFile(std::filesystem::path target, std::string path, int fd);
  [[nodiscard]] Error failed(const char* doing, int code);

  std::filesystem::path m_target;
  std::string m_path;
  int m_fd = -1;
  int m_trouble = 0;                    ///< errno of the first call that failed
  std::int64_t m_at = 0, m_written = 0; ///< place, and the furthest byte that was written
};

/// Permissions for what comes of a file, so that what others may not read stays so: those it has,
/// to read and write; all where it is not there.
[[nodiscard]] unsigned modeLike(const std::filesystem::path& origin);

/// Removes what processes that ended left half-written in a folder: files with NewFile's names that
/// belong to this user, that nobody writes any more and that are older than a minute.
/// @returns how many
int removeLeftovers(const std::filesystem::path& folder);

} // namespace tuvvo
