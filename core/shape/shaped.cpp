#include "shape/shaped.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kOneMarkerS = 0.02;
constexpr double kLeastApartS = 0.002; // knots nearer than this are one
constexpr double kSameS = 2e-5;        // lines this near to straight are straight: a frame

/// What holds the even line: sorted, rising in both, no steeper than can be made.
std::vector<Anchor> heldAnchors(const ResolvedSource& source, const Shape& shape) {
  const EvenBeats& even = *source.even();
  std::vector<Anchor> held;
  for (const auto& marker : shape.markers)
    held.push_back({marker.at.value, even.beatsAt(marker.at.value), marker.beat});
  if (shape.straighten > 0)
    for (Anchor anchor : anchorsOf(source, shape.by)) {
      if (markerAt(shape, anchor.at)) continue;
      anchor.target = shapedBeat(shape, anchor);
      held.push_back(anchor);
    }
  std::sort(held.begin(), held.end(), [](const Anchor& a, const Anchor& b) { return a.at < b.at; });
  std::vector<Anchor> out;
  for (const Anchor& anchor : held) {
    if (!out.empty()) {
      const double source2 = anchor.at - out.back().at,
                   result = (anchor.target - out.back().target) * even.beatS;
      if (source2 < kLeastApartS || result < source2 / kMostStretch ||
          result > source2 * kMostStretch)
        continue; // pulled past its neighbour: it stays where the rest puts it
    }
    out.push_back(anchor);
  }
  return out;
}

/// Straight over the whole stretch, with this slope?
bool straight(const TimeLine& line, double fromS, double toS, double slope) {
  const double start = line.resultAt(fromS);
  const auto off = [&](double at) {
    return std::abs(line.resultAt(at) - start - (at - fromS) * slope);
  };
  if (off(toS) > kSameS) return false;
  return std::all_of(line.knots.begin(), line.knots.end(), [&](const TimeLine::Knot& knot) {
    return knot.source <= fromS || knot.source >= toS || off(knot.source) <= kSameS;
  });
}

} // namespace

const WarpMarker* markerAt(const Shape& shape, double atS) {
  for (const auto& marker : shape.markers)
    if (std::abs(marker.at.value - atS) < kOneMarkerS) return &marker;
  return nullptr;
}

Shape withoutMarker(Shape shape, Seconds at) {
  std::erase_if(shape.markers, [&](const WarpMarker& marker) {
    return std::abs((marker.at - at).value) < kOneMarkerS;
  });
  return shape;
}

Shape withMarker(Shape shape, const WarpMarker& marker) {
  shape = withoutMarker(std::move(shape), marker.at);
  shape.markers.push_back(marker);
  std::sort(shape.markers.begin(), shape.markers.end(),
            [](const WarpMarker& a, const WarpMarker& b) { return a.at < b.at; });
  return shape;
}

double shapedBeat(const Shape& shape, const Anchor& anchor) {
  if (const WarpMarker* marker = markerAt(shape, anchor.at)) return marker->beat;
  return anchor.played + shape.straighten * (anchor.target - anchor.played);
}

std::optional<FeltBeats> FeltBeats::of(const ResolvedSource& source) {
  const auto& even = source.even();
  if (!even) return std::nullopt;
  FeltBeats felt;
  felt.m_even = *even;
  const auto beats = source.beats();
  if (source.steady() || beats.size() < 3) return felt;
  std::size_t first = 0;
  while (first + 1 < beats.size() && beats[first].value < even->firstS - even->beatS / 2) ++first;
  felt.m_first = double(first);
  felt.m_played.assign(beats.begin(), beats.end());
  return felt;
}

double FeltBeats::at(Seconds place) const {
  return m_played.empty() ? m_even.beatsAt(place.value) : placeAmong(m_played, place) - m_first;
}

std::vector<Anchor> anchorsOf(const ResolvedSource& source, StraightenBy by) {
  std::vector<Anchor> out;
  const auto& even = source.even();
  const auto beats = source.beats();
  if (!even || beats.size() < 2) return out;
  const auto downbeat = source.downbeat();
  if (by != StraightenBy::Hits) {
    const auto step = by == StraightenBy::Bars ? std::size_t(std::max(1, source.grid()->meter)) : 1;
    for (std::size_t i = downbeat % step; i < beats.size(); i += step)
      out.push_back({beats[i].value, even->beatsAt(beats[i].value), double(i) - double(downbeat)});
    return out;
  }
  const auto onsets = source.onsets();
  double best = 1e300, division = 4;
  for (double parts : {4.0, 3.0}) {
    double off = 0; // as a share of what it could be at most
    for (const auto& onset : onsets) {
      const double place = (placeAmong(beats, onset.at) - double(downbeat)) * parts;
      off += std::abs(place - std::round(place));
    }
    if (parts == 3.0) off *= 1.15; // fours unless threes plainly agree better
    if (off < best) {
      best = off;
      division = parts;
    }
  }
  std::vector<double> level;
  for (const auto& onset : onsets) {
    const double target =
        std::round((placeAmong(beats, onset.at) - double(downbeat)) * division) / division;
    const Anchor anchor{onset.at.value, even->beatsAt(onset.at.value), target};
    if (!out.empty() && target <= out.back().target + 1e-9) {
      if (onset.level.value > level.back()) {
        out.back() = anchor;
        level.back() = onset.level.value;
      }
      continue;
    }
    out.push_back(anchor);
    level.push_back(onset.level.value);
  }
  return out;
}

