#include "cut/slicing.h"

#include "base/convert.h"
#include "listen/onsets.h"
#include "model/resolved_source.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kLeastCutS = 0.005;
constexpr double kBeforeDownbeatS = 0.03;
constexpr double kHandClearanceS = 0.020;
// How far a hit's attack may begin before and after the place of the grid that it belongs to.
constexpr double kHitBeforeGridS = 0.020, kHitAfterGridS = 0.008;
constexpr double kTapReachS = 0.12, kTapMeantS = 0.25;

std::vector<Cut> fromStarts(std::vector<std::int64_t> starts, std::int64_t end) {
  std::sort(starts.begin(), starts.end());
  starts.erase(std::unique(starts.begin(), starts.end()), starts.end());
  std::vector<Cut> cuts;
  for (std::size_t i = 0; i < starts.size(); ++i) {
    Cut cut;
    cut.start = Frames(starts[i]);
    cut.end = Frames(i + 1 < starts.size() ? starts[i + 1] : end);
    cuts.push_back(cut);
  }
  return cuts;
}

/// On a zero crossing where there is one so near that nobody hears the difference.
std::int64_t atCrossing(const Source& source, Seconds at) {
  return nearestCrossing(*source.sound, toFrames(at, source.sound->rate()), Milliseconds(0.3))
      .value;
}

/// The hit nearest to a place, if it is one that the place was meant for.
const Onset* hitAt(std::span<const Onset> onsets, double atS, double before, double after) {
  const auto next =
      std::lower_bound(onsets.begin(), onsets.end(), atS - before,
                       [](const Onset& onset, double value) { return onset.cut.value < value; });
  const Onset* best = nullptr;
  for (auto it = next; it != onsets.end() && it->cut.value <= atS + after; ++it)
    if (!best || std::abs(it->cut.value - atS) < std::abs(best->cut.value - atS)) best = &*it;
  return best;
}

/// A place of the grid, or just before the attack that belongs to it.
std::int64_t gridStart(const ResolvedSource& source, double atS) {
  const Onset* hit = hitAt(source.onsets(), atS, kHitBeforeGridS, kHitAfterGridS);
  return atCrossing(source.source(), hit ? hit->cut : Seconds(atS));
}

std::vector<std::int64_t> hitStarts(const ResolvedSource& resolved, const CutSettings& settings) {
  const Source& source = resolved.source();
  std::vector<Onset> found;
  std::span<const Onset> onsets = resolved.onsets();
  if (settings.sensitivity != 0.5 || !source.heard) {
    JobContext job;
    OnsetFinder::Parameters parameters;
    parameters.sensitivity = settings.sensitivity;
    found = OnsetFinder(parameters).find(*source.sound, job);
    onsets = found;
  }
  std::vector<std::int64_t> starts;
  for (const auto& onset : onsets)
    if (std::any_of(onset.hits.begin(), onset.hits.end(),
                    [&](HitClass hit) { return settings.classes[std::size_t(hit)]; }))
      starts.push_back(atCrossing(source, onset.cut));
  if (starts.empty()) starts.push_back(0);
  return starts;
}

/// Of stretches between places in time, ending with the sound.
std::vector<std::int64_t> startsAt(const ResolvedSource& source,
                                   const std::vector<Seconds>& places) {
  std::vector<std::int64_t> starts;
  for (const Seconds at : places)
    if (at.value < source.source().sound->duration().value - kLeastCutS)
      starts.push_back(gridStart(source, at.value));
  return starts;
}

std::vector<Seconds> everyNth(const std::vector<Seconds>& places, int n) {
  std::vector<Seconds> out;
  for (std::size_t i = 0; i < places.size(); i += std::size_t(n)) out.push_back(places[i]);
  return out;
}

template <class Stretches> std::vector<Seconds> startsOf(const Stretches& stretches) {
  std::vector<Seconds> out;
  for (const auto& each : stretches) out.push_back(each.start);
  return out;
}

