#include "tones/hits_elsewhere.h"

#include "base/convert.h"
#include "beat/hand.h"
#include "model/edits.h"
#include "tones/theory.h"

#include <cmath>

namespace tuvvo {

namespace {

constexpr double kReach = 48; ///< semitones that a hit can be tuned

/// The same pitch class within what a hit can be tuned.
double withinReach(double tune) {
  while (tune > kReach) tune -= 12;
  while (tune < -kReach) tune += 12;
  return tune;
}

/// The note of a key's sound at its own tune; nothing where it has no one note.
std::optional<double> noteOfKey(const Project& project, const Key* key) {
  const Hertz root = key ? rootOf(project, *key) : Hertz(0);
  if (root.value <= 0) return std::nullopt;
  return std::round(midiNoteOf(root));
}

} // namespace

SentHits sent(const Project& project, const Pattern& pattern, const HitClip& chosen, Id id,
              SendAs way) {
  SentHits out{pattern, {}, 0};
  const Key* to = findKey(project, id);
  if (!to || to->part == 0) return out;
  const auto own = noteOfKey(project, to);
  if (way == SendAs::Move) out.pattern = without(std::move(out.pattern), chosen);
  for (const auto& each : chosen) {
    Hit hit = each.hit;
    const auto was = noteOfKey(project, findKey(project, hit.key));
    if (own && was) {
      const double wanted = hit.tune.value + *was - *own;
      hit.tune = Semitones(withinReach(wanted));
      if (hit.tune.value != wanted) ++out.moved;
    }
    hit.key = id;
    clamp(hit);
    if (hit.at >= laneLength(out.pattern, to->part)) continue;
    out.pattern = withHit(std::move(out.pattern), to->part, hit);
    std::erase_if(out.hits, [&](const HitOf& other) { // of two at one place and pitch the later
      return other.hit.at == hit.at && other.hit.tune == hit.tune;
    });
    out.hits.push_back({to->part, hit});
  }
  return out;
}

HitClip steppedInScale(const Project& project, HitClip chosen, int steps) {
  for (auto& each : chosen) {
    const int note = noteOf(project, each.hit);
    each.hit.tune.value +=
        project.key ? stepped(note, steps, *project.key) - note : steps / 7 * 12 + steps % 7;
    each.hit.tune = Semitones(withinReach(each.hit.tune.value));
  }
  return chosen;
}

HitClip snappedToChords(const Project& project, HitClip chosen,
                        const std::vector<ChordSpan>& chords) {
  for (auto& each : chosen) {
    const ChordSpan* span = chordAt(chords, each.hit.at);
    if (!span) continue;
    const int note = noteOf(project, each.hit);
    each.hit.tune =
        Semitones(withinReach(each.hit.tune.value + nearestTone(span->chord, note) - note));
  }
  return chosen;
}

} // namespace tuvvo
