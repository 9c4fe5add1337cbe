// Writing files so that a crash or a full disc at any moment leaves the old one or the new one.
#pragma once

#include "base/result.h"

#include <cstdint>
#include <filesystem>
#include <string>
#include <string_view>

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
  virtual int rename(const char* from, const char* to);
  virtual int unlink(const char* path);
};

/// The calls in use. Set only while no other thread writes; null puts the real ones back.
DiscCalls& discCalls();
void setDiscCalls(DiscCalls* calls);

/// Writes to a new file beside the target, fsyncs it, renames it over the target and fsyncs the
/// folder. On an error the target is as it was and the new file is gone.
Result<void> writeFileAtomically(const std::filesystem::path& target, std::string_view bytes);

/// Fsyncs a file that another library wrote, renames it to target and fsyncs the folder.
Result<void> moveIntoPlace(const std::filesystem::path& temporary,
                           const std::filesystem::path& target);

/// A whole file, if it is no longer than the limit.
Result<std::string> readFile(const std::filesystem::path& path, std::uint64_t limitBytes);

} // namespace tuvvo