TimeLine shapedLine(const ResolvedSource& resolved, const Shape& shape, Bpm beat) {
  TimeLine line;
  const Source& source = resolved.source();
  const double duration = source.sound   ? source.sound->duration().value
                          : source.heard ? source.heard->duration.value
                                         : 1;
  const auto& even = resolved.even();
  if (!even) {
    const double slope = shape.method == FitMethod::Repitch ? 1 / shape.pitch() : 1;
    line.knots = {{0, 0}, {std::max(0.01, duration), std::max(0.01, duration) * slope}};
    line.length = duration * slope;
    return line;
  }
  // How long a beat of the source is in the result.
  const Bpm own(60 / even->beatS);
  const double speed =
      shape.method == FitMethod::Repitch ? shape.pitch() : ratioOf(repitchToTempo(own, beat));
  const double beatS = even->beatS / speed;
  const auto held = heldAnchors(resolved, shape);
  // Before the first and after the last of what is held, everything goes on evenly.
  const double before = held.empty() ? even->firstS : held.front().at,
               beforeBeat = held.empty() ? 0 : held.front().target;
  const double after = held.empty() ? even->firstS + even->beatS : held.back().at,
               afterBeat = held.empty() ? 1 : held.back().target;
  const double wide = duration / even->beatS + 4;
  line.knots.push_back({before - wide * even->beatS, (beforeBeat - wide) * beatS});
  for (const auto& anchor : held) line.knots.push_back({anchor.at, anchor.target * beatS});
  if (held.empty()) line.knots.push_back({before, beforeBeat * beatS});
  line.knots.push_back({after + wide * even->beatS, (afterBeat + wide) * beatS});
  line.length = line.resultAt(duration);
  return line;
}

std::vector<LocalStretch> localStretches(const ResolvedSource& source, Bpm beat) {
  std::vector<LocalStretch> out;
  const TimeLine line = shapedLine(source, source.source().shape, beat);
  if (!source.source().sound || line.knots.size() < 3) return out;
  const auto& ends = line.knots;
  // The outermost parts go at the even speed.
  const double whole = (ends[1].result - ends[0].result) / (ends[1].source - ends[0].source);
  for (std::size_t i = 1; i + 2 < ends.size(); ++i)
    out.push_back(
        {ends[i].source, ends[i + 1].source,
         (ends[i + 1].result - ends[i].result) / (ends[i + 1].source - ends[i].source) / whole});
  return out;
}

bool movesTime(const Shape& shape) {
  return shape.method != FitMethod::Repitch || shape.straighten > 0 || !shape.markers.empty();
}

std::optional<BakeRecipe> recipeOf(const ResolvedSource& resolved, const Shape& shape,
                                   const TimeLine& whole, Stretch stretch, Hertz rate) {
  const Source& source = resolved.source();
  if (!source.sound || stretch.end <= stretch.start) return std::nullopt;
  const double from = toSeconds(stretch.start, source.sound->rate()).value,
               to = toSeconds(stretch.end, source.sound->rate()).value;
  // Played at the pitch's own speed: then nothing needs to be made.
  if (straight(whole, from, to, 1 / shape.pitch())) return std::nullopt;
  BakeRecipe recipe;
  recipe.method = shape.method;
  recipe.pitch = shape.pitch();
  recipe.material = shape.material.value_or(materialOf(source));
  recipe.formants = shape.formants && shape.method == FitMethod::Stretch;
  recipe.rate = rate;
  const double start = whole.resultAt(from);
  recipe.line.knots.push_back({from, 0});
  for (const auto& knot : whole.knots)
    if (knot.source > from + kLeastApartS && knot.source < to - kLeastApartS)
      recipe.line.knots.push_back({knot.source, knot.result - start});
  recipe.line.length = whole.resultAt(to) - start;
  recipe.line.knots.push_back({to, recipe.line.length});
  for (const auto& onset : resolved.onsets())
    if (const double hit = onset.cut.value; hit >= from - 0.001 && hit < to - 0.005)
      recipe.hits.push_back(std::max(from, hit));
  return recipe;
}

BakeRecipe plainRecipe(const Source& source, const Shape& shape, Stretch stretch, Hertz rate) {
  const double from = toSeconds(stretch.start, source.sound->rate()).value,
               to = toSeconds(stretch.end, source.sound->rate()).value;
  BakeRecipe recipe;
  recipe.method = FitMethod::Repitch;
  recipe.pitch = shape.pitch();
  recipe.material = shape.material.value_or(materialOf(source));
  recipe.rate = rate;
  recipe.line.length = (to - from) / recipe.pitch;
  recipe.line.knots = {{from, 0}, {to, recipe.line.length}};
  return recipe;
}

} // namespace tuvvo