std::vector<std::int64_t> beatStarts(const ResolvedSource& source, int perBeat) {
  const auto beats = source.beats();
  const double duration = source.source().sound->duration().value;
  std::vector<std::int64_t> starts;
  for (std::size_t i = 0; i < beats.size(); ++i) {
    // The last beat is as long as the one before it.
    const double length = i + 1 < beats.size() ? (beats[i + 1] - beats[i]).value
                          : i > 0              ? (beats[i] - beats[i - 1]).value
                                               : duration;
    for (int k = 0; k < perBeat; ++k) {
      const double at = beats[i].value + length * k / perBeat;
      if (at < duration - kLeastCutS) starts.push_back(gridStart(source, at));
    }
  }
  return starts;
}

bool canCut(const ResolvedSource& resolved, CutMode way) {
  switch (way) {
  case CutMode::Beats:
  case CutMode::Bars:
    return !resolved.beats().empty();
  case CutMode::Sections:
    return resolved.sections().size() > 1;
  case CutMode::Chords:
    return resolved.source().heard && !resolved.source().heard->chords.empty();
  case CutMode::Hits:
  case CutMode::Equal:
  case CutMode::Hand:
    break;
  }
  return true;
}

} // namespace

bool canCut(const Source& source, CutMode way) { return canCut(ResolvedSource(source), way); }

CutMode usualMode(const Source& source) {
  const bool exact = source.heard && source.heard->loop && source.heard->loop->exact;
  const bool even = exact && kindOf(source) == SoundKind::Loop;
  return even && canCut(source, CutMode::Beats) ? CutMode::Beats : CutMode::Hits;
}

Frames decayedAt(const Sound& sound, Frames start, Frames end) {
  const auto block = std::max<std::int64_t>(1, toWhole<std::int64_t>(0.005 * sound.rate().value));
  std::vector<double> levels;
  for (std::int64_t at = start.value; at < end.value; at += block) {
    const auto n = std::size_t(std::min(block, end.value - at));
    double sum = 0;
    for (int c = 0; c < sound.channels(); ++c)
      for (const float v : sound.channel(c).subspan(std::size_t(at), n))
        sum += double(v) * double(v);
    levels.push_back(sum / double(n) / sound.channels());
  }
  if (levels.empty()) return end;
  const double loudest = *std::max_element(levels.begin(), levels.end());
  const double least = std::max(loudest * std::pow(10, -4.8), std::pow(10, -7.2));
  std::size_t last = levels.size();
  while (last > 0 && levels[last - 1] < least) --last;
  if (last == 0) return end;
  return std::min(end, Frames(start.value + std::int64_t(last) * block));
}

std::vector<Cut> withTapCuts(const Source& source, std::span<const Seconds> taps,
                             const TapSettings& settings) {
  Source cut = source;
  if (!source.sound) return cut.cuts;
  const ResolvedSource resolved(source);
  for (const Seconds tap : taps) {
    const double at = tap.value - std::clamp(settings.late.value, 0.0, 500.0) / 1000;
    if (at < 0 || at >= source.sound->duration().value) continue;
    const Onset* hit =
        settings.toOnset ? hitAt(resolved.onsets(), at, kTapReachS, kTapReachS) : nullptr;
    const Frames place(atCrossing(source, hit ? hit->cut : Seconds(at)));
    // A cut that is there already is now somebody's own.
    const auto same = toFrames(Milliseconds(3), source.sound->rate()).value;
    const auto there = std::find_if(cut.cuts.begin(), cut.cuts.end(), [&](const Cut& old) {
      return std::abs(old.start.value - place.value) <= same;
    });
    if (there != cut.cuts.end())
      there->byHand = true;
    else
      cut.cuts = withCutAdded(cut, place);
  }
  return cut.cuts;
}

std::optional<Milliseconds> lateOf(const Source& source, std::span<const Seconds> taps) {
  std::vector<double> late;
  const ResolvedSource resolved(source);
  for (const Seconds tap : taps)
    if (const Onset* hit = hitAt(resolved.onsets(), tap.value, kTapMeantS, kTapMeantS / 5))
      late.push_back((tap - hit->cut).value * 1000);
  if (taps.size() < 4 || late.size() * 2 < taps.size()) return std::nullopt;
  std::nth_element(late.begin(), late.begin() + std::ptrdiff_t(late.size() / 2), late.end());
  return Milliseconds(std::max(0.0, late[late.size() / 2]));
}

