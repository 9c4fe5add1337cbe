#include "catch/catcher.h"

#include "audio/probe.h"
#include "base/guard.h"
#include "play/score.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {
constexpr auto kPause = std::chrono::milliseconds(4);
constexpr std::int64_t kLongestBars = std::int64_t(3600) * 48000;
constexpr std::size_t kProbeListens = 72'000; ///< frames after the probe went out: 1.5 s
} // namespace

struct Catcher::Bars {
  BarsRequest order;
  std::int64_t first = -1;  ///< frame of the line at which it begins; below 0: not known yet
  std::int64_t music = 0;   ///< where the music has to stand at the next block
  std::uint32_t starts = 0; ///< of the music when its place came
  Samples left, right;
};

struct Catcher::Probe {
  std::int64_t sent = -1; ///< frame of the line at which it went out
  std::vector<float> heard;
};

Catcher::Catcher(InputLine& line, Tell tell)
    : m_line(line), m_tell(std::move(tell)), m_thread([this] { run(); }) {}

Catcher::~Catcher() {
  {
    std::lock_guard lock(m_mutex);
    m_ending = true;
  }
  m_wake.notify_one();
  m_thread.join();
}

void Catcher::order(CatchRequest order) {
  {
    std::lock_guard lock(m_mutex);
    m_requests.push_back(std::move(order));
  }
  m_wake.notify_one();
}

void Catcher::finish() {
  std::unique_lock lock(m_mutex);
  m_idle.wait(lock, [this] { return m_requests.empty() && !m_busy; });
}

Catcher::Now Catcher::now() const {
  return {m_frames.load(), m_hitCount.load(), m_taking.load(), Decibels(m_floor.load())};
}

void Catcher::run() {
  std::unique_lock lock(m_mutex);
  while (!m_ending) {
    std::deque<CatchRequest> orders;
    orders.swap(m_requests);
    m_busy = true;
    lock.unlock();
    attempt([&] {
      drain(); // what came before an order belongs to the one before
      for (auto& order : orders) {
        end();
        begin(std::move(order));
      }
    });
    lock.lock();
    m_busy = false;
    m_idle.notify_all();
    if (m_requests.empty() && !m_ending) m_wake.wait_for(lock, kPause);
  }
  lock.unlock();
  attempt([&] {
    drain();
    end();
  });
}

/// Where memory runs out the order is over, with what its file holds, and the next one may come.
void Catcher::attempt(const std::function<void()>& work) {
  const auto worked = guarded("Catching", {}, [&]() -> Result<void> {
    work();
    return {};
  });
  if (worked) return;
  m_bars.reset();
  m_hits.reset();
  m_probe.reset();
  m_order = {};
  m_taking = false;
  (void)guarded("Catching", {}, [&]() -> Result<void> {
    LongCaught caught{m_take ? m_take->path() : std::filesystem::path(), 0, worked.error()};
    if (m_take) {
      (void)m_take->finish();
      caught.frames = m_take->frames();
    }
    m_take.reset();
    m_tell(std::move(caught));
    return {};
  });
}

void Catcher::begin(CatchRequest order) {
  m_frames = 0;
  m_hitCount = 0;
  m_taking = false;
  m_floor = -INFINITY;
  m_order = std::move(order);
  if (const auto* bars = std::get_if<BarsRequest>(&m_order)) {
    m_bars = std::make_unique<Bars>();
    m_bars->order = *bars;
    m_bars->order.frames = std::clamp<std::int64_t>(bars->frames, 1, kLongestBars);
  } else if (const auto* hits = std::get_if<HitsRequest>(&m_order)) {
    m_hits = std::make_unique<HitCatcher>(hits->settings, kEngineRate);
  } else if (const auto* all = std::get_if<LongRequest>(&m_order)) {
    auto take = TakeFile::begin(all->folder, all->about);
    if (take) {
      m_take = std::move(take).value();
      return;
    }
    m_order = {};
    m_tell(LongCaught{{}, 0, take.error()});
  } else if (std::holds_alternative<ProbeRequest>(m_order)) {
    m_probe = std::make_unique<Probe>();
  }
}

