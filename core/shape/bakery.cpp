#include "shape/bakery.h"

#include <algorithm>

namespace tuvvo {

namespace {

std::size_t bytesOf(const Sound& sound) {
  return std::size_t(sound.channels()) * std::size_t(sound.frames().value) * sizeof(float);
}

} // namespace

Bakery::Bakery(int threads, std::function<void()> baked, std::size_t most)
    : m_most(most), m_baked(std::move(baked)) {
  for (int i = 0; i < std::max(1, threads); ++i) m_threads.emplace_back([this] { work(); });
}

Bakery::~Bakery() {
  {
    const std::lock_guard lock(m_mutex);
    m_ending = true;
    for (const auto& [name, job] : m_running) job->cancel();
    m_wake.notify_all();
  }
  for (auto& thread : m_threads) thread.join();
}

void Bakery::want(std::vector<BakeOrder> orders) {
  const std::lock_guard lock(m_mutex);
  m_wanted.clear();
  m_names.clear();
  for (auto& order : orders) // several keys may want the same
    if (m_names.insert(order.name).second) m_wanted.push_back(std::move(order));
  for (const auto& [name, job] : m_running)
    if (!m_names.contains(name)) job->cancel();
  std::erase_if(m_failed, [&](const std::string& name) { return !m_names.contains(name); });
  m_wake.notify_all();
}

SoundPtr Bakery::find(const std::string& name) const {
  const std::lock_guard lock(m_mutex);
  const auto found = m_kept.find(name);
  return found == m_kept.end() ? nullptr : found->second.sound;
}

void Bakery::keep(const std::string& name, SoundPtr sound) {
  if (m_kept.contains(name)) return;
  m_bytes += bytesOf(*sound);
  m_ages.push_back(name);
  m_kept[name] = {std::move(sound), std::prev(m_ages.end())};
  for (auto age = m_ages.begin(); age != m_ages.end() && m_bytes > m_most;) {
    if (*age == name || m_names.contains(*age)) {
      ++age;
      continue;
    }
    m_bytes -= bytesOf(*m_kept.at(*age).sound);
    m_kept.erase(*age);
    age = m_ages.erase(age);
  }
}

void Bakery::work() {
  std::unique_lock lock(m_mutex);
  const auto next = [this]() -> const BakeOrder* {
    for (const auto& order : m_wanted)
      if (!m_kept.contains(order.name) && !m_running.contains(order.name) &&
          !m_failed.contains(order.name))
        return &order;
    return nullptr;
  };
  for (;;) {
    m_wake.wait(lock, [&] { return m_ending || next(); });
    if (m_ending) return;
    const BakeOrder order = *next();
    const auto job = std::make_shared<JobContext>();
    m_running[order.name] = job;
    lock.unlock();
    auto sound = bake(*order.sound, order.recipe, *job);
    lock.lock();
    m_running.erase(order.name);
    if (sound)
      keep(order.name, *sound);
    else if (!job->cancelled())
      m_failed.insert(order.name);
    m_idle.notify_all();
    lock.unlock();
    if (m_baked) m_baked();
    lock.lock();
  }
}

Result<void> Bakery::bakeAll(const std::vector<BakeOrder>& orders, JobContext& job) {
  std::size_t done = 0;
  for (const auto& order : orders) {
    job.report(double(done++) / double(orders.size()));
    if (job.cancelled()) return Error{"Baking was cancelled", "", ""};
    if (find(order.name)) continue;
    auto sound = bake(*order.sound, order.recipe, job);
    if (!sound) return sound.error();
    const std::lock_guard lock(m_mutex);
    keep(order.name, *sound);
  }
  return {};
}

Bakery::Progress Bakery::progress() const {
  const std::lock_guard lock(m_mutex);
  Progress out;
  out.wanted = int(m_wanted.size());
  double done = 0;
  for (const auto& order : m_wanted) {
    if (m_failed.contains(order.name) || m_kept.contains(order.name))
      ++out.ready;
    else if (const auto running = m_running.find(order.name); running != m_running.end())
      done += running->second->done();
  }
  if (out.wanted > 0) out.done = (double(out.ready) + done) / double(out.wanted);
  return out;
}

void Bakery::wait() {
  std::unique_lock lock(m_mutex);
  m_idle.wait(lock, [this] {
    return std::all_of(m_wanted.begin(), m_wanted.end(), [this](const BakeOrder& order) {
      return m_kept.contains(order.name) || m_failed.contains(order.name);
    });
  });
}

} // namespace tuvvo
