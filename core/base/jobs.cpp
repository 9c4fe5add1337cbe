#include "base/jobs.h"

#include "base/guard.h"

#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>

namespace tuvvo {

void workInTheBackground() {
  // Where it is not allowed, the work is done at the usual turn.
  (void)::setpriority(PRIO_PROCESS, id_t(::gettid()), 3);
}

JobPool::JobPool(int threads, Trouble trouble) : m_trouble(std::move(trouble)) {
  for (int i = 0; i < threads; ++i) m_threads.emplace_back([this] { work(); });
}

JobPool::~JobPool() {
  {
    std::lock_guard lock(m_mutex);
    m_ending = true;
    m_queue.clear();
    for (auto& context : m_running) context->cancel();
  }
  m_wake.notify_all();
  for (auto& thread : m_threads) thread.join();
}

std::shared_ptr<JobContext> JobPool::run(Job job, Trouble trouble) {
  auto context = std::make_shared<JobContext>();
  {
    std::lock_guard lock(m_mutex);
    m_queue.push_back({std::move(job), std::move(trouble), context});
  }
  m_wake.notify_one();
  return context;
}

void JobPool::waitIdle() {
  std::unique_lock lock(m_mutex);
  m_idle.wait(lock, [this] { return m_queue.empty() && m_running.empty(); });
}

void JobPool::work() {
  workInTheBackground();
  std::unique_lock lock(m_mutex);
  for (;;) {
    m_wake.wait(lock, [this] { return m_ending || !m_queue.empty(); });
    if (m_ending) return;
    Entry entry = std::move(m_queue.front());
    m_queue.pop_front();
    m_running.push_back(entry.context);
    lock.unlock();
    const auto ended = guarded("The work in the background", "", [&]() -> Result<void> {
      entry.job(*entry.context);
      return {};
    });
    if (const Trouble& tell = entry.trouble ? entry.trouble : m_trouble; !ended && tell)
      tell(ended.error());
    entry.trouble = nullptr;
    entry.job = nullptr; // what the job held is let go before anyone is told that it ended
    lock.lock();
    std::erase(m_running, entry.context);
    if (m_queue.empty() && m_running.empty()) m_idle.notify_all();
  }
}

} // namespace tuvvo