namespace {
/// Cuts that end before the first downbeat go; one that runs over it begins there, unless it begins
/// just before the downbeat's attack.
void setAside(std::vector<Cut>& cuts, Frames downbeat, double rate) {
  const Frames near(toWhole<std::int64_t>(kBeforeDownbeatS * rate));
  std::erase_if(cuts, [&](const Cut& cut) { return cut.end <= downbeat + near; });
  for (auto& cut : cuts)
    if (cut.start + near < downbeat) cut.start = downbeat;
}
} // namespace

std::vector<Cut> cutSource(const Source& source, const CutSettings& settings) {
  const ResolvedSource resolved(source);
  if (!source.sound || !canCut(resolved, settings.mode)) return source.cuts;
  const std::int64_t frames = source.sound->frames().value;
  const double rate = source.sound->rate().value;
  std::vector<Cut> made;
  switch (settings.mode) {
  case CutMode::Hits:
    made = fromStarts(hitStarts(resolved, settings), frames);
    break;
  case CutMode::Beats:
    made = fromStarts(beatStarts(resolved, std::clamp(settings.perBeat, 1, 8)), frames);
    break;
  case CutMode::Bars:
    made = fromStarts(
        startsAt(resolved, everyNth(resolved.bars(), std::clamp(settings.barsEach, 1, 16))),
        frames);
    break;
  case CutMode::Sections:
    made = fromStarts(startsAt(resolved, startsOf(resolved.sections())), frames);
    break;
  case CutMode::Chords:
    made = fromStarts(startsAt(resolved, startsOf(source.heard->chords)), frames);
    break;
  case CutMode::Equal: {
    const int parts = std::clamp(settings.parts, 1, 128);
    std::vector<std::int64_t> starts;
    for (int i = 0; i < parts; ++i) starts.push_back(frames * i / parts);
    made = fromStarts(std::move(starts), frames);
    break;
  }
  case CutMode::Hand:
    return source.cuts;
  }
  if (settings.fromDownbeat)
    if (const auto& grid = resolved.grid())
      setAside(made, toFrames(grid->downbeat, Hertz(rate)), rate);
  std::vector<Cut> out;
  for (const auto& cut : source.cuts)
    if (cut.byHand) out.push_back(cut);
  const std::size_t hands = out.size();
  const auto clear = toWhole<std::int64_t>(kHandClearanceS * rate);
  for (auto cut : made) {
    bool keep = true;
    for (std::size_t h = 0; h < hands; ++h) {
      const Cut& hand = out[h];
      if (cut.start.value > hand.start.value - clear && cut.start.value < hand.end.value)
        keep = false;
      else if (cut.start < hand.start && cut.end > hand.start)
        cut.end = hand.start;
    }
    if (settings.end == CutEnd::Decay) cut.end = decayedAt(*source.sound, cut.start, cut.end);
    if (keep && cut.end.value - cut.start.value >= toWhole<std::int64_t>(kLeastCutS * rate))
      out.push_back(cut);
  }
  std::sort(out.begin(), out.end(), [](const Cut& a, const Cut& b) { return a.start < b.start; });
  return out;
}

std::vector<Cut> withCutAdded(const Source& source, Frames at) {
  std::vector<Cut> cuts = source.cuts;
  if (!source.sound || at.value < 0 || at >= source.sound->frames()) return cuts;
  Cut made;
  made.start = at;
  made.end = source.sound->frames();
  made.byHand = true;
  for (auto& cut : cuts) {
    if (cut.start == at) return cuts;
    if (cut.start < at && at < cut.end) {
      made.end = cut.end;
      cut.end = at;
    } else if (cut.start > at) {
      made.end = std::min(made.end, cut.start);
    }
  }
  cuts.push_back(made);
  std::sort(cuts.begin(), cuts.end(), [](const Cut& a, const Cut& b) { return a.start < b.start; });
  return cuts;
}

