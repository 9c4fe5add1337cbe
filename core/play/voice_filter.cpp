#include "play/voice_filter.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {
constexpr double kRate = 48000; // the engine's
constexpr double kLowest = 16, kHighest = 20'000;
} // namespace

void VoiceFilter::tune(Section& section, double level) {
  const double corner =
      std::clamp(section.corner * std::exp2(section.moves * level), kLowest, kHighest);
  const double g = std::tan(M_PI * corner / kRate);
  section.a1 = 1 / (1 + g * (g + section.damping));
  section.a2 = g * section.a1;
  section.a3 = g * section.a2;
}

void VoiceFilter::start(const PatchFilters& filters, double bright) {
  const auto set = [&](Section& section, const PatchFilters::One& one, double none, bool needed) {
    section = {};
    section.on = one.corner > 0 || needed;
    section.corner = one.corner > 0 ? one.corner : none;
    section.moves = one.moves;
    section.moving = one.moves != 0;
    section.damping = filters.damping;
  };
  set(m_low, filters.low, kHighest, filters.low.moves < 0 || bright < 0);
  set(m_high, filters.high, kLowest, filters.high.moves > 0);
  m_low.corner *= std::exp2(bright);
  m_until = 0;
  if (filters.moving()) m_envelope.start(filters.shape);
  for (Section* section : {&m_low, &m_high})
    if (section->on) tune(*section, 0);
}

/// What is far below hearing is nothing: numbers that small are slow.
void VoiceFilter::settle(Section& section) {
  for (Pair* state : {&section.first, &section.second})
    for (int c = 0; c < 2; ++c)
      if (std::abs((*state)[c]) < 1e-15) (*state)[c] = 0;
}

template <bool high> void VoiceFilter::pass(Section& s, Pair* frames, int count) {
  const double a1 = s.a1, a2 = s.a2, a3 = s.a3, damping = s.damping;
  Pair first = s.first, second = s.second;
  for (int i = 0; i < count; ++i) {
    const Pair in = frames[i], v3 = in - second, v1 = a1 * first + a2 * v3,
               v2 = second + a2 * first + a3 * v3;
    first = 2 * v1 - first;
    second = 2 * v2 - second;
    frames[i] = high ? in - damping * v1 - v2 : v2;
  }
  s.first = first;
  s.second = second;
}

void VoiceFilter::run(float* left, float* right, int frames) {
  for (int done = 0; done < frames;) {
    if (m_until == 0) {
      m_until = kStep;
      settle(m_low);
      settle(m_high);
      float level = 0;
      if ((m_low.moving || m_high.moving) && !m_envelope.faded()) (void)m_envelope.fill(&level, 1);
      for (Section* section : {&m_low, &m_high})
        if (section->moving) tune(*section, double(level));
    }
    const int n = std::min(frames - done, m_until);
    Pair both[kStep];
    for (int i = 0; i < n; ++i) both[i] = Pair{double(left[done + i]), double(right[done + i])};
    if (m_high.on) pass<true>(m_high, both, n);
    if (m_low.on) pass<false>(m_low, both, n);
    for (int i = 0; i < n; ++i) {
      left[done + i] = float(both[i][0]);
      right[done + i] = float(both[i][1]);
    }
    done += n;
    m_until -= n;
  }
}

} // namespace tuvvo
