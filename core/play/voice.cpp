#include "play/voice.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tuvvo {

void Voice::start(const Start& start, const SincBank& bank) {
  const Patch& patch = *start.patch;
  m_patch = start.patch;
  m_bank = &bank;
  m_begin = m_from =
      double(patch.start.value) + start.from * double((patch.end - patch.start).value);
  m_firstRound = true;
  m_since = m_played = {};
  m_glideLeft = m_glideUntil = 0;
  const bool glides = start.tuneFrom > 0 && start.tuneFrom != start.tune && start.glide.value > 0;
  setSpeed(patch.step * (glides ? start.tuneFrom : start.tune));
  m_played = start.skip;
  if (glides) glideTo(patch.step * start.tune, start.glide);
  m_gain = start.gain;
  m_pan = start.pan;
  aim(patch);
  m_left = m_toLeft;
  m_right = m_toRight;
  m_aim = 0;
  m_envelope.start(patch.envelope);
  m_filter.start(patch.filters, start.bright);
  if (patch.shaped) m_layerEnvelope.start(patch.layerShape);
  m_layerFilter.start(patch.layerFilters, 0);
  m_cut = 0;
  m_hold = start.hold;
  m_wait = start.wait;
  m_touch = start.touch;
  m_owner = start.owner;
  m_prefetched = start.prefetched;
  m_wasAway = false;
  m_released = false;
}

void Voice::aim(const Patch& like) {
  const double pan = std::clamp(double(like.pan) + double(m_pan), -1.0, 1.0);
  const auto [left, right] = panned(like.silent ? 0 : double(m_gain) * double(like.gain), pan);
  if (left == m_toLeft && right == m_toRight) return;
  m_toLeft = left;
  m_toRight = right;
  m_aim = kAimFrames;
}

/// From the frame that comes next on.
void Voice::setSpeed(double step) {
  m_from = placeIn(0);
  m_since = m_played;
  m_step = step;
  m_kernel = &m_bank->forStep(step);
  const double left = std::ceil((double(m_patch->end.value) - m_from) / step);
  m_length = m_played + EngineFrames(toWhole<std::int64_t>(left));
}

void Voice::glideTo(double step, EngineFrames glide) {
  m_target = step;
  m_glideLeft = int(glide.value);
  m_glideUntil = 0;
  if (m_glideLeft == 0) return setSpeed(step);
  m_ratio = std::pow(step / m_step, double(kGlideStep) / m_glideLeft);
}

/// Evenly in semitones, a step at a time.
void Voice::glideOn() {
  m_glideUntil = std::min(kGlideStep, m_glideLeft);
  m_glideLeft -= m_glideUntil;
  setSpeed(m_glideLeft == 0 ? m_target : m_step * m_ratio);
  if (m_glideLeft == 0) m_glideUntil = 0;
}

void Voice::bend(double tune, EngineFrames glide, EngineFrames hold, std::uint32_t touch) {
  m_touch = touch;
  m_hold = hold;
  glideTo(m_patch->step * tune, glide);
}

void Voice::letGo() {
  if (!m_patch || !m_patch->gate) return;
  m_released = true;
  if (m_wait.value > 0) return drop();
  m_envelope.letGo();
  m_filter.letGo();
}

void Voice::cutOff() {
  if (!m_patch) return;
  if (m_wait.value > 0) return drop();
  if (m_cut == 0) m_cut = kCutFrames;
}

/// The few ms against clicks at both ends of what is played.
void Voice::fadeEdges(float* level, int frames) const {
  const Patch& patch = *m_patch;
  const auto end = double(patch.end.value);
  if (m_firstRound && placeIn(0) < m_begin + patch.fadeIn)
    for (int i = 0; i < frames; ++i) {
      const double in = placeIn(i) - m_begin;
      if (in < patch.fadeIn) level[i] *= float(in / patch.fadeIn);
    }
  if (placeIn(frames) > end - patch.fadeOut)
    for (int i = 0; i < frames; ++i) {
      const double out = end - placeIn(i);
      if (out < patch.fadeOut) level[i] *= float(out / patch.fadeOut);
    }
}

