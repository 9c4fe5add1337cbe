#include "play/voice.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tuvvo {

namespace {
constexpr float kInaudible = 1e-4f; ///< −80 dB: an envelope below it has faded away
}

void Voice::start(const Start& start, const SincBank& bank) {
  const Patch& patch = *start.patch;
  m_patch = start.patch;
  m_from = double(patch.start);
  m_step = patch.step * start.tune;
  m_played = start.skip;
  m_length = std::int64_t(std::ceil((double(patch.end) - m_from) / m_step));
  m_memory = {};
  m_heldFor = patch.held;
  m_kernel = &bank.forStep(m_step);
  m_gain = start.gain;
  m_attacked = 0;
  m_level = patch.attack > 0 ? 0.0f : 1.0f;
  m_above = 1.0f - patch.sustain;
  m_stage = patch.attack > 0 ? Stage::Attack : Stage::Hold;
  m_cut = 0;
  m_hold = start.hold;
  m_live = start.live;
  m_owner = start.owner;
}

void Voice::letGo() {
  if (m_patch && m_patch->gate && m_stage != Stage::Faded) m_stage = Stage::Release;
}

void Voice::cutOff() {
  if (m_patch && m_cut == 0) m_cut = kCutFrames;
}

/// The envelope for as long as its stage lasts. @returns the frames filled
int Voice::stageLevels(float* level, int frames) {
  const Patch& patch = *m_patch;
  int n = 0;
  switch (m_stage) {
  case Stage::Attack:
    while (n < frames && m_attacked < patch.attack)
      level[n++] = float(++m_attacked) / float(patch.attack);
    if (n > 0) m_level = level[n - 1];
    if (m_attacked >= patch.attack) m_stage = Stage::Hold;
    break;
  case Stage::Hold:
    n = std::min(frames, m_heldFor);
    std::fill(level, level + n, 1.0f);
    m_heldFor -= n;
    if (n > 0) m_level = 1;
    if (m_heldFor == 0) m_stage = Stage::Decay;
    break;
  case Stage::Decay:
    while (n < frames && m_above >= kInaudible) {
      level[n++] = patch.sustain + m_above;
      m_above *= patch.decay;
    }
    if (n > 0) m_level = level[n - 1];
    if (m_above < kInaudible) {
      m_level = patch.sustain;
      m_stage = patch.sustain < kInaudible ? Stage::Faded : Stage::Sustain;
    }
    break;
  case Stage::Sustain:
    std::fill(level, level + frames, m_level);
    n = frames;
    break;
  case Stage::Release:
    while (n < frames && m_level >= kInaudible) level[n++] = m_level *= patch.release;
    if (m_level < kInaudible) m_stage = Stage::Faded;
    break;
  case Stage::Faded:
    break;
  }
  return n;
}

/// The envelope, let go where the hold ends. @returns the frames until it has faded away
int Voice::levels(float* level, int frames) {
  int n = 0;
  while (n < frames && m_stage != Stage::Faded) {
    if (m_hold == 1) letGo();
    const auto span = m_hold > 1 ? std::min<std::int64_t>(frames - n, m_hold - 1) : frames - n;
    const int filled = stageLevels(level + n, int(span));
    n += filled;
    if (m_hold == 1 && filled > 0) m_hold = 0;
    if (m_hold > 1) m_hold -= filled;
  }
  return n;
}

/// The few ms against clicks at both ends of what is played.
void Voice::fadeEdges(float* level, int frames) const {
  const Patch& patch = *m_patch;
  const auto end = double(patch.end);
  if (placeOf(m_played) < m_from + patch.fadeIn)
    for (int i = 0; i < frames; ++i) {
      const double in = placeOf(m_played + i) - m_from;
      if (in < patch.fadeIn) level[i] *= float(in / patch.fadeIn);
    }
  if (placeOf(m_played + frames) > end - patch.fadeOut)
    for (int i = 0; i < frames; ++i) {
      const double out = end - placeOf(m_played + i);
      if (out < patch.fadeOut) level[i] *= float(out / patch.fadeOut);
    }
}

