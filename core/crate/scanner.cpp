#include "crate/scanner.h"

#include "base/convert.h"
#include "base/guard.h"
#include "base/text.h"

#include <algorithm>
#include <array>
#include <chrono>
#include <set>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <unistd.h>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

constexpr std::size_t kBatch = 200; // files noted in one change of the crate
constexpr int kNiceness = 10;

/// Behind sound, window and whatever else the machine does.
void stepBack() { setpriority(PRIO_PROCESS, id_t(syscall(SYS_gettid)), kNiceness); }

std::int64_t nowNs() {
  timespec now{};
  clock_gettime(CLOCK_REALTIME, &now);
  return std::int64_t(now.tv_sec) * 1'000'000'000 + now.tv_nsec;
}

std::optional<struct stat> lookAt(const fs::path& path) {
  struct stat look {};
  if (stat(path.c_str(), &look) != 0) return std::nullopt;
  return look;
}

std::int64_t timeOf(const struct stat& look) {
  return std::int64_t(look.st_mtim.tv_sec) * 1'000'000'000 + look.st_mtim.tv_nsec;
}

} // namespace

bool looksLikeSound(const fs::path& path) {
  const std::string end = lowerCase(path.extension().string());
  constexpr std::array kEnds{".wav", ".aif", ".aiff", ".flac", ".ogg", ".oga", ".opus", ".mp3"};
  return std::find(kEnds.begin(), kEnds.end(), end) != kEnds.end();
}

Scanner::Scanner(Crate& crate, const Parameters& parameters)
    : m_crate(crate), m_parameters(parameters) {
  const int count = parameters.threads > 0 ? parameters.threads
                                           : int(std::max(1u, std::thread::hardware_concurrency()));
  m_threads.emplace_back([this] { walkAll(); });
  for (int i = 0; i < count; ++i) m_threads.emplace_back([this] { analyseAll(); });
}

Scanner::~Scanner() {
  m_ending = true;
  cancel();
  for (auto& thread : m_threads) thread.join();
}

void Scanner::scan(std::vector<fs::path> folders) {
  const std::lock_guard lock(m_mutex);
  if (!m_progress.working() && m_inHand.empty()) {
    const bool paused = m_progress.paused;
    m_progress = {};
    m_progress.paused = paused;
    m_walked.clear();
  }
  m_cancelled = false;
  m_progress.walking = true;
  m_folders.insert(m_folders.end(), folders.begin(), folders.end());
  if (folders.empty()) m_folders.emplace_back(); // only what waits
  m_wake.notify_all();
}

void Scanner::setPaused(bool paused) {
  const std::lock_guard lock(m_mutex);
  m_progress.paused = paused;
  m_wake.notify_all();
}

void Scanner::cancel() {
  const std::lock_guard lock(m_mutex);
  m_cancelled = true;
  m_folders.clear();
  m_progress.toHear -= int(m_queue.size());
  m_queue.clear();
  for (const auto& job : m_running) job->cancel();
  m_wake.notify_all();
}

Scanner::Progress Scanner::progress() const {
  const std::lock_guard lock(m_mutex);
  return m_progress;
}

std::vector<fs::path> Scanner::walked() const {
  const std::lock_guard lock(m_mutex);
  return m_walked;
}

void Scanner::wait() {
  std::unique_lock lock(m_mutex);
  m_done.wait(lock, [this] {
    return m_folders.empty() && !m_progress.walking && m_queue.empty() && m_inHand.empty();
  });
}

void Scanner::fail(const Error& error) {
  const std::lock_guard lock(m_mutex);
  m_progress.trouble = error.text();
}

void Scanner::walkAll() {
  stepBack();
  std::unique_lock lock(m_mutex);
  for (;;) {
    m_wake.wait(lock, [this] { return m_ending || !m_folders.empty(); });
    if (m_ending) break;
    const fs::path folder = m_folders.front();
    m_folders.pop_front();
    lock.unlock();
    if (!folder.empty())
      if (auto walked = guarded("Looking through the folder", folder.string(),
                                [&]() -> Result<void> {
                                  walk(folder);
                                  return {};
                                });
          !walked)
        fail(walked.error());
    auto waiting = m_crate.waiting();
    if (!waiting) fail(waiting.error());
    lock.lock();
    if (waiting && !stopped()) {
      std::set<std::int64_t> queued;
      for (const auto& file : m_queue) queued.insert(file.file);
      queued.insert(m_inHand.begin(), m_inHand.end());
      // A time that lies ahead says nothing but that a clock was set back: such a file is at rest.
      const std::int64_t now = nowNs();
      const std::int64_t rest = toWhole<std::int64_t>(m_parameters.restTime.value * 1e6);
      m_progress.settling = 0;
      for (const auto& file : *waiting) {
        if (file.look.time > now - rest && file.look.time < now + rest) {
          ++m_progress.settling;
        } else if (!queued.contains(file.file)) {
          m_queue.push_back(file);
          ++m_progress.toHear;
        }
      }
    }
    if (m_folders.empty()) m_progress.walking = false;
    m_wake.notify_all();
    m_done.notify_all();
  }
  m_progress.walking = false;
  m_done.notify_all();
}

