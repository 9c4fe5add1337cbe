// Writing files so that a crash or a full disc at any moment leaves the old one or the new one.
#pragma once

#include "base/result.h"

#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

namespace tuvvo {

/// The one seam for system calls that change the disc; tests put their own in its place and make
/// the n-th call fail or end the process. Calls answer like their POSIX namesakes (−1 and errno).
class DiscCalls {
public:
  virtual ~DiscCalls() = default;
  virtual int open(const char* path, int flags, unsigned mode);
  virtual long write(int fd, const void* bytes, std::size_t count);
  virtual int fsync(int fd);
  virtual int close(int fd);
  /// @param over  whether it may take the place of what is there; EEXIST where it may not
  virtual int rename(const char* from, const char* to, bool over);
  virtual int unlink(const char* path);
  virtual int mkdir(const char* path, unsigned mode);
};

/// The calls in use. Set only while no other thread writes; null puts the real ones back.
DiscCalls& discCalls();
void setDiscCalls(DiscCalls* calls);

/// Says what a system call said, and what a person can do about just that.
/// @param code  errno
[[nodiscard]] Error discError(const std::string& doing, const std::filesystem::path& path,
                              int code);

/// Makes a folder and those it lies in; one that is there is as good.
Result<void> makeFolder(const std::filesystem::path& folder);

/// Names of what lies in a folder, without . and ..; none where it cannot be read. (The standard
/// library's own iterator ends the program where memory runs out.)
[[nodiscard]] std::vector<std::string> namesIn(const std::filesystem::path& folder);

/// Whether what is written may take the place of a file that is there.
enum class Replace { No, Yes };

/// Writes to a new file beside the target, fsyncs it, renames it over the target and fsyncs the
/// folder. On an error the target is as it was and the new file is gone. Permissions of a file that
/// is replaced are kept.
Result<void> writeFileAtomically(const std::filesystem::path& target, std::string_view bytes,
                                 Replace replace = Replace::Yes);

/// A whole file, if it is no longer than the limit.
Result<std::string> readFile(const std::filesystem::path& path, std::uint64_t limitBytes);

} // namespace tuvvo