std::vector<Cut> withCutOver(const Source& source, Frames start, Frames end) {
  std::vector<Cut> cuts;
  const auto least =
      Frames(source.sound ? toWhole<std::int64_t>(kLeastCutS * source.sound->rate().value) : 1);
  for (Cut cut : source.cuts) {
    if (cut.start >= start && cut.end <= end) continue;
    if (cut.start < start && cut.end > start) cut.end = start;
    if (cut.start >= start && cut.start < end) cut.start = end;
    if (cut.end - cut.start >= least) cuts.push_back(cut);
  }
  Cut made;
  made.start = start;
  made.end = end;
  made.byHand = true;
  cuts.push_back(made);
  std::sort(cuts.begin(), cuts.end(), [](const Cut& a, const Cut& b) { return a.start < b.start; });
  return cuts;
}

std::vector<Cut> withCutRemoved(const Source& source, Id id) {
  std::vector<Cut> cuts = source.cuts;
  const auto found =
      std::find_if(cuts.begin(), cuts.end(), [&](const Cut& c) { return c.id == id; });
  if (found == cuts.end()) return cuts;
  if (found != cuts.begin() && (found - 1)->end == found->start) (found - 1)->end = found->end;
  cuts.erase(found);
  return cuts;
}

std::vector<Cut> withCutStartMoved(const Source& source, Id id, Frames to) {
  std::vector<Cut> cuts = source.cuts;
  if (!source.sound) return cuts;
  const auto least =
      std::max<std::int64_t>(1, toWhole<std::int64_t>(kLeastCutS * source.sound->rate().value));
  for (std::size_t i = 0; i < cuts.size(); ++i) {
    if (cuts[i].id != id) continue;
    const bool touches = i > 0 && cuts[i - 1].end == cuts[i].start;
    const std::int64_t low = i == 0    ? 0
                             : touches ? cuts[i - 1].start.value + least
                                       : cuts[i - 1].end.value;
    const std::int64_t high = std::max(low, cuts[i].end.value - least);
    cuts[i].start = Frames(std::clamp(to.value, low, high));
    cuts[i].byHand = true;
    if (touches) cuts[i - 1].end = cuts[i].start;
  }
  return cuts;
}

std::vector<Cut> withCutEndMoved(const Source& source, Id id, Frames to) {
  std::vector<Cut> cuts = source.cuts;
  if (!source.sound) return cuts;
  const auto least =
      std::max<std::int64_t>(1, toWhole<std::int64_t>(kLeastCutS * source.sound->rate().value));
  for (std::size_t i = 0; i < cuts.size(); ++i) {
    if (cuts[i].id != id) continue;
    const std::int64_t high =
        i + 1 < cuts.size() ? cuts[i + 1].start.value : source.sound->frames().value;
    cuts[i].end = Frames(std::clamp(to.value, std::min(high, cuts[i].start.value + least), high));
    cuts[i].byHand = true;
  }
  return cuts;
}

Frames nearestCrossing(const Sound& sound, Frames at, Milliseconds reach) {
  const std::int64_t n = sound.frames().value;
  const std::int64_t distance = toFrames(reach, sound.rate()).value;
  const auto crosses = [&](std::int64_t i) {
    if (i <= 0 || i >= n) return i == 0 || i == n;
    for (int c = 0; c < sound.channels(); ++c) {
      const float a = sound.channel(c)[std::size_t(i - 1)], b = sound.channel(c)[std::size_t(i)];
      if (!(b == 0.0f || (a < 0) != (b < 0))) return false;
    }
    return true;
  };
  for (std::int64_t d = 0; d <= distance; ++d) {
    if (at.value - d >= 0 && crosses(at.value - d)) return Frames(at.value - d);
    if (at.value + d <= n && crosses(at.value + d)) return Frames(at.value + d);
  }
  return at;
}

Frames snapped(const Source& source, Frames at, const SnapReach& reach) {
  if (!source.sound) return at;
  const Hertz rate = source.sound->rate();
  if (source.heard) {
    std::int64_t best = toFrames(reach.onset, rate).value + 1;
    Frames target = at;
    for (const auto& onset : source.heard->onsets) {
      const Frames place = toFrames(onset.cut, rate);
      if (std::abs(place.value - at.value) < best) {
        best = std::abs(place.value - at.value);
        target = place;
      }
    }
    at = target;
  }
  return nearestCrossing(*source.sound, at, reach.crossing);
}

} // namespace tuvvo
