#include "base/folder_lock.h"

#include "base/files.h"

#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <ctime>
#include <fcntl.h>
#include <fstream>
#include <pwd.h>
#include <sstream>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

constexpr const char* kName = "lock";
constexpr const char* kHead = "Tuvvo has this folder open";
constexpr std::int64_t kStaleSeconds = 300;
constexpr int kMostFresh = 100'000;

std::string hostName() {
  char name[256] = {};
  return ::gethostname(name, sizeof name - 1) == 0 ? name : "unknown";
}

/// Field 22 of /proc/PID/stat (proc(5)): when a process started; 0 for none.
std::int64_t startOf(std::int64_t process) {
  std::ifstream in("/proc/" + std::to_string(process) + "/stat");
  std::string all{std::istreambuf_iterator<char>(in), {}};
  const auto name = all.rfind(')'); // the second field may hold spaces
  if (name == std::string::npos) return 0;
  std::istringstream rest(all.substr(name + 1));
  std::string word;
  for (int field = 3; field <= 22; ++field) rest >> word;
  return std::strtoll(word.c_str(), nullptr, 10);
}

std::optional<LockHolder> holderIn(int fd) {
  char bytes[2048] = {};
  if (::pread(fd, bytes, sizeof bytes - 1, 0) <= 0) return std::nullopt;
  std::istringstream in(bytes);
  std::string line;
  if (!std::getline(in, line) || line != kHead) return std::nullopt;
  LockHolder holder;
  while (std::getline(in, line)) {
    const auto colon = line.find(": ");
    if (colon == std::string::npos) continue;
    const std::string name = line.substr(0, colon), value = line.substr(colon + 2);
    const auto number = [&] { return std::int64_t(std::strtoll(value.c_str(), nullptr, 10)); };
    if (name == "host") holder.host = value;
    if (name == "user") holder.user = value;
    if (name == "process") holder.process = number();
    if (name == "started") holder.started = number();
    if (name == "since") holder.since = number();
  }
  return holder;
}

/// Whether what is written tells of somebody who still has it.
bool lives(const LockHolder& holder, const struct stat& look) {
  if (holder.host == hostName()) {
    if (holder.process <= 0) return false;
    if (::kill(pid_t(holder.process), 0) != 0 && errno == ESRCH) return false;
    return startOf(holder.process) == holder.started;
  }
  const std::int64_t age = std::int64_t(std::time(nullptr)) - look.st_mtim.tv_sec;
  return age < kStaleSeconds && age > -kStaleSeconds;
}

bool writeHolder(int fd) {
  const passwd* user = ::getpwuid(::geteuid());
  std::string text = std::string(kHead) + "\nhost: " + hostName() +
                     "\nuser: " + (user ? user->pw_name : "") +
                     "\nprocess: " + std::to_string(::getpid()) +
                     "\nstarted: " + std::to_string(startOf(::getpid())) +
                     "\nsince: " + std::to_string(std::time(nullptr)) + "\n";
  return ::ftruncate(fd, 0) == 0 && ::pwrite(fd, text.data(), text.size(), 0) == long(text.size());
}

} // namespace

FolderLock::Taken FolderLock::take(const fs::path& folder) {
  const std::string path = (folder / kName).string();
  for (int attempt = 0; attempt < 10; ++attempt) {
    const int fd = discCalls().open(path.c_str(),
                                    O_RDWR | O_CREAT | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC, 0666);
    if (fd < 0) return {};
    struct stat look {
    }, named{};
    if (::fstat(fd, &look) != 0 || !S_ISREG(look.st_mode)) {
      ::close(fd);
      return {};
    }
    const auto holder = holderIn(fd);
    const bool locked = ::flock(fd, LOCK_EX | LOCK_NB) == 0;
    const bool cannotLock = !locked && errno != EWOULDBLOCK;
    // Where locks work, they know about this machine; what is written tells of others.
    const bool here = holder && holder->host == hostName();
    const bool busy = locked       ? holder && !here && lives(*holder, look)
                      : cannotLock ? holder && lives(*holder, look)
                                   : true;
    if (busy) {
      ::close(fd);
      return {State::Busy, nullptr, holder};
    }
    // Whoever held it may have removed the file between our two steps.
    if (::stat(path.c_str(), &named) != 0 || named.st_ino != look.st_ino ||
        named.st_dev != look.st_dev) {
      ::close(fd);
      continue;
    }
    if (!writeHolder(fd)) {
      ::close(fd);
      return {};
    }
    return {State::Held, std::unique_ptr<FolderLock>(new FolderLock(folder, fd)), std::nullopt};
  }
  return {State::Busy, nullptr, std::nullopt};
}

FolderLock::~FolderLock() {
  // Removed only if it is still this one: the folder may have been moved or emptied meanwhile.
  const std::string path = (m_folder / kName).string();
  struct stat ours {
  }, named{};
  if (::fstat(m_fd, &ours) == 0 && ::stat(path.c_str(), &named) == 0 &&
      ours.st_ino == named.st_ino && ours.st_dev == named.st_dev)
    discCalls().unlink(path.c_str());
  ::close(m_fd);
}

void FolderLock::refresh() { (void)::futimens(m_fd, nullptr); }

Result<fs::path> makeFreshFolder(const fs::path& above, const std::string& name,
                                 const std::string& ending) {
  if (auto made = makeFolder(above); !made) return made.error();
  for (int n = 1; n <= kMostFresh; ++n) {
    const std::string number = n > 1 ? " " + std::to_string(n) : std::string();
    std::string file = name;
    file.append(number).append(ending);
    const fs::path path = above / file;
    if (discCalls().mkdir(path.c_str(), 0777) == 0) return path;
    if (errno != EEXIST) return discError("Making the folder", path, errno);
  }
  return Error{"There are too many projects without a name", above.string(),
               "Give some of them a name, or move them away."};
}

} // namespace tuvvo
