#include "base/tempo_map.h"

#include "base/convert.h"

#include <algorithm>
#include <limits>

namespace tuvvo {

namespace {
double withinTempi(Bpm tempo) {
  // A tempo that is no number is the slowest.
  return tempo.value > kSlowestTempo.value ? std::min(tempo.value, kFastestTempo.value)
                                           : kSlowestTempo.value;
}
} // namespace

TempoMap::TempoMap(Bpm tempo, std::span<const TempoChange> changes) {
  std::vector<TempoChange> sorted(changes.begin(), changes.end());
  std::stable_sort(sorted.begin(), sorted.end(),
                   [](const TempoChange& a, const TempoChange& b) { return a.at < b.at; });
  m_spans.push_back({0, 0, withinTempi(tempo), 0});
  for (const auto& change : sorted) {
    if (change.at.value <= 0) continue;
    const auto at = double(change.at.value);
    const double bpm = withinTempi(change.tempo);
    if (m_spans.back().start == at) {
      m_spans.back().bpm = bpm;
      continue;
    }
    Span& last = m_spans.back();
    if (change.ramp) last.rise = (bpm - last.bpm) / (at - last.start);
    m_spans.push_back({at, last.seconds + timeIn(last, at, 1), bpm, 0});
  }
}

double TempoMap::timeIn(const Span& span, double ticks, double rate) {
  const double gone = ticks - span.start;
  if (span.rise == 0 || gone <= 0) return gone * 60.0 * rate / (span.bpm * double(kTicksPerBeat));
  return 60.0 * rate / (span.rise * double(kTicksPerBeat)) *
         std::log1p(span.rise * gone / span.bpm);
}

const TempoMap::Span& TempoMap::spanAt(double ticks) const {
  std::size_t i = m_spans.size() - 1;
  while (i > 0 && m_spans[i].start > ticks) --i;
  return m_spans[i];
}

const TempoMap::Span& TempoMap::spanAtSeconds(double seconds) const {
  std::size_t i = m_spans.size() - 1;
  while (i > 0 && m_spans[i].seconds > seconds) --i;
  return m_spans[i];
}

Bpm TempoMap::tempoAt(double ticks) const {
  const Span& span = spanAt(ticks);
  return Bpm(span.bpm + span.rise * std::max(0.0, ticks - span.start));
}

Beats TempoMap::changeAfter(Beats at) const {
  for (const auto& span : m_spans)
    if (span.start > double(at.value)) return Beats(toWhole<std::int64_t>(span.start));
  return Beats(std::numeric_limits<std::int64_t>::max() / 4);
}

bool TempoMap::ramps(double ticks) const { return spanAt(ticks).rise != 0; }

double TempoMap::framesAt(double ticks, Hertz rate) const {
  const Span& span = spanAt(ticks);
  // The first span adds nothing, so that one tempo gives the exact quotient.
  const double inside = timeIn(span, ticks, rate.value);
  return span.start == 0 ? inside : span.seconds * rate.value + inside;
}

double TempoMap::framesBetween(double fromTicks, double toTicks, Hertz rate) const {
  const Span& span = spanAt(fromTicks);
  if (span.rise == 0 && &span == &spanAt(toTicks))
    return timeIn(span, span.start + toTicks - fromTicks, rate.value);
  return framesAt(toTicks, rate) - framesAt(fromTicks, rate);
}

double TempoMap::ticksAt(double frames, Hertz rate) const {
  const double seconds = frames / rate.value;
  const Span& span = spanAtSeconds(seconds);
  const double gone = span.start == 0 ? seconds : seconds - span.seconds;
  if (span.rise == 0 || gone <= 0)
    return span.start + gone * span.bpm / 60.0 * double(kTicksPerBeat);
  return span.start +
         span.bpm / span.rise * std::expm1(gone * span.rise * double(kTicksPerBeat) / 60.0);
}

Seconds TempoMap::secondsAt(Beats at) const {
  return Seconds(framesAt(double(at.value), Hertz(1)));
}

Beats TempoMap::beatsAt(Seconds at) const {
  return Beats(toNearest<std::int64_t>(ticksAt(at.value, Hertz(1))));
}

Frames TempoMap::frameAt(Beats at, Hertz rate) const {
  // One rounding, of the exact quotient, so that long songs do not gather error.
  return Frames(toNearest<std::int64_t>(framesAt(double(at.value), rate)));
}

Beats TempoMap::beatsAt(Frames at, Hertz rate) const {
  return Beats(toNearest<std::int64_t>(ticksAt(double(at.value), rate)));
}

} // namespace tuvvo
