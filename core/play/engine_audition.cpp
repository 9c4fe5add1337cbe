#include "base/convert.h"
#include "play/engine.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

/// Another score may bring another sound to audition, the same one at another tempo, or none. A
/// score that carries the very same sound only takes over.
void Engine::changeAudition() {
  auto& [now, before] = m_auditions;
  const Audition& next = m_slots[std::size_t(m_current)]->score->audition;
  const Audition* last = now.slot >= 0 ? &m_slots[std::size_t(now.slot)]->score->audition : nullptr;
  if (last && !now.ends && last->sound == next.sound) {
    --m_slots[std::size_t(now.slot)]->voices;
    now.slot = m_current;
    ++m_slots[std::size_t(m_current)]->voices;
    return;
  }
  const bool same = last && !now.ends && last->which == next.which;
  const double share =
      same ? double(now.at) / double(std::max<std::int64_t>(1, last->sound->frames().value)) : 0;
  if (last) {
    if (before.slot >= 0) --m_slots[std::size_t(before.slot)]->voices; // cut: it had all but faded
    before = now;
    before.ends = true;
    now = {};
  }
  if (!next.sound) return;
  now.slot = m_current;
  now.level = 0;
  now.ends = false;
  ++m_slots[std::size_t(m_current)]->voices;
  now.at = toWhole<std::int64_t>(share * double(next.sound->frames().value));
  if (!same) phaseAudition();
}

/// Lays the auditioned sound's bars on the bars that play: its beginning onto this bar's.
void Engine::phaseAudition() {
  auto& [now, before] = m_auditions;
  if (now.slot < 0 || now.ends) return;
  const bool phased = !m_slots[std::size_t(now.slot)]->score->audition.fromStart;
  if (!phased && now.level > 0) return; // it goes on, whatever the beat does
  if (now.level > 0) {                  // what sounds is faded out where it is
    if (before.slot >= 0) --m_slots[std::size_t(before.slot)]->voices;
    before = now;
    before.ends = true;
    now.level = 0;
    ++m_slots[std::size_t(now.slot)]->voices;
  }
  const Bpm tempo = m_slots[std::size_t(now.slot)]->score->audition.tempo;
  now.at = m_playing && phased ? toNearest<std::int64_t>(inBar(tempo)) : 0;
}

/// Frames that a sound at a tempo has played since the last bar line.
double Engine::inBar(Bpm tempo) const {
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  const double ticks = score.tempo.ticksAt(double(m_position), kEngineRate) -
                       double(score.barLineAt(m_position).value);
  return std::max(0.0, framesOfBeat(tempo, kEngineRate) * ticks / double(kTicksPerBeat));
}

/// Both run by whole frames; what their roundings add up to is taken off where the pattern goes
/// round.
void Engine::keepAuditionInPhase() {
  auto& now = m_auditions[0];
  if (now.slot < 0 || now.ends || !m_slots[std::size_t(now.slot)]->score->audition.loops) return;
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  const Bpm tempo = m_slots[std::size_t(now.slot)]->score->audition.tempo;
  const MeterSpan& span = score.spanAt(score.tempo.ticksAt(double(m_position), kEngineRate));
  const double bar = quartersOf(span.meter) * framesOfBeat(tempo, kEngineRate);
  double off = std::fmod(double(now.at), bar) - inBar(tempo);
  off -= std::round(off / bar) * bar;
  if (std::abs(off) >= 1 && std::abs(off) < 8)
    now.at = std::max<std::int64_t>(0, now.at - toNearest<std::int64_t>(off));
}

void Engine::renderAudition(float* left, float* right, int frames) {
  constexpr float kFade = 1.0f / 240; // 5 ms
  for (auto& each : m_auditions) {
    if (each.slot < 0) continue;
    const Audition& audition = m_slots[std::size_t(each.slot)]->score->audition;
    const std::int64_t length = audition.sound->frames().value;
    const float *l = audition.sound->channel(0).data(), *r = audition.sound->channel(1).data();
    const PrefetchedSound* prefetched = m_slots[std::size_t(each.slot)]->audition.get();
    const std::int64_t at = each.at % length;
    const bool there =
        !prefetched || (prefetched->ready(at, at + frames) &&
                        (at + frames <= length || prefetched->ready(0, at + frames - length)));
    bool over = false;
    for (int i = 0; i < frames && !over; ++i) {
      if (each.at >= length && !audition.loops) {
        over = true;
        break;
      }
      each.at %= length;
      each.level = std::clamp(each.level + (each.ends ? -kFade : kFade), 0.0f, 1.0f);
      over = each.ends && each.level <= 0;
      const float gain = audition.gain * each.level;
      if (there) {
        left[i] += gain * l[each.at];
        right[i] += gain * r[each.at];
      }
      ++each.at;
    }
    if (!over) continue;
    if (!each.ends)
      m_reports.push({Report::Kind::AuditionEnded, 0, 0, m_position, m_pass, m_playing});
    --m_slots[std::size_t(each.slot)]->voices;
    each = {};
  }
}

} // namespace tuvvo
