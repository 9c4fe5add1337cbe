#include "play/envelope_run.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

Slope slopeOf(Milliseconds time, double curve, Hertz rate) {
  Slope slope;
  slope.frames = int(toFrames(time, rate).value);
  if (slope.frames > 0 && std::abs(curve) > 1e-3)
    slope.ratio = std::exp(-curve * std::log(1000.0) / slope.frames);
  return slope;
}

EnvelopeShape shapeOf(const Envelope& envelope, Hertz rate) {
  EnvelopeShape shape;
  shape.attack = slopeOf(envelope.attack, envelope.attackCurve, rate);
  shape.held = int(toFrames(envelope.hold, rate).value);
  shape.decay = slopeOf(envelope.decay, envelope.decayCurve, rate);
  shape.sustain = envelope.sustain;
  shape.release = slopeOf(envelope.release, envelope.releaseCurve, rate);
  return shape;
}

void EnvelopeRun::begin(const Slope& slope, double to) {
  m_from = m_level;
  m_way = to - m_level;
  m_ratio = slope.ratio;
  m_frames = slope.frames;
  m_power = 1;
  m_done = 0;
  m_scale = m_ratio == 1 ? 0 : 1 / (1 - std::pow(m_ratio, m_frames));
}

/// Stages without frames are passed over.
void EnvelopeRun::enter(Stage stage) {
  m_stage = stage;
  switch (stage) {
  case Stage::Attack:
    begin(m_shape.attack, 1);
    if (m_frames > 0) return;
    m_level = 1;
    [[fallthrough]];
  case Stage::Hold:
    m_stage = Stage::Hold;
    m_done = 0;
    m_frames = m_shape.held;
    if (m_frames > 0) return;
    [[fallthrough]];
  case Stage::Decay:
    m_stage = Stage::Decay;
    begin(m_shape.decay, m_shape.sustain);
    if (m_frames > 0 && m_way != 0) return;
    m_level = m_shape.sustain;
    [[fallthrough]];
  case Stage::Sustain:
    m_stage = m_shape.sustain > 0 ? Stage::Sustain : Stage::Faded;
    return;
  case Stage::Release:
    begin(m_shape.release, 0);
    if (m_frames > 0 && m_level > 0) return;
    [[fallthrough]];
  case Stage::Faded:
    m_level = 0;
    m_stage = Stage::Faded;
    return;
  }
}

void EnvelopeRun::start(const EnvelopeShape& shape) {
  m_shape = shape;
  m_level = 0;
  enter(Stage::Attack);
}

void EnvelopeRun::letGo() {
  if (m_stage != Stage::Faded && m_stage != Stage::Release) enter(Stage::Release);
}

int EnvelopeRun::slope(float* level, int frames) {
  const int n = std::min(frames, m_frames - m_done);
  if (m_ratio == 1) {
    const double step = m_way / m_frames;
    for (int i = 0; i < n; ++i) level[i] = float(m_from + step * (m_done + i + 1));
  } else {
    for (int i = 0; i < n; ++i) {
      m_power *= m_ratio;
      level[i] = float(m_from + m_way * m_scale * (1 - m_power));
    }
  }
  m_done += n;
  if (n > 0) m_level = double(level[n - 1]);
  return n;
}

int EnvelopeRun::fill(float* level, int frames) {
  int done = 0;
  while (done < frames && m_stage != Stage::Faded) {
    float* at = level + done;
    const int left = frames - done;
    switch (m_stage) {
    case Stage::Hold: {
      const int n = std::min(left, m_frames - m_done);
      std::fill(at, at + n, 1.0f);
      m_done += n;
      done += n;
      if (m_done == m_frames) enter(Stage::Decay);
      break;
    }
    case Stage::Sustain:
      std::fill(at, at + left, float(m_level));
      done += left;
      break;
    default: {
      done += slope(at, left);
      if (m_done < m_frames) break;
      const Stage was = m_stage;
      m_level = m_from + m_way; // exactly there, whatever was lost on the way
      enter(was == Stage::Attack  ? Stage::Hold
            : was == Stage::Decay ? Stage::Sustain
                                  : Stage::Faded);
      break;
    }
    }
  }
  return done;
}

} // namespace tuvvo