/// Cut off: down over its last frames. @returns the frames that are left
int Voice::cutLevels(float* level, int frames) {
  if (m_cut == 0) return frames;
  const int n = std::min(frames, m_cut);
  for (int i = 0; i < n; ++i) level[i] *= float(--m_cut) / float(kCutFrames);
  if (m_cut == 0) m_stage = Stage::Faded;
  return n;
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
    SincBank::run(*m_kernel, {l, r, place, 0}, 0, 1, &left, &right);
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
  SincBank::run(*m_kernel, {middleLeft, middleRight, fraction, 0}, 0, 1, &left, &right);
}

void Voice::samples(int frames, float* left, float* right) const {
  const Sound& sound = *m_patch->sound;
  const int taps = m_kernel->taps;
  const double place = placeOf(m_played);
  const std::int64_t first = std::int64_t(place) - (taps / 2 - 1);
  const std::int64_t last = std::int64_t(placeOf(m_played + frames)) + taps / 2 + 1;
  const bool onFrames = m_step == 1.0 && place == std::floor(place);
  if (first >= 0 && last < sound.frames().value && !onFrames) {
    SincBank::run(*m_kernel, {sound.channel(0).data(), sound.channel(1).data(), m_from, m_step},
                  m_played, frames, left, right);
    return;
  }
  for (int i = 0; i < frames; ++i) sampleAt(placeOf(m_played + i), left[i], right[i]);
}

/// What goes round starts again at its end. @returns the frames until then
int Voice::untilRound(int frames) {
  const double end = double(m_patch->loopEnd), around = end - double(m_patch->loopStart);
  if (around <= 0) return frames;
  // The place is kept small by moving where it counts from, a whole number of rounds at a time.
  if (placeOf(m_played) >= end)
    m_from -= around * (1 + std::floor((placeOf(m_played) - end) / around));
  m_length = std::numeric_limits<std::int64_t>::max();
  const double left = (end - placeOf(m_played)) / m_step;
  return int(std::min(double(frames), std::max(1.0, std::ceil(left))));
}

/// Transposed direct form II, section after section.
void Voice::filter(float* left, float* right, int frames) {
  for (int section = 0; section < m_patch->filterCount; ++section) {
    const FilterSection& f = m_patch->filters[std::size_t(section)];
    double* memory = m_memory.data() + 4 * section;
    for (float* channel : {left, right}) {
      double z1 = memory[0], z2 = memory[1];
      for (int i = 0; i < frames; ++i) {
        const double x = double(channel[i]), y = f.b0 * x + z1;
        z1 = f.b1 * x - f.a1 * y + z2;
        z2 = f.b2 * x - f.a2 * y;
        // What is far below hearing is nothing: numbers that small are slow.
        z1 = std::abs(z1) < 1e-15 ? 0 : z1;
        z2 = std::abs(z2) < 1e-15 ? 0 : z2;
        channel[i] = float(y);
      }
      memory[0] = z1;
      memory[1] = z2;
      memory += 2;
    }
  }
}

float Voice::renderRun(float* left, float* right, int frames) {
  float level[kRun], runLeft[kRun], runRight[kRun];
  frames = untilRound(int(std::min<std::int64_t>(frames, m_length - m_played)));
  frames = cutLevels(level, levels(level, frames));
  fadeEdges(level, frames);
  samples(frames, runLeft, runRight);
  if (m_patch->filterCount > 0) filter(runLeft, runRight, frames);
  const float gainLeft = m_gain * m_patch->left, gainRight = m_gain * m_patch->right;
  for (int i = 0; i < frames; ++i) {
    runLeft[i] *= level[i] * gainLeft;
    runRight[i] *= level[i] * gainRight;
    left[i] += runLeft[i];
    right[i] += runRight[i];
  }
  float loudest = 0;
  for (int i = 0; i < frames; ++i)
    loudest = std::max({loudest, std::abs(runLeft[i]), std::abs(runRight[i])});
  m_played += frames;
  if (m_stage == Stage::Faded || m_played >= m_length) m_patch = nullptr;
  return loudest;
}

float Voice::render(float* left, float* right, int frames) {
  float loudest = 0;
  for (int done = 0; m_patch && done < frames;) {
    const std::int64_t before = m_played;
    loudest =
        std::max(loudest, renderRun(left + done, right + done, std::min<int>(kRun, frames - done)));
    done += int(m_played - before);
  }
  return loudest;
}

} // namespace tuvvo
