#include "base/files.h"

#include "base/new_file.h"

#include <atomic>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <dirent.h>
#include <fcntl.h>
#include <fstream>
#include <memory>
#include <sys/stat.h>
#include <unistd.h>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

DiscCalls realCalls;
std::atomic<DiscCalls*> currentCalls{&realCalls};

} // namespace

int DiscCalls::open(const char* path, int flags, unsigned mode) {
  return ::open(path, flags, mode);
}
long DiscCalls::write(int fd, const void* bytes, std::size_t count) {
  return ::write(fd, bytes, count);
}
int DiscCalls::fsync(int fd) { return ::fsync(fd); }
int DiscCalls::close(int fd) { return ::close(fd); }
int DiscCalls::rename(const char* from, const char* to, bool over) {
  if (over) return std::rename(from, to);
  const int done = ::renameat2(AT_FDCWD, from, AT_FDCWD, to, RENAME_NOREPLACE);
  if (done == 0 || (errno != EINVAL && errno != ENOSYS)) return done;
  // A file system that cannot do both in one step: the name is looked at just before.
  struct stat look {};
  if (::lstat(to, &look) == 0) {
    errno = EEXIST;
    return -1;
  }
  return std::rename(from, to);
}
int DiscCalls::unlink(const char* path) { return ::unlink(path); }
int DiscCalls::mkdir(const char* path, unsigned mode) { return ::mkdir(path, mode); }

DiscCalls& discCalls() { return *currentCalls.load(); }
void setDiscCalls(DiscCalls* calls) { currentCalls.store(calls ? calls : &realCalls); }

Error discError(const std::string& doing, const fs::path& path, int code) {
  std::string remedy = "Choose another place.";
  switch (code) {
  case ENOSPC:
  case EDQUOT:
    remedy = "Make room on the disc or choose another place.";
    break;
  case EACCES:
  case EPERM:
    remedy = "You may not write there: change its permissions or choose another place.";
    break;
  case EROFS:
    remedy = "This disc can only be read; choose another place.";
    break;
  case ENOENT:
  case ENOTDIR:
    remedy = "Check that the folder is still there.";
    break;
  case EEXIST:
    remedy = "Choose another name.";
    break;
  case ENAMETOOLONG:
    remedy = "Choose a shorter name.";
    break;
  case EFBIG:
    remedy = "The disc's format holds no file of that size; choose another place.";
    break;
  case EIO:
    remedy = "The disc may be failing: save on another one.";
    break;
  default:
    break;
  }
  Error error{doing + " failed (" + std::strerror(code) + ")", path.string(), remedy};
  if (code == EEXIST) {
    error.what = "There is a file already";
    error.replaces = true;
  }
  return error;
}

Result<void> makeFolder(const fs::path& folder) {
  std::error_code code;
  if (folder.empty() || fs::is_directory(folder, code)) return {};
  if (const fs::path above = folder.parent_path(); above != folder && !above.empty())
    if (auto made = makeFolder(above); !made) return made;
  if (discCalls().mkdir(folder.c_str(), 0777) == 0) return {};
  const int trouble = errno;
  if (fs::is_directory(folder, code)) return {}; // somebody else made it meanwhile
  if (trouble == EEXIST)
    return Error{"A file stands where the folder should be", folder.string(),
                 "Choose another folder."};
  return discError("Making the folder", folder, trouble);
}

std::vector<std::string> namesIn(const fs::path& folder) {
  std::vector<std::string> out;
  const std::unique_ptr<DIR, int (*)(DIR*)> open(::opendir(folder.c_str()), ::closedir);
  if (!open) return out;
  while (const dirent* entry = ::readdir(open.get()))
    if (const std::string name = entry->d_name; name != "." && name != "..") out.push_back(name);
  return out;
}

Result<void> writeFileAtomically(const fs::path& target, std::string_view bytes, Replace replace) {
  auto file = NewFile::beside(target);
  if (!file) return file.error();
  NewFile fresh = std::move(file).value();
  if (auto written = fresh.write(bytes); !written) return written;
  if (auto synced = fresh.sync(); !synced) return synced;
  return fresh.putInPlace(replace);
}

Result<std::string> readFile(const fs::path& path, std::uint64_t limitBytes) {
  std::error_code code;
  if (fs::is_directory(path, code))
    return Error{"This is a folder, not a file", path.string(), "Choose a file."};
  if (fs::exists(path, code) && !fs::is_regular_file(path, code))
    return Error{"This is not a plain file", path.string(), "Choose a file."};
  const auto size = fs::file_size(path, code);
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
    return Error{"The file cannot be read (" + std::string(std::strerror(errno ? errno : EIO)) +
                     ")",
                 path.string(), "Check that it may be read."};
  return bytes;
}

} // namespace tuvvo