/// A layer that has died away is silent, and stays until its key's envelope ends.
void Voice::shapeLayer(float* level, int frames) {
  float own[kRun];
  const int lives = m_layerEnvelope.fill(own, frames);
  for (int i = 0; i < frames; ++i) level[i] *= i < lives ? own[i] : 0.0f;
}

/// Cut off: down over its last frames. @returns the frames that are left
int Voice::cutLevels(float* level, int frames) {
  if (m_cut == 0) return frames;
  const int n = std::min(frames, m_cut);
  for (int i = 0; i < n; ++i) level[i] *= float(--m_cut) / float(kCutFrames);
  if (m_cut == 0) m_envelope.end();
  return n;
}

void Voice::sampleAt(double place, float& left, float& right) const {
  const Sound& sound = *m_patch->sound;
  const auto at = toWhole<std::int64_t>(place); // never negative
  const double fraction = place - double(at);
  const int taps = m_kernel->taps;
  const std::int64_t first = at - (taps / 2 - 1);
  const std::int64_t frames = sound.frames().value;
  const float* l = sound.channel(0).data();
  const float* r = sound.channel(1).data();
  if (fraction == 0.0 && m_step <= 1.0 && at >= 0 && at < frames) {
    // On a frame the narrowest kernel is that frame alone: unmoved sound passes as it is.
    left = l[at];
    right = r[at];
    return;
  }
  if (first >= 0 && first + taps <= frames) {
    SincBank::run(*m_kernel, {l, r, place, 0}, 0, 1, &left, &right);
    return;
  }
  // At the sound's ends the rest of the window is silence.
  float padL[600], padR[600];
  for (int k = 0; k < taps; ++k) {
    const std::int64_t frame = first + k;
    const bool inside = frame >= 0 && frame < frames;
    padL[k] = inside ? l[frame] : 0.0f;
    padR[k] = inside ? r[frame] : 0.0f;
  }
  const float* middleLeft = padL + (taps / 2 - 1);
  const float* middleRight = l == r ? middleLeft : padR + (taps / 2 - 1);
  SincBank::run(*m_kernel, {middleLeft, middleRight, fraction, 0}, 0, 1, &left, &right);
}

void Voice::samples(int frames, float* left, float* right) const {
  const Sound& sound = *m_patch->sound;
  const int taps = m_kernel->taps;
  const double place = placeIn(0);
  const std::int64_t first = toWhole<std::int64_t>(place) - (taps / 2 - 1);
  const std::int64_t last = toWhole<std::int64_t>(placeIn(frames)) + taps / 2 + 1;
  const bool onFrames = m_step == 1.0 && place == std::floor(place);
  if (first >= 0 && last < sound.frames().value && !onFrames) {
    SincBank::run(*m_kernel, {sound.channel(0).data(), sound.channel(1).data(), m_from, m_step},
                  (m_played - m_since).value, frames, left, right);
    return;
  }
  for (int i = 0; i < frames; ++i) sampleAt(placeIn(i), left[i], right[i]);
}

/// What goes round starts again at its end. @returns the frames until then
int Voice::untilRound(int frames) {
  const double end = double(m_patch->loopEnd.value),
               around = end - double(m_patch->loopStart.value);
  if (around <= 0) return frames;
  // The place is kept small by moving where it counts from, a whole number of rounds at a time.
  if (placeIn(0) >= end) {
    m_from -= around * (1 + std::floor((placeIn(0) - end) / around));
    m_firstRound = false;
  }
  m_length = EngineFrames(std::numeric_limits<std::int64_t>::max());
  const double left = (end - placeIn(0)) / m_step;
  return toWhole<int>(std::min(double(frames), std::max(1.0, std::ceil(left))));
}

