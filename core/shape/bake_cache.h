// Bakes in the background and keeps what was baked, by content.
#pragma once

#include "shape/order.h"

#include <list>
#include <mutex>
#include <unordered_map>
#include <unordered_set>

namespace tuvvo {

/// Keeps the newest bakes up to a number of bytes; those that are wanted now are never dropped.
/// Fine stretching is preceded by a quick preview, so that a change is heard at once; preview and
/// bake have the same frames and hits at the same places.
/// All functions may be called from any thread but the audio thread.
class BakeCache {
public:
  /// @param baked  called from a worker after every bake and every failure
  /// @param most   bytes of samples kept beyond what is wanted
  BakeCache(int threads, std::function<void()> baked, std::size_t most = std::size_t(256) << 20);
  ~BakeCache();
  BakeCache(const BakeCache&) = delete;
  BakeCache& operator=(const BakeCache&) = delete;

  /// What is needed from now on: what is missing is baked, in this order; what runs and is no
  /// longer needed is cancelled.
  void want(std::vector<BakeOrder> orders);
  /// What was made of an order, or its preview while that is all there is. Null before.
  [[nodiscard]] Baked find(const std::string& name) const;
  /// Ends what runs and leaves undone what is wanted now, until other things are wanted or resume()
  /// is called. What was there is heard on.
  void stop();
  void resume();
  /// By the names of their orders.
  using Batch = std::unordered_map<std::string, Baked>;
  /// Bakes all of it before it returns, on the calling thread.
  /// @returns an Error when the job was cancelled, or for the first bake that failed
  Result<Batch> bakeAll(const std::vector<BakeOrder>& orders, JobContext& job);

  struct Progress {
    int wanted = 0, ready = 0; ///< what failed or was stopped counts as ready
    int stopped = 0;
    std::string trouble; ///< why the first one failed; empty: none did
    double done = 1;     ///< 0 to 1, with parts of what is being baked
    [[nodiscard]] bool working() const { return ready < wanted; }
  };
  [[nodiscard]] Progress progress() const;
  /// Until everything wanted is there or failed.
  void wait();

private:
  struct Task {
    BakeOrder order;
    std::string of; ///< for a preview: the name of what it stands in for
  };
  void work();
  [[nodiscard]] std::optional<Task> next() const;
  [[nodiscard]] bool settled(const std::string& name) const;
  Result<Baked> make(const BakeOrder& order, JobContext& job);
  void keep(const std::string& name, const Baked& baked);
  void drop(const std::string& name);

  struct Kept {
    Baked baked;
    std::list<std::string>::iterator age;
  };
  mutable std::mutex m_mutex;
  std::condition_variable m_wake, m_idle;
  std::unordered_map<std::string, Kept> m_kept;
  std::list<std::string> m_ages; ///< oldest first
  std::size_t m_bytes = 0, m_most;
  std::vector<BakeOrder> m_wanted;
  std::unordered_map<std::string, std::shared_ptr<JobContext>> m_running;
  std::unordered_set<std::string> m_names;               ///< of what is wanted
  std::unordered_map<std::string, std::string> m_failed; ///< and why; not tried again while wanted
  std::unordered_set<std::string> m_stopped;
  std::unordered_map<std::string, std::string> m_previews; ///< by what they stand in for
  std::function<void()> m_baked;
  bool m_ending = false;
  std::vector<std::thread> m_threads;
};

} // namespace tuvvo
