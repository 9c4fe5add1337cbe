#include "beat/novelty.h"

#include "base/convert.h"
#include "base/random.h"
#include "beat/hits.h"
#include "model/edits.h"
#include "model/resolved_source.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

// A fifth away is another note altogether; common practice, no source.
constexpr double kFarSemitones = 7;
constexpr double kOrderShare = 0.4, kRhythmShare = 0.3, kPitchShare = 0.15, kLengthShare = 0.15;
constexpr double kSameTimeBeats = 0.02; // hits nearer than this are one place

struct Placed {
  double at = 0;              ///< in beats of the pattern
  double own = 0, ownEnd = 0; ///< the slice in beats of its source
  std::size_t index = 0;      ///< of the cut, in the order of the source
  double semitones = 0;
  double heard = 0; ///< beats until it ends or is cut off
  bool turned = false;
};

/// Beats of the source at a place; seconds by the beat's tempo where it has none.
double beatsAt(std::span<const Seconds> beats, double timeS, Bpm fallback) {
  if (beats.size() < 2) return timeS * fallback.value / 60;
  return placeAmong(beats, Seconds(timeS));
}

std::vector<Placed> placedOf(const Project& project, const Pattern& pattern, const Source& source) {
  const ResolvedSource resolved(source);
  const auto beats = resolved.beats();
  const Hertz rate = source.sound->rate();
  struct Sounding {
    double at, until;
    int choke;
    std::size_t placed;
  };
  std::vector<Placed> out;
  std::vector<Sounding> soundings; // of every key, for what cuts off what
  const double length = inBeats(lengthOf(pattern));
  for (const auto& lane : pattern.lanes)
    for (const auto& hit : lane.hits) {
      const Key* key = findKey(project, hit.key);
      if (!key) continue;
      Sounding sounding{inBeats(hit.at), hit.length.value > 0 ? inBeats(hit.at + hit.length) : 1e9,
                        key->choke, out.size()};
      const auto cut = std::find_if(source.cuts.begin(), source.cuts.end(),
                                    [&](const Cut& c) { return c.id == key->sound.cut; });
      if (key->sound.source == source.id && key->sound.cut != 0 && cut != source.cuts.end()) {
        Placed placed;
        placed.at = sounding.at;
        placed.own = beatsAt(beats, toSeconds(cut->start, rate).value, project.tempo);
        placed.ownEnd = beatsAt(beats, toSeconds(cut->end, rate).value, project.tempo);
        placed.index = std::size_t(cut - source.cuts.begin());
        placed.semitones = key->tune.value + key->fine.value / 100 + hit.tune.value;
        placed.turned = std::any_of(key->treatments.begin(), key->treatments.end(),
                                    [](const Treatment& t) { return t.on; });
        placed.heard = sounding.until;
        out.push_back(placed);
      } else {
        sounding.placed = std::size_t(-1);
      }
      soundings.push_back(sounding);
    }
  for (const auto& sounding : soundings) {
    if (sounding.placed == std::size_t(-1)) continue;
    double until = std::min({sounding.until, length,
                             sounding.at + out[sounding.placed].ownEnd - out[sounding.placed].own});
    for (const auto& other : soundings)
      if (sounding.choke != 0 && other.choke == sounding.choke && other.at > sounding.at)
        until = std::min(until, other.at);
    out[sounding.placed].heard = until - sounding.at;
  }
  std::stable_sort(out.begin(), out.end(),
                   [](const Placed& a, const Placed& b) { return a.at < b.at; });
  return out;
}

/// How far distances are from the source's own, a doubling being far; the source may be felt at
/// half or twice its tempo.
double rhythmOf(const std::vector<Placed>& placed) {
  double best = 1;
  for (double fold : {0.5, 1.0, 2.0}) {
    double sum = 0;
    for (std::size_t i = 0; i + 1 < placed.size(); ++i) {
      const double set = std::max(kSameTimeBeats, placed[i + 1].at - placed[i].at);
      const double own = std::max(kSameTimeBeats, (placed[i].ownEnd - placed[i].own) * fold);
      sum += std::min(1.0, std::abs(std::log2(set / own)));
    }
    best = std::min(best, sum / double(placed.size() - 1));
  }
  return best;
}

} // namespace

