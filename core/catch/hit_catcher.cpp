#include "catch/hit_catcher.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kRetrigger = 5.01;           ///< 7 dB, of energy
constexpr double kBrighter = 8;               ///< 9 dB, of the energy of the differences
constexpr int kLookBack = 58, kLookNear = 15; ///< steps: the loudest of these is what was before
constexpr double kEndOver = 2.51;             ///< 4 dB
constexpr double kUnderLeast = 0.063;   ///< −12 dB: under that is silence, whatever the floor was
constexpr double kRiseOver = 1.6;       ///< 2 dB over the floor: there it begins to rise
constexpr double kRingOver = 1.25;      ///< 1 dB over what rings before
constexpr int kSlowRise = 16;           ///< steps before it rises out of what was there
constexpr double kStillRises = 0.63;    ///< −2 dB: less is the noise's own unrest
constexpr int kSlowest = 60;            ///< steps that a rise may take
constexpr std::size_t kQuietKept = 300; ///< of 10 ms each
constexpr std::size_t kQuietLeast = 20;
constexpr std::int64_t kHistory = 400; ///< steps kept while nothing happens
constexpr int kTail = 20;              ///< steps after the last that was loud

double powerOf(Decibels d) { return std::pow(10.0, d.value / 10); }

} // namespace

HitCatcher::HitCatcher(const HitSettings& settings, Hertz rate)
    : m_settings(settings), m_hop(std::max(8, toNearest<int>(rate.value / 1000))) {
  const auto clamp = [](double v, double least, double most) { return std::clamp(v, least, most); };
  m_settings.over.value = clamp(settings.over.value, 4, 40);
  m_settings.least.value = clamp(settings.least.value, -80, 0);
  m_settings.preRoll.value = clamp(settings.preRoll.value, 0, 100);
  m_settings.silence.value = clamp(settings.silence.value, 20, 2000);
  m_settings.gap.value = clamp(settings.gap.value, 20, 1000);
  m_settings.longest.value = clamp(settings.longest.value, 0.1, 60);
}

Decibels HitCatcher::floor() const {
  return m_floor < 0 ? Decibels(-INFINITY) : Decibels(10 * std::log10(std::max(m_floor, 1e-20)));
}

double HitCatcher::energyAt(std::int64_t step) const {
  const std::int64_t at = step - m_firstEnergy;
  return at < 0 || at >= std::int64_t(m_energy.size()) ? 0 : m_energy[std::size_t(at)];
}

double HitCatcher::brightAt(std::int64_t step) const {
  const std::int64_t at = step - m_firstEnergy;
  return at < 0 || at >= std::int64_t(m_bright.size()) ? 0 : m_bright[std::size_t(at)];
}

void HitCatcher::learnFloor(double energy) {
  m_quiet.push_back(float(energy));
  if (m_quiet.size() > kQuietKept) m_quiet.pop_front();
  if (m_quiet.size() < kQuietLeast) return;
  std::vector<float> sorted(m_quiet.begin(), m_quiet.end());
  const auto fifth = sorted.begin() + std::ptrdiff_t(sorted.size() / 5);
  std::nth_element(sorted.begin(), fifth, sorted.end());
  m_floor = double(*fifth);
}

/// The step at which a rise began that was noticed at `step`: going back, the last one at which
/// the energy still was what it had been before, or the lowest, where it had been falling.
std::int64_t HitCatcher::rise(std::int64_t step, double from) const {
  std::int64_t lowest = step;
  for (std::int64_t at = step; at > m_firstEnergy && step - at < kSlowest; --at) {
    if (energyAt(at) < energyAt(lowest)) lowest = at;
    if (energyAt(at) <= from) return at;
    if (energyAt(at) > energyAt(lowest) * 2) break;
  }
  return lowest;
}

HitCatcher::Before HitCatcher::before() const {
  Before out;
  for (std::int64_t s = m_steps - kLookBack; s <= m_steps - kLookNear; ++s) {
    out.energy = std::max(out.energy, energyAt(s));
    out.bright = std::max(out.bright, brightAt(s));
  }
  return out;
}

/// Where a hit began that has been noticed at the step that has just been measured.
HitCatcher::Begun HitCatcher::rising(double energy, double before) const {
  // It rises where it leaves what was there, and no earlier than half of the way up in decibels:
  // what rings under it moves too.
  const double floor = std::max(m_floor, 1e-12);
  const std::int64_t at =
      rise(m_steps, std::max({floor * kRiseOver, before * kRingOver, std::sqrt(energy * before)}));
  std::int64_t lowest = at; // a slow one began before that
  for (std::int64_t s = at - 1; s >= std::max(m_firstEnergy, at - kSlowRise); --s)
    if (energyAt(s) < energyAt(lowest) * kStillRises) lowest = s;
  // A step's energy reaches back 3 ms; the last quiet one ended where it rises.
  const auto pre = toWhole<std::int64_t>(m_settings.preRoll.value * m_hop);
  return {std::max(m_first, (lowest + 1) * m_hop - pre), (at + 1) * m_hop};
}

