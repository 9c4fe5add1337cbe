#include "devices/simulated_input.h"

#include "base/convert.h"
#include "play/score.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {
constexpr std::size_t kCableRing = 1 << 15;
constexpr int kMostLineBlock = 8192;
constexpr double kPauseS = 1; ///< before the reel begins anew
} // namespace

SimulatedInput::SimulatedInput(Kind kind)
    : m_kind(kind), m_cableLeft(kind == Kind::Cable ? kCableRing : 0),
      m_cableRight(m_cableLeft.size()) {}

SimulatedInput::~SimulatedInput() {
  Reel* reel = nullptr;
  while (m_done.pop(reel)) delete reel;
  delete m_incoming.load();
  delete m_reel;
}

void SimulatedInput::load(SoundPtr sound) {
  Reel* done = nullptr;
  while (m_done.pop(done)) delete done;
  auto reel = std::make_unique<Reel>();
  if (sound) {
    const auto padded = [&](int channel) {
      const auto from = sound->channel(channel);
      Samples out(from.size() + std::size_t(2) * kEdge);
      std::copy(from.begin(), from.end(), out.begin() + kEdge);
      return out;
    };
    reel->left = padded(0);
    reel->right = padded(1);
    reel->frames = sound->frames().value;
    reel->rate = sound->rate();
    reel->step = sound->rate().value / kEngineRate.value;
  }
  delete m_incoming.exchange(reel.release(), std::memory_order_acq_rel);
}

void SimulatedInput::set(const LineSettings& settings) {
  m_settings = settings;
  m_settings.speed = std::clamp(settings.speed, 0.25, 4.0);
  m_settings.level.value = std::clamp(settings.level.value, -60.0, 12.0);
  for (Decibels* noise : {&m_settings.hum, &m_settings.hiss})
    noise->value = std::clamp(noise->value, -100.0, -20.0);
  m_settings.mains = Hertz(settings.mains.value > 55 ? 60 : 50);
  const auto noiseGain = [](Decibels d) { return d.value <= -100 ? 0 : gainOf(d); };
  m_level = gainOf(m_settings.level);
  m_hum = noiseGain(m_settings.hum);
  m_hiss = noiseGain(m_settings.hiss);
  m_mains = m_settings.mains.value;
  m_speed = m_settings.speed;
}

void SimulatedInput::start() { m_runs = true; }
void SimulatedInput::stop() { m_runs = false; }

void SimulatedInput::takeNew() {
  if (!m_incoming.load(std::memory_order_relaxed)) return;
  if (m_reel && !m_done.push(m_reel)) return; // next time
  m_reel = m_incoming.exchange(nullptr, std::memory_order_acq_rel);
  m_at = 0;
}

void SimulatedInput::playReel(float* left, float* right, int frames) {
  const double step = m_reel->step * m_speed.load(std::memory_order_relaxed);
  const auto& kernel = m_bank.forStep(step);
  const double end = double(m_reel->frames), pause = kPauseS * m_reel->rate.value;
  const auto gain = float(m_level.load(std::memory_order_relaxed));
  for (int done = 0; done < frames;) {
    if (m_at >= end) { // it rests, and begins anew
      const int n =
          toWhole<int>(std::min<double>(frames - done, std::ceil((end + pause - m_at) / step)));
      done += std::max(1, n);
      m_at += step * std::max(1, n);
      if (m_at >= end + pause) m_at = 0;
      continue;
    }
    const int n = toWhole<int>(
        std::min<double>(frames - done, std::max(1.0, std::ceil((end - m_at) / step))));
    const std::ptrdiff_t base = kEdge; // the kernel's reach lies within the silence around the reel
    SincBank::run(kernel, {m_reel->left.data() + base, m_reel->right.data() + base, m_at, step}, 0,
                  n, left + done, right + done);
    for (int i = done; i < done + n; ++i) {
      left[i] *= gain;
      right[i] *= gain;
    }
    done += n;
    m_at += step * n;
  }
  m_place.store(std::min(m_at, end) / m_reel->rate.value, std::memory_order_relaxed);
}

void SimulatedInput::addNoise(float* left, float* right, int frames) {
  const double hum = m_hum.load(std::memory_order_relaxed) * std::sqrt(2.0) / 1.05,
               hiss = m_hiss.load(std::memory_order_relaxed) * std::sqrt(3.0),
               turn = 2 * M_PI * m_mains.load(std::memory_order_relaxed) / kEngineRate.value;
  const auto random = [&] {
    m_noise ^= m_noise << 13;
    m_noise ^= m_noise >> 7;
    m_noise ^= m_noise << 17;
    return double(std::int64_t(m_noise) >> 11) / double(std::int64_t(1) << 52);
  };
  for (int i = 0; i < frames; ++i) {
    if (hum > 0) {
      m_phase = std::fmod(m_phase + turn, 2 * M_PI);
      const auto v = float(
          hum * (std::sin(m_phase) + 0.25 * std::sin(2 * m_phase) + 0.2 * std::sin(3 * m_phase)));
      left[i] += v;
      right[i] += v;
    }
    if (hiss > 0) {
      left[i] += float(hiss * random());
      right[i] += float(hiss * random());
    }
  }
}

void SimulatedInput::render(float* left, float* right, int frames) {
  std::fill(left, left + frames, 0.0f);
  std::fill(right, right + frames, 0.0f);
  if (m_kind == Kind::Cable) {
    const auto late = std::uint64_t(std::min(frames, kMostLineBlock) + kCable);
    for (int i = 0; i < frames; ++i) {
      const std::uint64_t at = m_cableWritten + std::uint64_t(i);
      if (at < late) continue;
      left[i] = m_cableLeft[std::size_t((at - late) % kCableRing)];
      right[i] = m_cableRight[std::size_t((at - late) % kCableRing)];
    }
    return;
  }
  takeNew();
  if (m_reel && m_reel->frames > 0 && m_runs.load(std::memory_order_relaxed))
    playReel(left, right, frames);
  addNoise(left, right, frames);
}

void SimulatedInput::wentOut(const float* left, const float* right, int frames) {
  if (m_kind != Kind::Cable) return;
  for (int i = 0; i < frames; ++i, ++m_cableWritten) {
    m_cableLeft[std::size_t(m_cableWritten % kCableRing)] = left[i];
    m_cableRight[std::size_t(m_cableWritten % kCableRing)] = right[i];
  }
}

} // namespace tuvvo
