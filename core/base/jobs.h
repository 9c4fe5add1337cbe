// Long work off the interface and audio threads: progress, cancelling, and a small pool of threads.
#pragma once

#include "base/result.h"

#include <atomic>
#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <thread>
#include <vector>

namespace tuvvo {

/// Handed to long work. One thread works and reports, any other may watch and cancel.
class JobContext {
public:
  /// Part done, 0 to 1.
  void report(double done) { m_done.store(float(done), std::memory_order_relaxed); }
  [[nodiscard]] double done() const { return m_done.load(std::memory_order_relaxed); }
  void cancel() { m_cancelled.store(true, std::memory_order_relaxed); }
  /// The worker asks this at least every 50 ms and returns an Error when it is true.
  [[nodiscard]] bool cancelled() const { return m_cancelled.load(std::memory_order_relaxed); }

private:
  std::atomic<float> m_done{0.0f};
  std::atomic<bool> m_cancelled{false};
};

/// Makes the calling thread give way to the interface and the sound (Linux: nice, a thread's own).
void workInTheBackground();

/// A fixed number of threads that take jobs in order. Ends by cancelling what runs and waiting for
/// it; jobs that had not begun are dropped. What a job throws ends that job alone.
class JobPool {
public:
  using Job = std::function<void(JobContext&)>;
  /// Told, on the job's own thread, why a job ended before its end.
  using Trouble = std::function<void(const Error&)>;

  explicit JobPool(int threads, Trouble trouble = {});
  ~JobPool();
  JobPool(const JobPool&) = delete;
  JobPool& operator=(const JobPool&) = delete;

  /// Any thread. The context lives as long as somebody holds it.
  /// @param trouble  told instead of the pool's own
  std::shared_ptr<JobContext> run(Job job, Trouble trouble = {});
  /// Waits until nothing is queued or running.
  void waitIdle();

private:
  struct Entry {
    Job job;
    Trouble trouble;
    std::shared_ptr<JobContext> context;
  };
  void work();

  std::mutex m_mutex;
  std::condition_variable m_wake, m_idle;
  std::deque<Entry> m_queue;
  std::vector<std::shared_ptr<JobContext>> m_running;
  bool m_ending = false;
  Trouble m_trouble;
  std::vector<std::thread> m_threads;
};

} // namespace tuvvo
