#include "play/voice.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

void Voice::start(const Start& start, const SincBank& bank) {
  const Patch& patch = *start.patch;
  m_patch = start.patch;
  m_place = double(patch.start);
  m_step = patch.step * start.tune;
  m_kernel = &bank.forStep(m_step);
  m_gain = start.gain;
  m_attacked = 0;
  m_level = patch.attack > 0 ? 0.0f : 1.0f;
  m_above = 1.0f - patch.sustain;
  m_stage = patch.attack > 0 ? Stage::Attack : Stage::Decay;
  m_cut = 0;
  m_hold = start.hold;
  m_live = start.live;
  m_owner = start.owner;
}

void Voice::letGo() {
  if (m_patch && m_patch->gate) m_stage = Stage::Release;
}

void Voice::cutOff() {
  if (m_patch && m_cut == 0) m_cut = kCutFrames;
}

float Voice::nextEnvelope() {
  const Patch& patch = *m_patch;
  switch (m_stage) {
  case Stage::Attack:
    m_level = float(++m_attacked) / float(patch.attack);
    if (m_attacked >= patch.attack) {
      m_level = 1.0f;
      m_stage = Stage::Decay;
    }
    break;
  case Stage::Decay:
    m_level = patch.sustain + m_above;
    m_above *= patch.decay;
    if (m_above < 1e-4f) {
      m_level = patch.sustain;
      m_stage = Stage::Sustain;
    }
    break;
  case Stage::Sustain:
    break;
  case Stage::Release:
    m_level *= patch.release;
    break;
  }
  float level = m_level;
  if (m_cut > 0) level *= float(--m_cut) / float(kCutFrames);
  return level;
}

void Voice::sampleAt(double place, float& left, float& right) const {
  const Sound& sound = *m_patch->sound;
  const auto whole = std::int64_t(place); // never negative
  const double fraction = place - double(whole);
  const int taps = m_kernel->taps;
  const std::int64_t first = whole - (taps / 2 - 1);
  const std::int64_t frames = sound.frames().value;
  const float* l = sound.channel(0).data();
  const float* r = sound.channel(1).data();
  if (fraction == 0.0 && m_step <= 1.0 && whole >= 0 && whole < frames) {
    // On a frame the narrowest kernel is that frame alone: unmoved sound passes as it is.
    left = l[whole];
    right = r[whole];
    return;
  }
  if (first >= 0 && first + taps <= frames) {
    SincBank::run(*m_kernel, l, r, place, 0, 1, &left, &right);
    return;
  }
  // At the sound's ends the rest of the window is silence.
  float padL[600], padR[600];
  for (int k = 0; k < taps; ++k) {
    const std::int64_t at = first + k;
    const bool inside = at >= 0 && at < frames;
    padL[k] = inside ? l[at] : 0.0f;
    padR[k] = inside ? r[at] : 0.0f;
  }
  const float* middleLeft = padL + (taps / 2 - 1);
  const float* middleRight = l == r ? middleLeft : padR + (taps / 2 - 1);
  SincBank::run(*m_kernel, middleLeft, middleRight, fraction, 0, 1, &left, &right);
}

void Voice::samplesFrom(double place, int frames, float* left, float* right) const {
  const Sound& sound = *m_patch->sound;
  const int taps = m_kernel->taps;
  const std::int64_t first = std::int64_t(place) - (taps / 2 - 1);
  const std::int64_t last = std::int64_t(place + m_step * frames) + taps / 2 + 1;
  const bool onFrames = m_step == 1.0 && place == std::floor(place);
  if (first >= 0 && last < sound.frames().value && !onFrames) {
    SincBank::run(*m_kernel, sound.channel(0).data(), sound.channel(1).data(), place, m_step,
                  frames, left, right);
    return;
  }
  for (int i = 0; i < frames; ++i, place += m_step) sampleAt(place, left[i], right[i]);
}

float Voice::render(float* left, float* right, int frames) {
  if (!m_patch) return 0;
  const Patch& patch = *m_patch;
  const auto end = double(patch.end), start = double(patch.start);
  float loudest = 0, runLeft[kRun], runRight[kRun];
  for (int i = 0; i < frames; ++i) {
    if (m_place >= end) {
      m_patch = nullptr;
      return loudest;
    }
    if (i % kRun == 0) samplesFrom(m_place, std::min(kRun, frames - i), runLeft, runRight);
    if (m_hold > 0 && --m_hold == 0) letGo();
    float level = nextEnvelope() * m_gain;
    if (patch.fadeIn > 0 && m_place < start + patch.fadeIn)
      level *= float((m_place - start) / patch.fadeIn);
    if (patch.fadeOut > 0 && m_place > end - patch.fadeOut)
      level *= float((end - m_place) / patch.fadeOut);
    const float l = runLeft[i % kRun] * level * patch.left;
    const float r = runRight[i % kRun] * level * patch.right;
    left[i] += l;
    right[i] += r;
    loudest = std::max({loudest, std::abs(l), std::abs(r)});
    m_place += m_step;
    const bool faded = (m_stage == Stage::Release || m_stage == Stage::Sustain) && m_level < 1e-4f;
    if (faded || (m_cut == 0 && level == 0.0f && m_place > start + patch.fadeIn + m_step &&
                  m_stage != Stage::Attack)) {
      m_patch = nullptr;
      return loudest;
    }
  }
  return loudest;
}

} // namespace tuvvo
