#include "base/files.h"

#include <atomic>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <unistd.h>

namespace tuvvo {

namespace {

DiscCalls realCalls;
std::atomic<DiscCalls*> currentCalls{&realCalls};
std::atomic<unsigned> temporaryCount{0};

Error discError(const std::string& doing, const std::filesystem::path& path, int code) {
  std::string remedy = "Check that the folder can be written to.";
  if (code == ENOSPC || code == EDQUOT) remedy = "Make room on the disc or save somewhere else.";
  if (code == ENOENT) remedy = "Check that the folder is still there.";
  return {doing + " failed (" + std::strerror(code) + ")", path.string(), remedy};
}

/// The rename itself is only safe on disc once the folder is.
Result<void> syncFolder(const std::filesystem::path& folder) {
  auto& calls = discCalls();
  const std::string name = folder.empty() ? std::string(".") : folder.string();
  const int fd = calls.open(name.c_str(), O_RDONLY | O_DIRECTORY, 0);
  if (fd < 0) return discError("Opening the folder", folder, errno);
  const int failed = calls.fsync(fd) < 0 ? errno : 0;
  calls.close(fd);
  // Some file systems cannot sync a folder and say EINVAL; the rename stands all the same.
  if (failed && failed != EINVAL) return discError("Writing the folder", folder, failed);
  return {};
}

} // namespace

int DiscCalls::open(const char* path, int flags, unsigned mode) {
  return ::open(path, flags, mode);
}
long DiscCalls::write(int fd, const void* bytes, std::size_t count) {
  return ::write(fd, bytes, count);
}
int DiscCalls::fsync(int fd) { return ::fsync(fd); }
int DiscCalls::close(int fd) { return ::close(fd); }
int DiscCalls::rename(const char* from, const char* to) { return std::rename(from, to); }
int DiscCalls::unlink(const char* path) { return ::unlink(path); }

DiscCalls& discCalls() { return *currentCalls.load(); }
void setDiscCalls(DiscCalls* calls) { currentCalls.store(calls ? calls : &realCalls); }

Result<void> writeFileAtomically(const std::filesystem::path& target, std::string_view bytes) {
  auto& calls = discCalls();
  const std::string temporary = target.string() + ".new" + std::to_string(::getpid()) + "-" +
                                std::to_string(temporaryCount.fetch_add(1));
  const int fd = calls.open(temporary.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
  if (fd < 0) return discError("Creating the file", target, errno);
  auto fail = [&](const char* doing, bool stillOpen) -> Error {
    const int code = errno;
    if (stillOpen) calls.close(fd);
    calls.unlink(temporary.c_str());
    return discError(doing, target, code);
  };
  std::size_t written = 0;
  while (written < bytes.size()) {
    const long n = calls.write(fd, bytes.data() + written, bytes.size() - written);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) return fail("Writing", true);
    written += std::size_t(n);
  }
  if (calls.fsync(fd) < 0) return fail("Writing to the disc", true);
  if (calls.close(fd) < 0) return fail("Closing the file", false);
  if (calls.rename(temporary.c_str(), target.c_str()) < 0) return fail("Renaming", false);
  return syncFolder(target.parent_path());
}

Result<void> moveIntoPlace(const std::filesystem::path& temporary,
                           const std::filesystem::path& target) {
  auto& calls = discCalls();
  const int fd = calls.open(temporary.c_str(), O_RDWR | O_CLOEXEC, 0);
  if (fd < 0) return discError("Opening the new file", target, errno);
  const int failed = calls.fsync(fd) < 0 ? errno : 0;
  calls.close(fd);
  if (failed) return discError("Writing to the disc", target, failed);
  if (calls.rename(temporary.c_str(), target.c_str()) < 0)
    return discError("Renaming", target, errno);
  return syncFolder(target.parent_path());
}

Result<std::string> readFile(const std::filesystem::path& path, std::uint64_t limitBytes) {
  std::error_code code;
  if (std::filesystem::is_directory(path, code))
    return Error{"This is a folder, not a file", path.string(), "Choose a file."};
  const auto size = std::filesystem::file_size(path, code);
  if (code)
    return Error{"The file cannot be read (" + code.message() + ")", path.string(),
                 "Check that it is there and may be read."};
  if (size > limitBytes)
    return Error{"The file is larger than it can be", path.string(),
                 "Check that it is the right file."};
  std::ifstream in(path, std::ios::binary);
  std::string bytes(std::size_t(size), '\0');
  in.read(bytes.data(), std::streamsize(size));
  if (!in && size > 0)
    return Error{"The file cannot be read", path.string(), "Check that it may be read."};
  return bytes;
}

} // namespace tuvvo
