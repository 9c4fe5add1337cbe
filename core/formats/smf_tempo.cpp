#include "formats/smf_tempo.h"

#include "base/convert.h"

#include <algorithm>

namespace tuvvo {

namespace {

constexpr Beats kStep{kTicksPerBeat / 24};
constexpr std::int64_t kClose = kTicksPerBeat / 4; ///< steps of a ramp lie no further apart
constexpr std::size_t kFewest = 4;                 ///< steps that make a ramp
constexpr double kEven = 0.004; ///< BPM by which one step may differ from the next
constexpr double kOff = 0.1;    ///< and by which a step may lie off the ramp

double bpmOf(const SmfTempo& tempo) { return 60e6 / std::max<std::uint32_t>(1, tempo.micros); }

/// How many steps from a place on rise or fall evenly; each stands for the middle of its stretch.
std::size_t evenSteps(const std::vector<SmfTempo>& tempi, std::size_t from) {
  if (from + 1 >= tempi.size()) return 1;
  const Beats gap = tempi[from + 1].at - tempi[from].at;
  const double rise = bpmOf(tempi[from + 1]) - bpmOf(tempi[from]);
  if (gap.value > kClose || std::abs(rise) <= kEven) return 1;
  std::size_t count = 2;
  for (; from + count < tempi.size(); ++count) {
    const SmfTempo &before = tempi[from + count - 1], &here = tempi[from + count];
    const double step = bpmOf(here) - bpmOf(before),
                 off = bpmOf(here) - bpmOf(tempi[from]) - double(count) * rise;
    if (here.at - before.at != gap || std::abs(step - rise) > kEven || std::abs(off) > kOff) break;
  }
  return count;
}

} // namespace

std::vector<SmfTempo> smfTempiOf(const TempoMap& map, Beats until) {
  std::vector<SmfTempo> out;
  for (Beats at; at.value == 0 || at < until;) {
    const Beats change = map.changeAfter(at);
    const Beats next = map.ramps(double(at.value)) ? std::min(at + kStep, change) : change;
    const double micros =
        map.framesBetween(double(at.value), double(next.value), Hertz(1e6)) / inBeats(next - at);
    const SmfTempo tempo{at, toNearestIn<std::uint32_t>(micros, 1, 0xffffff)};
    if (out.empty() || out.back().micros != tempo.micros) out.push_back(tempo);
    at = next;
  }
  return out;
}

SmfTempoMap tempoMapFrom(const std::vector<SmfTempo>& tempi) {
  SmfTempoMap out;
  double now = 120;
  const auto say = [&](Beats at, double bpm, bool ramp) {
    if (at.value <= 0)
      out.tempo = Bpm(bpm);
    else
      out.changes.push_back({at, Bpm(bpm), ramp});
    now = bpm;
  };
  for (std::size_t i = 0; i < tempi.size();) {
    const std::size_t steps = evenSteps(tempi, i);
    if (steps < kFewest) {
      if (std::abs(bpmOf(tempi[i]) - now) > kEven) say(tempi[i].at, bpmOf(tempi[i]), false);
      ++i;
      continue;
    }
    const SmfTempo &first = tempi[i], &last = tempi[i + steps - 1];
    const double half = (bpmOf(last) - bpmOf(first)) / double(steps - 1) / 2;
    say(first.at, bpmOf(first) - half, false); // also where it is the tempo there was
    say(last.at + (tempi[i + 1].at - first.at), bpmOf(last) + half, true);
    i += steps;
  }
  const TempoMap inRange(out.tempo);
  out.tempo = inRange.tempoAt(Beats(0));
  return out;
}

} // namespace tuvvo
