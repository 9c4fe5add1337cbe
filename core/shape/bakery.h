// Bakes in the background and keeps what was baked, by content.
#pragma once

#include "shape/bake.h"

#include <list>
#include <mutex>
#include <unordered_map>
#include <unordered_set>

namespace tuvvo {

/// A sound to be made.
struct BakeOrder {
  SoundPtr sound;
  Recipe recipe;
  std::string name; ///< recipe.nameOver(sound->hash())
};

/// Keeps the newest bakes up to a number of bytes; those that are wanted now are never dropped.
/// All functions may be called from any thread but the audio thread.
class Bakery {
public:
  /// @param baked  called from a worker after every bake and every failure
  /// @param most   bytes of samples kept beyond what is wanted
  Bakery(int threads, std::function<void()> baked, std::size_t most = std::size_t(256) << 20);
  ~Bakery();
  Bakery(const Bakery&) = delete;
  Bakery& operator=(const Bakery&) = delete;

  /// What is needed from now on: what is missing is baked, in this order; what runs and is no
  /// longer needed is cancelled.
  void want(std::vector<BakeOrder> orders);
  /// Null until it is baked.
  [[nodiscard]] SoundPtr find(const std::string& name) const;
  /// Bakes all of it before it returns, some on the calling thread.
  /// @returns an Error when the job was cancelled, or for the first bake that failed
  Result<void> bakeAll(const std::vector<BakeOrder>& orders, JobContext& job);

  struct Progress {
    int wanted = 0, ready = 0;
    double done = 1; ///< 0 to 1, with parts of what is being baked
    [[nodiscard]] bool working() const { return ready < wanted; }
  };
  [[nodiscard]] Progress progress() const;
  /// Until everything wanted is there or failed.
  void wait();

private:
  void work();
  void keep(const std::string& name, SoundPtr sound);

  struct Kept {
    SoundPtr sound;
    std::list<std::string>::iterator age;
  };
  mutable std::mutex m_mutex;
  std::condition_variable m_wake, m_idle;
  std::unordered_map<std::string, Kept> m_kept;
  std::list<std::string> m_ages; ///< oldest first
  std::size_t m_bytes = 0, m_most;
  std::vector<BakeOrder> m_wanted;
  std::unordered_map<std::string, std::shared_ptr<JobContext>> m_running;
  std::unordered_set<std::string> m_names;  ///< of what is wanted
  std::unordered_set<std::string> m_failed; ///< not tried again while they are wanted
  std::function<void()> m_baked;
  bool m_ending = false;
  std::vector<std::thread> m_threads;
};

} // namespace tuvvo
