#include "audio/samples.h"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <condition_variable>
#include <cstdint>
#include <cstdlib>
#include <fcntl.h>
#include <fstream>
#include <limits>
#include <map>
#include <mutex>
#include <new>
#include <sys/mman.h>
#include <thread>
#include <unistd.h>

namespace tuvvo {

namespace {

namespace fs = std::filesystem;
using namespace std::chrono_literals;

/// On the disc, for what is more precious than a cache: saves.
constexpr std::size_t kLeftFree = std::size_t(512) << 20;

fs::path cacheFolder() {
  if (const char* given = std::getenv("XDG_CACHE_HOME"); given && *given == '/')
    return fs::path(given) / "tuvvo";
  if (const char* home = std::getenv("HOME"); home && *home == '/')
    return fs::path(home) / ".cache" / "tuvvo";
  return "/var/tmp";
}

/// A file without a name, of a size for which the disc really has room.
/// @returns its descriptor, or −1
int openNameless(const fs::path& folder, std::size_t bytes) {
  std::error_code code;
  fs::create_directories(folder, code);
  const auto space = fs::space(folder, code);
  if (code || space.available < bytes + kLeftFree) return -1;
  std::string name = (folder / "samples-XXXXXX").string(); // mkostemp(3) wants just that
  const int fd = ::mkostemp(name.data(), O_CLOEXEC);
  if (fd < 0) return -1;
  ::unlink(name.c_str());
  // Reserved, not just promised: a page that finds no room later would end the program.
  if (::posix_fallocate(fd, 0, off_t(bytes)) == 0) return fd;
  ::close(fd);
  return -1;
}

/// File pages of all kinds that this process has in memory.
std::size_t filePages() {
  std::size_t all = 0, resident = 0, fromFiles = 0;
  std::ifstream("/proc/self/statm") >> all >> resident >> fromFiles;
  return fromFiles;
}

/// All long samples of the process, and the thread that lets go of their pages. Never destroyed:
/// sounds may outlive every static.
class LongSamples {
public:
  static LongSamples& all() {
    static auto* const one = new LongSamples;
    return *one;
  }

  void setFolder(fs::path folder) {
    const std::lock_guard lock(m_mutex);
    m_folder = std::move(folder);
  }

  /// @returns null where the disc has no room or cannot do it
  void* give(std::size_t bytes) {
    fs::path folder;
    {
      const std::lock_guard lock(m_mutex);
      folder = m_folder;
    }
    const int fd = openNameless(folder.empty() ? cacheFolder() : folder, bytes);
    if (fd < 0) return nullptr;
    void* const memory = ::mmap(nullptr, bytes, PROT_READ | PROT_WRITE, MAP_SHARED, fd, 0);
    ::close(fd);
    if (memory == MAP_FAILED) return nullptr;
    const std::lock_guard lock(m_mutex);
    m_pieces.emplace(std::uintptr_t(memory), bytes);
    m_bytes += bytes;
    if (!m_watches) {
      m_watches = true;
      std::thread([this] { watch(); }).detach();
    }
    m_changed.notify_all();
    return memory;
  }

  /// @returns false for memory that is not from here
  bool takeBack(void* memory) noexcept {
    const std::lock_guard lock(m_mutex);
    const auto piece = m_pieces.find(std::uintptr_t(memory));
    if (piece == m_pieces.end()) return false;
    ::munmap(memory, piece->second);
    m_kept.erase(m_kept.lower_bound(piece->first),
                 m_kept.lower_bound(piece->first + piece->second));
    m_bytes -= piece->second;
    m_pieces.erase(piece);
    return true;
  }

  [[nodiscard]] bool holds(std::uintptr_t from) {
    const std::lock_guard lock(m_mutex);
    return pieceAround(from) != m_pieces.end();
  }

