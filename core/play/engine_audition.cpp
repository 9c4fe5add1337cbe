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
      same ? double(now.at.value) / double(std::max<std::int64_t>(1, last->sound->frames().value))
           : 0;
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
  now.at = Frames(toWhole<std::int64_t>(share * double(next.sound->frames().value)));
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
  now.at = Frames(m_playing && phased ? toNearest<std::int64_t>(inBar(tempo)) : 0);
}

/// Frames that a sound at a tempo has played since the last bar line.
double Engine::inBar(Bpm tempo) const {
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  const double ticks = score.ticksAt(m_position) - double(score.barLineAt(m_position).value);
  return std::max(0.0, framesOfBeat(tempo, kEngineRate) * ticks / double(kTicksPerBeat));
}

/// Both run by whole frames; what their roundings add up to is taken off where the pattern goes
/// round.
void Engine::keepAuditionInPhase() {
  auto& now = m_auditions[0];
  if (now.slot < 0 || now.ends || !m_slots[std::size_t(now.slot)]->score->audition.loops) return;
  const Score& score = *m_slots[std::size_t(m_current)]->score;
  const Bpm tempo = m_slots[std::size_t(now.slot)]->score->audition.tempo;
  const MeterSpan& span = score.spanAt(score.ticksAt(m_position));
  const double bar = quartersOf(span.meter) * framesOfBeat(tempo, kEngineRate);
  double off = std::fmod(double(now.at.value), bar) - inBar(tempo);
  off -= std::round(off / bar) * bar;
  if (std::abs(off) >= 1 && std::abs(off) < 8)
    now.at = std::max(Frames(0), now.at - Frames(toNearest<std::int64_t>(off)));
}

void Engine::renderAudition(float* left, float* right, int frames) {
  constexpr float kFade = 1.0f / 240; // 5 ms
  for (auto& each : m_auditions) {
    if (each.slot < 0) continue;
    const Audition& audition = m_slots[std::size_t(each.slot)]->score->audition;
    const std::int64_t length = audition.sound->frames().value;
    const float *l = audition.sound->channel(0).data(), *r = audition.sound->channel(1).data();
    const PrefetchedSound* prefetched = m_slots[std::size_t(each.slot)]->audition.get();
    const std::int64_t at = each.at.value % length;
    const bool there =
        !prefetched || (prefetched->ready(at, at + frames) &&
                        (at + frames <= length || prefetched->ready(0, at + frames - length)));
    bool over = false;
    std::int64_t place = each.at.value;
    for (int i = 0; i < frames && !over; ++i) {
      if (place >= length && !audition.loops) {
        over = true;
        break;
      }
      place %= length;
      each.level = std::clamp(each.level + (each.ends ? -kFade : kFade), 0.0f, 1.0f);
      over = each.ends && each.level <= 0;
      const float gain = audition.gain * each.level;
      if (there) {
        left[i] += gain * l[place];
        right[i] += gain * r[place];
      }
      ++place;
    }
    each.at = Frames(place);
    if (!over) continue;
    if (!each.ends) m_reports.push(reportOf(Report::Kind::AuditionEnded, 0));
    --m_slots[std::size_t(each.slot)]->voices;
    each = {};
  }
}

} // namespace tuvvo
