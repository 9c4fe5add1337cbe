// What comes in: heard by the way, and handed on to whoever catches it.
#include "audio/probe.h"
#include "play/engine.h"

#include <algorithm>

namespace tuvvo {

namespace {

constexpr int kFadeFrames = 480;       ///< from one set of filters to the next: 10 ms
constexpr float kGainStep = 1 / 480.f; ///< a frame, of full level

bool same(const PatchFilters& a, const PatchFilters& b) {
  return a.low.corner == b.low.corner && a.high.corner == b.high.corner && a.damping == b.damping;
}

/// One sample that is no number would stay in filters and levels for good.
void cleanInto(float* to, const float* from, int frames) {
  for (int i = 0; i < frames; ++i) to[i] = isSound(from[i]) ? from[i] : 0.0f;
}

void moveGain(float& gain, float to, float* samples, int frames) {
  for (int i = 0; i < frames; ++i) {
    gain += std::clamp(to - gain, -kGainStep, kGainStep);
    samples[i] *= gain;
  }
}

} // namespace

InputLine::Place Engine::placeNow() const {
  InputLine::Place place;
  place.playing = m_playing;
  place.starts = m_startCount;
  place.probed = m_probeFrame == 0 ? 0 : -1;
  if (m_current >= 0)
    place.music = m_position - EngineFrames(m_ahead) +
                  m_slots[std::size_t(m_current)]->score->round() * m_pass;
  return place;
}

/// Turns what came in into what is heard of it.
void Engine::monitor(const Monitor& how, float* wetLeft, float* wetRight, int frames) {
  auto& [current, last] = m_monitorFilters;
  if (!same(how.filters, m_monitorShape)) {
    std::swap(current, last);
    current.start(how.filters, 0);
    m_monitorShape = how.filters;
    m_monitorFade = kFadeFrames;
  }
  if (m_monitorFade > 0) {
    std::copy_n(wetLeft, frames, m_fadeLeft.begin());
    std::copy_n(wetRight, frames, m_fadeRight.begin());
    if (last.works()) last.run(m_fadeLeft.data(), m_fadeRight.data(), frames);
  }
  if (current.works()) current.run(wetLeft, wetRight, frames);
  for (int i = 0; i < frames && m_monitorFade > 0; ++i, --m_monitorFade) {
    const float share = float(m_monitorFade) / kFadeFrames;
    wetLeft[i] += share * (m_fadeLeft[std::size_t(i)] - wetLeft[i]);
    wetRight[i] += share * (m_fadeRight[std::size_t(i)] - wetRight[i]);
  }
}

void Engine::takeInput(const float* inLeft, const float* inRight, float* left, float* right,
                       int frames, InputLine::Place place) {
  static constexpr Monitor kSilent;
  const Monitor& how = m_current >= 0 ? m_slots[std::size_t(m_current)]->score->monitor : kSilent;
  for (int done = 0; done < frames; done += kInputRun) {
    const int n = std::min(kInputRun, frames - done);
    place.frames = n;
    cleanInto(m_cleanLeft.data(), inLeft + done, n);
    cleanInto(m_cleanRight.data(), inRight + done, n);
    m_input.measure(m_cleanLeft.data(), m_cleanRight.data(), n);
    std::copy_n(m_cleanLeft.begin(), n, m_wetLeft.begin());
    std::copy_n(m_cleanRight.begin(), n, m_wetRight.begin());
    monitor(how, m_wetLeft.data(), m_wetRight.data(), n);
    if (how.prints) {
      for (int i = 0; i < n; ++i) {
        m_fadeLeft[std::size_t(i)] = m_wetLeft[std::size_t(i)] * how.left;
        m_fadeRight[std::size_t(i)] = m_wetRight[std::size_t(i)] * how.right;
      }
      m_input.take(m_fadeLeft.data(), m_fadeRight.data(), place);
    } else {
      m_input.take(m_cleanLeft.data(), m_cleanRight.data(), place);
    }
    moveGain(m_monitorGain[0], how.on ? how.left : 0, m_wetLeft.data(), n);
    moveGain(m_monitorGain[1], how.on ? how.right : 0, m_wetRight.data(), n);
    for (int i = 0; i < n; ++i) {
      left[done + i] += m_wetLeft[std::size_t(i)];
      right[done + i] += m_wetRight[std::size_t(i)];
    }
    place.probed = -1;
    if (place.playing) place.music += EngineFrames(n);
  }
}

void Engine::sendProbe(float* left, float* right, int frames) {
  const auto wave = probeWave();
  for (int i = 0; i < frames && m_probeFrame < kProbeFrames; ++i, ++m_probeFrame) {
    left[i] += wave[std::size_t(m_probeFrame)];
    right[i] += wave[std::size_t(m_probeFrame)];
  }
  if (m_probeFrame >= kProbeFrames) m_probeFrame = -1;
}

} // namespace tuvvo