void Scanner::walk(const fs::path& root) {
  auto sweep = m_crate.beginSweep();
  if (!sweep) return fail(sweep.error());
  std::error_code code;
  if (!fs::is_directory(root, code)) return; // a disc that is not there now is no loss
  std::set<std::pair<dev_t, ino_t>> been;    // links may lead back
  std::vector<std::pair<fs::path, int>> open{{root, 0}};
  std::vector<FileLook> batch;
  const auto note = [&] {
    auto known = m_crate.sawFiles(batch);
    if (!known) fail(known.error());
    const std::lock_guard lock(m_mutex);
    m_progress.seen += int(batch.size());
    batch.clear();
    return known.ok();
  };
  while (!open.empty()) {
    const auto [folder, depth] = open.back();
    open.pop_back();
    const auto self = lookAt(folder);
    if (!self || depth > m_parameters.mostDepth) continue;
    if (!been.emplace(self->st_dev, self->st_ino).second) continue;
    fs::directory_iterator entries(folder, fs::directory_options::skip_permission_denied, code);
    if (code) continue;
    if (const std::lock_guard lock(m_mutex); !stopped()) m_walked.push_back(folder);
    for (; entries != fs::directory_iterator(); entries.increment(code)) {
      if (code || stopped()) break;
      const fs::path path = entries->path();
      if (path.filename().string().starts_with('.')) continue;
      const auto look = lookAt(path);
      if (!look) continue;
      if (S_ISDIR(look->st_mode)) {
        if (path.extension() != ".tuvvo") open.emplace_back(path, depth + 1); // a project's own
      } else if (S_ISREG(look->st_mode) && looksLikeSound(path)) {
        batch.push_back({path.string(), std::int64_t(look->st_size), timeOf(*look)});
        if (batch.size() >= (been.size() == 1 ? 50 : kBatch) && !note()) return;
      }
    }
    if (stopped()) return;
  }
  if (!batch.empty() && !note()) return;
  if (auto ended = m_crate.endSweep(root.string(), *sweep); !ended) fail(ended.error());
}

void Scanner::analyseAll() {
  stepBack();
  std::unique_lock lock(m_mutex);
  for (;;) {
    m_wake.wait(lock, [this] { return m_ending || (!m_queue.empty() && !m_progress.paused); });
    if (m_ending) return;
    const auto file = m_queue.front();
    m_queue.pop_front();
    auto job = std::make_shared<JobContext>();
    m_running.push_back(job);
    m_inHand.insert(file.file);
    m_progress.now = fs::path(file.look.path).filename().string();
    lock.unlock();
    const auto ended = guarded("Listening", file.look.path, [&]() -> Result<void> {
      analyse(file, *job);
      return {};
    });
    if (!ended) {
      // It is not tried again until the file changes; the others are.
      if (auto stored = m_crate.storeUnreadable(file.file, ended.error().what); !stored)
        fail(stored.error());
      const std::lock_guard count(m_mutex);
      ++m_progress.unreadable;
    }
    lock.lock();
    std::erase(m_running, job);
    m_inHand.erase(file.file);
    if (m_inHand.empty() && m_queue.empty()) m_done.notify_all();
  }
}

void Scanner::analyse(const Crate::Waiting& file, JobContext& job) {
  const fs::path path = file.look.path;
  const auto count = [this](int Progress::*figure) {
    const std::lock_guard lock(m_mutex);
    ++(m_progress.*figure);
  };
  const auto before = lookAt(path);
  const auto same = [&](const std::optional<struct stat>& look) {
    return look && look->st_size == file.look.bytes && timeOf(*look) == file.look.time;
  };
  const auto leave = [&] { // gone or being written: a later round sees it as it is then
    const std::lock_guard lock(m_mutex);
    --m_progress.toHear;
    ++m_progress.settling;
  };
  if (!same(before)) return leave();
  // A copy or a moved file is known by its sound alone, which is quicker than hearing it again.
  if (const auto size = m_crate.sizeKnown(file.look.bytes); size && *size)
    if (const auto hash = soundHashOf(path, job))
      if (const auto known = m_crate.tieKnown(file.file, *hash); known && *known)
        return count(&Progress::heard);
  auto heard = analyseFile(path, job);
  if (job.cancelled() || !same(lookAt(path))) return leave();
  Result<void> stored =
      heard ? m_crate.storeHeard(file.file, *heard, provenanceFromTags(path))
            : m_crate.storeUnreadable(file.file, heard.error().what + ". " + heard.error().remedy);
  if (!stored) fail(stored.error());
  count(heard ? &Progress::heard : &Progress::unreadable);
}

} // namespace tuvvo