  void keep(std::uintptr_t from, std::size_t bytes, bool on) {
    std::unique_lock lock(m_mutex);
    const auto piece = pieceAround(from);
    if (piece == m_pieces.end()) return;
    const auto [first, last] = pagesOf(from, std::min(bytes, piece->first + piece->second - from));
    auto* const memory = reinterpret_cast<char*>(first);
    if (!on) {
      const auto kept = m_kept.find(first);
      if (kept == m_kept.end() || --kept->second.times > 0) return;
      ::munlock(memory, kept->second.end - first);
      m_kept.erase(kept);
      return;
    }
    Kept& kept = m_kept[first];
    kept.end = std::max(kept.end, last);
    ++kept.times;
    lock.unlock(); // reading may take a while; whoever asks holds the samples
    ::madvise(memory, last - first, MADV_WILLNEED);
    (void)::mlock(memory, last - first); // a person may lock little; what is touched mostly stays
    for (std::uintptr_t at = first; at < last; at += m_page) {
      const char touched = *reinterpret_cast<const volatile char*>(at);
      (void)touched;
    }
  }

  [[nodiscard]] std::size_t bytes() const { return m_bytes; }

private:
  struct Kept {
    std::uintptr_t end = 0;
    int times = 0;
  };

  std::map<std::uintptr_t, std::size_t>::const_iterator pieceAround(std::uintptr_t address) const {
    auto after = m_pieces.upper_bound(address);
    if (after == m_pieces.begin()) return m_pieces.end();
    --after;
    return address < after->first + after->second ? after : m_pieces.end();
  }

  [[nodiscard]] std::pair<std::uintptr_t, std::uintptr_t> pagesOf(std::uintptr_t from,
                                                                  std::size_t bytes) const {
    return {from / m_page * m_page, (from + bytes + m_page - 1) / m_page * m_page};
  }

  /// Of all pages but those that are kept. They stay what they are, in the system's cache of the
  /// file, written or not.
  void letGo() {
    for (const auto& [begin, size] : m_pieces) {
      std::uintptr_t at = begin;
      const auto drop = [&](std::uintptr_t until) {
        if (until > at) ::madvise(reinterpret_cast<void*>(at), until - at, MADV_DONTNEED);
      };
      for (auto kept = m_kept.lower_bound(begin);
           kept != m_kept.end() && kept->first < begin + size; ++kept) {
        drop(kept->first);
        at = std::max(at, kept->second.end);
      }
      drop(begin + size);
    }
  }

  void watch() {
    const std::size_t allowed = kAllowed / m_page;
    std::size_t others = std::numeric_limits<std::size_t>::max(); // libraries and the like
    std::unique_lock lock(m_mutex);
    for (;;) {
      m_changed.wait(lock, [this] { return !m_pieces.empty(); });
      const std::size_t now = filePages();
      others = std::min(others, now);
      if (now - others > allowed) {
        letGo();
        others = filePages();
      }
      lock.unlock();
      std::this_thread::sleep_for(20ms);
      lock.lock();
    }
  }

  std::mutex m_mutex;
  std::condition_variable m_changed;
  std::map<std::uintptr_t, std::size_t> m_pieces;
  std::map<std::uintptr_t, Kept> m_kept; ///< by its first page
  const std::size_t m_page = std::size_t(::sysconf(_SC_PAGESIZE));
  std::atomic<std::size_t> m_bytes{0};
  fs::path m_folder;
  bool m_watches = false;
};

} // namespace

void* giveSamples(std::size_t bytes) {
  if (bytes >= kLong)
    if (void* const memory = LongSamples::all().give(bytes)) return memory;
  return ::operator new(bytes);
}

void takeSamplesBack(void* memory, std::size_t bytes) noexcept {
  if (bytes >= kLong && LongSamples::all().takeBack(memory)) return;
  ::operator delete(memory);
}

void setLongSampleFolder(std::filesystem::path folder) {
  LongSamples::all().setFolder(std::move(folder));
}

std::size_t longSamplesInFiles() { return LongSamples::all().bytes(); }

bool liesInFile(std::span<const float> samples) {
  return longSamplesInFiles() > 0 && !samples.empty() &&
         LongSamples::all().holds(std::uintptr_t(samples.data()));
}

void keepSamples(std::span<const float> samples) {
  if (longSamplesInFiles() > 0 && !samples.empty())
    LongSamples::all().keep(std::uintptr_t(samples.data()), samples.size_bytes(), true);
}

void letGoOfSamples(std::span<const float> samples) {
  if (longSamplesInFiles() > 0 && !samples.empty())
    LongSamples::all().keep(std::uintptr_t(samples.data()), samples.size_bytes(), false);
}

} // namespace tuvvo
