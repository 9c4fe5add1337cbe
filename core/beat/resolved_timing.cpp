#include "beat/resolved_timing.h"

#include "base/convert.h"
#include "base/random.h"

#include <algorithm>

namespace tuvvo {

namespace {

constexpr double kMostMicroTimingMs = 200;

/// The same numbers for the same hit, whatever else is in its lane.
/// @returns bell-shaped (the sum of twelve even ones), mean 0, deviation 1, within ±3
double bellOf(std::uint32_t seed, Id key, Beats at, std::uint64_t what) {
  Random random((std::uint64_t(seed) << 32 ^ key) + what +
                std::uint64_t(at.value) * 0xd1342543de82ef95ULL);
  double sum = -6;
  for (int i = 0; i < 3; ++i) {
    const std::uint64_t four = random.next(); // sixteen bits each
    for (int shift = 0; shift < 64; shift += 16) sum += double(four >> shift & 0xffff) * 0x1p-16;
  }
  return std::clamp(sum, -3.0, 3.0);
}

Lane laneOrPlain(const Pattern& pattern, Id part) {
  const Lane* lane = findLane(pattern, part);
  Lane out;
  if (lane) out.feel = lane->feel;
  return out;
}

} // namespace

double swung(double ticks, double swingPercent, Beats pair) {
  const double share = std::clamp(swingPercent, 1.0, 99.0) / 100, length = double(pair.value);
  const double begin = std::floor(ticks / length) * length, x = ticks - begin;
  return begin +
         (x < length / 2 ? x * 2 * share : length * share + (x - length / 2) * 2 * (1 - share));
}

double accentAt(Beats at, Meter meter, AccentShape shape, double depth) {
  if (shape == AccentShape::Flat) return 1;
  const std::int64_t bar = barOf(meter).value, pulse = pulseOf(meter).value;
  const std::int64_t x = wrapped(at.value, bar), near = kTicksPerBeat / 32;
  const auto on = [&](std::int64_t every, std::int64_t offset) {
    const std::int64_t inside = wrapped(x - offset, every);
    return inside <= near || inside >= every - near;
  };
  double weight = 1;
  switch (shape) {
  case AccentShape::Flat:
    break;
  case AccentShape::Beats:
    weight = on(pulse, 0) ? 1 : 0;
    break;
  case AccentShape::Backbeats:
    weight = on(pulse * 2, pulse) ? 1 : 0;
    break;
  case AccentShape::OffBeats:
    weight = on(pulse, pulse / 2) ? 1 : 0;
    break;
  case AccentShape::Downbeat:
    weight = on(bar, 0) ? 1 : on(pulse, 0) ? 0.5 : 0;
    break;
  case AccentShape::Rising:
    weight = double(x) / double(bar);
    break;
  case AccentShape::Falling:
    weight = 1 - double(x) / double(bar);
    break;
  }
  return 1 - depth * (1 - weight);
}

namespace {

/// The steps before and after a place, going round; nothing for a groove without steps.
struct Between {
  const Groove::Step *before, *after;
  double share; ///< of the way from one to the other
};
std::optional<Between> between(const Groove& groove, Beats at) {
  if (groove.steps.empty() || groove.length.value <= 0) return std::nullopt;
  const std::int64_t length = groove.length.value, x = wrapped(at.value, length);
  const auto& steps = groove.steps;
  const auto next = std::upper_bound(steps.begin(), steps.end(), x,
                                     [](std::int64_t v, const auto& s) { return v < s.at.value; });
  const auto& after = next == steps.end() ? steps.front() : *next;
  const auto& before = next == steps.begin() ? steps.back() : *std::prev(next);
  const std::int64_t gap = wrapped(after.at.value - before.at.value, length);
  return Between{&before, &after,
                 gap == 0 ? 0 : double(wrapped(x - before.at.value, length)) / double(gap)};
}

} // namespace

double lateness(const Groove& groove, Beats at) {
  const auto found = between(groove, at);
  return found ? found->before->late + (found->after->late - found->before->late) * found->share
               : 0;
}

double levelAt(const Groove& groove, Beats at) {
  const auto found = between(groove, at);
  if (!found) return 1;
  const std::int64_t length = groove.length.value;
  const std::int64_t since = wrapped(at.value - found->before->at.value, length),
                     until = wrapped(found->after->at.value - at.value, length);
  if (std::min(since, until) > kTicksPerBeat / 8) return 1;
  return since <= until ? found->before->level : found->after->level;
}

ResolvedTiming::ResolvedTiming(const Project& project, Meter meter, const Lane& lane)
    : m_feel(lane.feel), m_meter(meter) {
  if (const Groove* groove = findGroove(project, lane.feel.groove)) m_groove = *groove;
  m_ticksPerMs = double(kTicksPerBeat) / framesOfBeat(project.tempo, Hertz(1000));
}

ResolvedTiming::ResolvedTiming(const Project& project, const Pattern& pattern, Id part)
    : ResolvedTiming(project, pattern.meter, laneOrPlain(pattern, part)) {}

/// Without what is said in milliseconds.
double ResolvedTiming::onBeat(Beats at) const {
  double place = double(at.value);
  if (m_feel.swing16 != 50) place = swung(place, m_feel.swing16, Beats(kTicksPerBeat / 2));
  if (m_feel.swing8 != 50) place = swung(place, m_feel.swing8, wholeBeats(1));
  return place + m_feel.grooveTiming * lateness(m_groove, at) + double(m_feel.lag.value);
}

double ResolvedTiming::placeOf(Beats at) const { return onBeat(at) + ticksOf(m_feel.microTiming); }

Milliseconds ResolvedTiming::humanising(Id key, Beats at) const {
  if (m_feel.humanise.value <= 0) return Milliseconds(0);
  return m_feel.humanise * bellOf(m_feel.seed, key, at, 1);
}

ResolvedTiming::Heard ResolvedTiming::heardApart(const Hit& hit) const {
  return {onBeat(hit.at), m_feel.microTiming + hit.microTiming * (1 - m_feel.quantiseStrength) +
                              humanising(hit.key, hit.at)};
}

double ResolvedTiming::heardAt(const Hit& hit) const {
  const Heard heard = heardApart(hit);
  return heard.ticks + ticksOf(heard.late);
}

double ResolvedTiming::hardness(Id key, Beats at) const {
  double level = accentAt(at, m_meter, m_feel.accent, m_feel.accentDepth) *
                 (1 + m_feel.grooveLevel * (levelAt(m_groove, at) - 1));
  if (m_feel.humaniseLevel > 0) {
    level *= 1 + m_feel.humaniseLevel * bellOf(m_feel.seed, key, at, 2) / 2;
  }
  return std::max(0.01, level);
}

double ResolvedTiming::velocityOf(const Hit& hit) const {
  return std::clamp(hit.velocity * hardness(hit.key, hit.at), 0.02, 1.0);
}

Beats ResolvedTiming::nearestLine(double heard, int perBeat) const {
  const std::int64_t step = perBeat > 0 ? kTicksPerBeat / perBeat : 1;
  const auto guess = toNearest<std::int64_t>((heard - placeOf(Beats(0))) / double(step));
  Beats best(std::max<std::int64_t>(0, guess * step));
  const auto distance = [&](Beats line) { return std::abs(placeOf(line) - heard); };
  // A swung line lies less than half a pair from its straight place, and fine grids have many
  // lines in it.
  const std::int64_t reach = perBeat > 0 ? std::max(2, perBeat / 2 + 1) : 2;
  for (std::int64_t k = -reach; k <= reach; ++k) {
    const Beats line((guess + k) * step);
    if (line.value >= 0 && distance(line) < distance(best)) best = line;
  }
  if (perBeat > 0) return best;
  // Without a grid a place is where it was heard, less what the feel moves it by there.
  const double at = heard - (placeOf(best) - double(best.value));
  return Beats(std::max<std::int64_t>(0, toNearest<std::int64_t>(at)));
}

Milliseconds ResolvedTiming::microTimingOf(Id key, Beats line, double heard) const {
  const Milliseconds off = msOf(heard - placeOf(line)) - humanising(key, line);
  return Milliseconds(std::clamp(off.value, -kMostMicroTimingMs, kMostMicroTimingMs));
}

double ResolvedTiming::velocityFor(Id key, Beats line, double heard) const {
  return std::clamp(heard / hardness(key, line), 0.02, 1.0);
}

} // namespace tuvvo
