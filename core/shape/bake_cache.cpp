#include "shape/bake_cache.h"

#include "base/guard.h"

#include <algorithm>

namespace tuvvo {

namespace {

std::size_t bytesOf(const Baked& baked) {
  return std::size_t(baked.sound->channels()) * std::size_t(baked.sound->frames().value) *
         sizeof(float);
}

} // namespace

BakeCache::BakeCache(int threads, std::function<void()> baked, std::size_t most)
    : m_most(most), m_baked(std::move(baked)) {
  for (int i = 0; i < std::max(1, threads); ++i) m_threads.emplace_back([this] { work(); });
}

BakeCache::~BakeCache() {
  {
    const std::lock_guard lock(m_mutex);
    m_ending = true;
    for (const auto& [name, job] : m_running) job->cancel();
    m_wake.notify_all();
  }
  for (auto& thread : m_threads) thread.join();
}

void BakeCache::want(std::vector<BakeOrder> orders) {
  const std::lock_guard lock(m_mutex);
  m_wanted.clear();
  m_names.clear();
  for (auto& order : orders) // several keys may want the same
    if (m_names.insert(order.name).second) m_wanted.push_back(std::move(order));
  const auto gone = [&](const std::string& name) { return !m_names.contains(name); };
  for (const auto& [name, job] : m_running)
    if (gone(name)) job->cancel();
  std::erase_if(m_failed, [&](const auto& failed) { return gone(failed.first); });
  std::erase_if(m_stopped, gone);
  m_wake.notify_all();
}

Baked BakeCache::find(const std::string& name) const {
  const std::lock_guard lock(m_mutex);
  auto found = m_kept.find(name);
  if (found == m_kept.end())
    if (const auto preview = m_previews.find(name); preview != m_previews.end())
      found = m_kept.find(preview->second);
  return found == m_kept.end() ? Baked{} : found->second.baked;
}

void BakeCache::stop() {
  const std::lock_guard lock(m_mutex);
  for (const auto& order : m_wanted)
    if (!settled(order.name)) m_stopped.insert(order.name);
  for (const auto& [name, job] : m_running) job->cancel();
  m_idle.notify_all();
}

void BakeCache::resume() {
  const std::lock_guard lock(m_mutex);
  m_stopped.clear();
  m_failed.clear();
  m_wake.notify_all();
}

bool BakeCache::settled(const std::string& name) const {
  return m_kept.contains(name) || m_failed.contains(name) || m_stopped.contains(name);
}

void BakeCache::drop(const std::string& name) {
  const auto found = m_kept.find(name);
  if (found == m_kept.end()) return;
  m_bytes -= bytesOf(found->second.baked);
  m_ages.erase(found->second.age);
  m_kept.erase(found);
}

void BakeCache::keep(const std::string& name, const Baked& baked) {
  if (const auto preview = m_previews.find(name); preview != m_previews.end()) {
    drop(preview->second);
    m_previews.erase(preview);
  }
  if (m_kept.contains(name)) return;
  m_bytes += bytesOf(baked);
  m_ages.push_back(name);
  m_kept[name] = {baked, std::prev(m_ages.end())};
  for (auto age = m_ages.begin(); age != m_ages.end() && m_bytes > m_most;) {
    const std::string old = *age++;
    if (old != name && !m_names.contains(old)) drop(old);
  }
}

/// Previews of everything come before the first fine bake.
std::optional<BakeCache::Task> BakeCache::next() const {
  const auto open = [&](const BakeOrder& order) {
    return !settled(order.name) && !m_running.contains(order.name);
  };
  for (const auto& order : m_wanted)
    if (open(order) && order.hasPreview() && !m_previews.contains(order.name))
      return Task{order.preview(), order.name};
  for (const auto& order : m_wanted)
    if (open(order)) return Task{order, {}};
  return std::nullopt;
}

/// What the recipe makes is kept by itself: another treatment of it needs no new stretching.
Result<Baked> BakeCache::make(const BakeOrder& order, JobContext& job) {
  SoundPtr base = order.treated() ? find(order.base).sound : nullptr;
  if (!base) {
    auto baked = bake(*order.sound, order.recipe, job);
    if (!baked) return baked.error();
    base = *baked;
    if (order.treated()) {
      const std::lock_guard lock(m_mutex);
      keep(order.base, {base, 0, 0});
    }
  }
  return finishOrder(order, base, job);
}

void BakeCache::work() {
  workInTheBackground();
  std::unique_lock lock(m_mutex);
  for (;;) {
    std::optional<Task> task;
    m_wake.wait(lock, [&] { return m_ending || (task = next()); });
    if (m_ending) return;
    // A preview runs under the name of what it stands in for: one of the two at a time.
    const std::string name = task->of.empty() ? task->order.name : task->of;
    const auto job = std::make_shared<JobContext>();
    m_running[name] = job;
    lock.unlock();
    auto baked = guarded("Making the sound", "", [&] { return make(task->order, *job); });
    lock.lock();
    m_running.erase(name);
    if (baked) {
      if (!task->of.empty() && !m_kept.contains(name)) m_previews[name] = task->order.name;
      keep(task->order.name, *baked);
    } else if (!job->cancelled()) {
      m_failed[name] = baked.error().text();
    }
    m_idle.notify_all();
    lock.unlock();
    if (m_baked) m_baked();
    lock.lock();
  }
}

Result<BakeCache::Batch> BakeCache::bakeAll(const std::vector<BakeOrder>& orders, JobContext& job) {
  Batch out;
  std::size_t done = 0;
  for (const auto& order : orders) {
    job.report(double(done++) / double(orders.size()));
    if (job.cancelled()) return Error{"Baking was cancelled", "", ""};
    {
      const std::lock_guard lock(m_mutex);
      if (const auto kept = m_kept.find(order.name); kept != m_kept.end()) {
        out[order.name] = kept->second.baked;
        continue;
      }
    }
    auto baked = make(order, job);
    if (!baked) return baked.error();
    out[order.name] = *baked;
    const std::lock_guard lock(m_mutex);
    keep(order.name, *baked);
  }
  return out;
}

BakeCache::Progress BakeCache::progress() const {
  const std::lock_guard lock(m_mutex);
  Progress out;
  out.wanted = int(m_wanted.size());
  double done = 0;
  for (const auto& order : m_wanted) {
    if (const auto failed = m_failed.find(order.name);
        failed != m_failed.end() && out.trouble.empty())
      out.trouble = failed->second;
    if (m_stopped.contains(order.name) && !m_kept.contains(order.name)) ++out.stopped;
    if (settled(order.name))
      ++out.ready;
    else if (const auto running = m_running.find(order.name); running != m_running.end())
      done += running->second->done();
  }
  if (out.wanted > 0) out.done = (double(out.ready) + done) / double(out.wanted);
  return out;
}

void BakeCache::wait() {
  std::unique_lock lock(m_mutex);
  m_idle.wait(lock, [this] {
    return std::all_of(m_wanted.begin(), m_wanted.end(),
                       [this](const BakeOrder& order) { return settled(order.name); });
  });
}

} // namespace tuvvo