/// Tells what there is of the order; it is over.
void Catcher::end() {
  if (m_bars && m_bars->first >= 0 && !m_bars->left.empty())
    m_tell(BarsCaught{{std::move(m_bars->left), std::move(m_bars->right)}, false});
  m_bars.reset();
  if (m_hits) m_hits->finish([this](CaughtHit hit) { m_tell(HitCaught{std::move(hit)}); });
  m_hits.reset();
  if (m_take) {
    LongCaught caught{m_take->path(), 0, std::nullopt};
    if (auto finished = m_take->finish(); !finished) caught.trouble = finished.error();
    caught.frames = m_take->frames();
    m_take.reset();
    m_tell(std::move(caught));
  }
  if (m_probe) m_tell(LatencyFound{});
  m_probe.reset();
  m_order = {};
  m_taking = false;
}

void Catcher::drain() {
  InputLine::Place place;
  while (m_line.nextPlace(place)) {
    m_left.resize(std::size_t(place.frames));
    m_right.resize(m_left.size());
    m_line.read(m_left.data(), m_right.data(), place.frames);
    take(place, m_left.data(), m_right.data());
  }
  if (const std::uint64_t lost = m_line.lost(); lost != m_lost) {
    if (!std::holds_alternative<std::monostate>(m_order)) m_tell(SoundLost{lost - m_lost});
    m_lost = lost;
  }
}

void Catcher::take(const InputLine::Place& place, const float* left, const float* right) {
  if (m_bars) return takeBars(place, left, right);
  if (m_probe) return takeProbe(place, left);
  if (m_hits) {
    m_hits->feed(left, right, place.frames, [this](CaughtHit hit) {
      ++m_hitCount;
      m_tell(HitCaught{std::move(hit)});
    });
    m_taking = m_hits->inHit();
    m_floor = m_hits->floor().value;
  } else if (m_take) {
    m_taking = true;
    if (auto written = m_take->write(left, right, place.frames); !written) {
      LongCaught caught{m_take->path(), m_take->frames(), written.error()};
      m_take.reset();
      m_order = {};
      m_taking = false;
      m_tell(std::move(caught));
      return;
    }
  } else {
    return;
  }
  m_frames += place.frames;
}

void Catcher::takeBars(const InputLine::Place& place, const float* left, const float* right) {
  Bars& bars = *m_bars;
  const BarsRequest& order = bars.order;
  if (bars.first < 0) {
    if (!place.playing || place.music > order.from ||
        place.music + EngineFrames(place.frames) <= order.from)
      return;
    bars.first = (place.frame + order.from - place.music).value + order.latency;
    bars.starts = place.starts;
    bars.left.reserve(std::size_t(order.frames));
    bars.right.reserve(std::size_t(order.frames));
  }
  const std::int64_t have = std::int64_t(bars.left.size()),
                     next = bars.first + have; // frame of the line that is wanted next
  const std::int64_t here = place.frame.value;
  const bool lost = have > 0 && here > next;
  // What is heard at the end still comes in after the music went on or stopped.
  const std::int64_t heardEnd = bars.first + order.frames - order.latency;
  const bool broken = lost || ((!place.playing || place.starts != bars.starts) && here < heardEnd);
  if (!broken) {
    const std::int64_t skip = std::max<std::int64_t>(0, next - here),
                       n = std::min<std::int64_t>(place.frames - skip, order.frames - have);
    if (n > 0) {
      bars.left.insert(bars.left.end(), left + skip, left + skip + n);
      bars.right.insert(bars.right.end(), right + skip, right + skip + n);
    }
    m_frames = std::int64_t(bars.left.size());
    m_taking = m_frames > 0;
    if (m_frames < order.frames) return;
  }
  BarsCaught caught{{std::move(bars.left), std::move(bars.right)}, !broken};
  m_bars.reset();
  m_order = {};
  m_taking = false;
  m_tell(std::move(caught));
}

void Catcher::takeProbe(const InputLine::Place& place, const float* left) {
  Probe& probe = *m_probe;
  if (probe.sent < 0) {
    if (place.probed < 0) return;
    probe.sent = place.frame.value + place.probed;
  }
  const auto skip = std::max<std::int64_t>(0, probe.sent - place.frame.value);
  if (skip < place.frames) probe.heard.insert(probe.heard.end(), left + skip, left + place.frames);
  m_frames = std::int64_t(probe.heard.size());
  if (probe.heard.size() < kProbeListens) return;
  LatencyFound told;
  if (const auto found = findProbe(probe.heard)) {
    told.frames = found->at;
    told.correlation = found->correlation;
    told.gain = decibelsOf(double(found->gain));
  }
  m_probe.reset();
  m_order = {};
  m_tell(told);
}

} // namespace tuvvo