void HitCatcher::begin(const Begun& begun) {
  m_start = begun.start;
  m_attack = begun.attack;
  m_trigger = m_lastLoud = m_steps;
}

void HitCatcher::end(std::int64_t at, const Take& take) {
  const std::int64_t until = std::min(at, m_first + std::int64_t(m_left.size()));
  CaughtHit hit;
  hit.start = m_start;
  hit.attack = m_attack - m_start;
  const auto from = m_start - m_first;
  const auto copy = [&](const std::deque<float>& all) {
    return Samples(all.begin() + from, all.begin() + (until - m_first));
  };
  hit.channels = {copy(m_left), copy(m_right)};
  m_start = -1;
  if (until - hit.start > m_hop) take(std::move(hit));
}

void HitCatcher::forget() {
  const std::int64_t keepStep = m_steps - kHistory;
  while (m_firstEnergy < keepStep && !m_energy.empty()) {
    m_energy.pop_front();
    m_bright.pop_front();
    ++m_firstEnergy;
  }
  const std::int64_t keep = m_start >= 0 ? std::min(m_start, keepStep * m_hop) : keepStep * m_hop;
  if (keep <= m_first) return;
  const std::ptrdiff_t gone =
      std::min<std::ptrdiff_t>(keep - m_first, std::ptrdiff_t(m_left.size()));
  m_left.erase(m_left.begin(), m_left.begin() + gone);
  m_right.erase(m_right.begin(), m_right.begin() + gone);
  m_first += gone;
}

void HitCatcher::step(const Take& take) {
  m_hopEnergy[m_steps % 3] = m_sum / (2.0 * m_hop);
  m_sum = 0;
  const double energy = (m_hopEnergy[0] + m_hopEnergy[1] + m_hopEnergy[2]) / 3;
  m_energy.push_back(energy);
  m_hopBright[m_steps % 3] = m_brightSum / (2.0 * m_hop);
  m_brightSum = 0;
  const double bright = (m_hopBright[0] + m_hopBright[1] + m_hopBright[2]) / 3;
  m_bright.push_back(bright);
  const bool known = m_floor >= 0;
  const double floor = std::max(m_floor, 1e-12),
               trigger = std::max(floor * powerOf(m_settings.over), powerOf(m_settings.least));
  const Before was = before();
  if (m_start < 0) {
    if (known && energy > trigger)
      begin(rising(energy, was.energy));
    else if (m_steps % 10 == 9)
      learnFloor(energy);
  } else {
    if (energy > std::max(floor * kEndOver, powerOf(m_settings.least) * kUnderLeast))
      m_lastLoud = m_steps;
    const auto since = double(m_steps - m_trigger);
    const bool again = energy > was.energy * kRetrigger || bright > was.bright * kBrighter;
    if (since >= m_settings.gap.value && energy > trigger && again) {
      const Begun begun = rising(energy, was.energy);
      end(std::max(m_start + m_hop, begun.start), take);
      begin(begun);
    } else if (double(m_steps - m_lastLoud) >= m_settings.silence.value) {
      end((m_lastLoud + kTail) * m_hop, take);
    } else if (since >= m_settings.longest.value * 1000) {
      end(m_steps * m_hop, take);
      m_quiet.clear(); // what goes on for so long is what the room is like now
      m_floor = -1;
    }
  }
  ++m_steps;
  if (m_steps % 64 == 0) forget();
}

void HitCatcher::feed(const float* left, const float* right, int frames, const Take& take) {
  for (int i = 0; i < frames; ++i) {
    m_left.push_back(left[i]);
    m_right.push_back(right[i]);
    const double l = double(left[i]), r = double(right[i]), dl = l - m_lastLeft,
                 dr = r - m_lastRight;
    m_sum += l * l + r * r;
    m_brightSum += dl * dl + dr * dr;
    m_lastLeft = l;
    m_lastRight = r;
    if (++m_inHop < m_hop) continue;
    m_inHop = 0;
    step(take);
  }
}

void HitCatcher::finish(const Take& take) {
  if (m_start >= 0) end(std::min((m_lastLoud + kTail) * m_hop, m_steps * m_hop), take);
}

} // namespace tuvvo