/// Whether the sound is there. What was not comes in softly.
bool Voice::canRead(int frames) {
  if (!m_prefetched) return true;
  const int around = m_kernel->taps / 2 + 1;
  const auto first = toWhole<std::int64_t>(placeIn(0)) - around,
             last = toWhole<std::int64_t>(placeIn(frames)) + around;
  if (!m_prefetched->ready(first, last)) {
    m_wasAway = true;
    return false;
  }
  if (m_wasAway) {
    m_wasAway = false;
    m_left = m_right = 0;
    m_aim = kAimFrames;
  }
  return true;
}

/// One run of sound at its gains, which may be on their way.
void Voice::addTo(float* left, float* right, const float* level, int frames, float& loudest) {
  float runLeft[kRun], runRight[kRun];
  if (!canRead(frames)) return;
  samples(frames, runLeft, runRight);
  if (m_layerFilter.works()) m_layerFilter.run(runLeft, runRight, frames);
  if (m_filter.works()) m_filter.run(runLeft, runRight, frames);
  if (m_aim == 0) {
    for (int i = 0; i < frames; ++i) {
      runLeft[i] *= level[i] * m_left;
      runRight[i] *= level[i] * m_right;
    }
  } else {
    const float stepLeft = (m_toLeft - m_left) / float(m_aim),
                stepRight = (m_toRight - m_right) / float(m_aim);
    for (int i = 0; i < frames; ++i) {
      runLeft[i] *= level[i] * (m_left += stepLeft);
      runRight[i] *= level[i] * (m_right += stepRight);
    }
  }
  for (int i = 0; i < frames; ++i) {
    left[i] += runLeft[i];
    right[i] += runRight[i];
  }
  for (int i = 0; i < frames; ++i)
    loudest = std::max({loudest, std::abs(runLeft[i]), std::abs(runRight[i])});
}

/// @param left, right  null: nobody hears it
float Voice::renderRun(float* left, float* right, int frames) {
  float level[kRun];
  // A run ends where something changes: the hold, the glide's speed, the gains, a round.
  constexpr EngineFrames kOne(1);
  if (m_hold == kOne) {
    m_hold = {};
    letGo();
  }
  if (m_hold > kOne) frames = int(std::min(EngineFrames(frames), m_hold - kOne).value);
  if (m_glideUntil == 0 && m_glideLeft > 0) glideOn();
  if (m_glideUntil > 0) frames = std::min(frames, m_glideUntil);
  if (m_aim > 0) frames = std::min(frames, m_aim);
  frames = untilRound(int(std::min(EngineFrames(frames), m_length - m_played).value));
  frames = cutLevels(level, m_envelope.fill(level, frames));
  if (m_patch->shaped) shapeLayer(level, frames);
  fadeEdges(level, frames);
  float loudest = 0;
  if (left && !silent()) addTo(left, right, level, frames, loudest);
  const bool arrives = m_aim > 0 && m_aim <= frames;
  m_aim = std::max(0, m_aim - frames);
  if (arrives) {
    m_left = m_toLeft;
    m_right = m_toRight;
  }
  m_played += EngineFrames(frames);
  if (m_hold > kOne) m_hold -= EngineFrames(frames);
  if (m_glideUntil > 0) m_glideUntil -= frames;
  if (m_envelope.faded() || m_played >= m_length) m_patch = nullptr;
  return loudest;
}

float Voice::render(float* left, float* right, int frames) {
  float loudest = 0;
  const EngineFrames waited = m_patch ? std::min(EngineFrames(frames), m_wait) : EngineFrames(0);
  m_wait -= waited;
  if (m_hold.value > 0) m_hold = std::max(EngineFrames(1), m_hold - waited);
  for (int done = int(waited.value); m_patch && done < frames;) {
    const EngineFrames before = m_played;
    const int run = std::min<int>(kRun, frames - done);
    loudest = std::max(loudest, left ? renderRun(left + done, right + done, run)
                                     : renderRun(nullptr, nullptr, run));
    done += int((m_played - before).value);
  }
  return loudest;
}

void Voice::pass(int frames) { (void)render(nullptr, nullptr, frames); }

} // namespace tuvvo