Novelty noveltyOf(const Project& project, const Pattern& pattern, Id id) {
  Novelty out;
  const Source* source = findSource(project, id);
  if (!source || !source->sound) return out;
  const auto placed = placedOf(project, pattern, *source);
  out.slices = int(placed.size());
  if (placed.size() < 2) return out;
  const double n = double(placed.size());
  std::vector<double> tuned;
  for (const auto& p : placed) tuned.push_back(p.semitones);
  std::nth_element(tuned.begin(), tuned.begin() + std::ptrdiff_t(tuned.size() / 2), tuned.end());
  const double middle = tuned[tuned.size() / 2]; // all of them together is a matter of the key
  int asItWas = 0;
  for (std::size_t i = 0; i < placed.size(); ++i) {
    if (i + 1 < placed.size() && placed[i + 1].index == placed[i].index + 1 && !placed[i].turned &&
        !placed[i + 1].turned)
      ++asItWas;
    out.pitch += std::min(1.0, std::abs(placed[i].semitones - middle) / kFarSemitones) / n;
    const double own = std::max(1e-6, placed[i].ownEnd - placed[i].own);
    out.length += (1 - std::clamp(placed[i].heard / own, 0.0, 1.0)) / n;
  }
  out.order = 1 - asItWas / (n - 1);
  out.rhythm = rhythmOf(placed);
  out.total = kOrderShare * out.order + kRhythmShare * out.rhythm + kPitchShare * out.pitch +
              kLengthShare * out.length;
  return out;
}

Project withOrderChanged(Project project, Id patternId, Id id, std::uint64_t seed) {
  const Source* source = findSource(project, id);
  if (!source) return project;
  std::vector<Id> cuts; // by place
  for (const auto& cut : source->cuts) cuts.push_back(cut.id);
  const auto indexOf = [&](Id key) {
    const Key* k = findKey(project, key);
    if (!k || k->sound.source != id || k->sound.cut == 0) return std::ptrdiff_t(-1);
    const auto at = std::find(cuts.begin(), cuts.end(), k->sound.cut);
    return at == cuts.end() ? std::ptrdiff_t(-1) : at - cuts.begin();
  };
  const PatternPtr pattern = findPattern(project, patternId);
  if (!pattern) return project;
  std::vector<Id> keys; // of the hits, in the order of the lanes
  for (const auto& lane : pattern->lanes)
    for (const auto& hit : lane.hits)
      if (indexOf(hit.key) >= 0) keys.push_back(hit.key);
  if (keys.size() < 2) return project;
  // The best of some shuffles: fewest that go on as in the source.
  Random random(seed);
  std::vector<Id> best = keys;
  int fewest = int(keys.size());
  for (int tries = 0; tries < 40 && fewest > 0; ++tries) {
    auto shuffled = keys;
    for (std::size_t i = shuffled.size() - 1; i > 0; --i)
      std::swap(shuffled[i], shuffled[toWhole<std::size_t>(random.unit() * double(i + 1))]);
    int same = 0;
    for (std::size_t i = 0; i + 1 < shuffled.size(); ++i)
      same += indexOf(shuffled[i + 1]) == indexOf(shuffled[i]) + 1;
    if (same < fewest) {
      fewest = same;
      best = shuffled;
    }
  }
  std::size_t next = 0;
  return withPatternChanged(std::move(project), patternId, [&](Pattern& changed) {
    for (auto& lane : changed.lanes)
      for (auto& hit : lane.hits)
        if (std::find(keys.begin(), keys.end(), hit.key) != keys.end()) hit.key = best[next++];
  });
}

} // namespace tuvvo
