// What a slice is called until somebody gives it a name.
#include "base/convert.h"
#include "listen/spelling.h"
#include "model/resolved_source.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace tuvvo {

namespace {

/// Bar and beat as they are counted, with the off-beats' syllables (common practice, no source).
std::string placeName(const ResolvedSource& source, double atS) {
  const double place = placeAmong(source.beats(), Seconds(atS)) - double(source.downbeat());
  const int meter = std::max(1, source.grid()->meter);
  const auto sixteenth = toNearest<std::int64_t>(place * 4);
  const std::int64_t beat = sixteenth >= 0 ? sixteenth / 4 : (sixteenth - 3) / 4;
  const std::int64_t bar = beat >= 0 ? beat / meter : (beat - meter + 1) / meter;
  static constexpr std::array kOff{"", "e", "&", "a"};
  return std::to_string(bar + 1) + "." + std::to_string(beat - bar * meter + 1) +
         kOff[std::size_t(sixteenth - beat * 4)];
}

std::string hitName(const ResolvedSource& source, double fromS, double toS) {
  for (const auto& onset : source.onsets()) {
    if (onset.at.value < fromS - 0.005 || onset.at.value >= std::min(toS, fromS + 0.06)) continue;
    if (const auto name = nameOf(onset); !name.empty()) return std::string(name);
  }
  return {};
}

/// The chord that is heard longest.
std::string chordName(const Source& source, double fromS, double toS) {
  std::string best;
  double longest = 0;
  if (source.heard)
    for (const auto& chord : source.heard->chords) {
      const double shared = std::min(toS, chord.end.value) - std::max(fromS, chord.start.value);
      if (shared > longest) {
        longest = shared;
        best = respelt(chord.name, keyOf(source));
      }
    }
  return best;
}

} // namespace

std::string nameOf(const Project& project, const Key& key) {
  if (!key.name.empty()) return key.name;
  const Source* source = findSource(project, key.sound.source);
  if (!source) return "?";
  if (key.sound.cut == 0) return source->name;
  const auto cut = std::find_if(source->cuts.begin(), source->cuts.end(),
                                [&](const Cut& c) { return c.id == key.sound.cut; });
  if (cut == source->cuts.end() || !source->sound) return "?";
  const Hertz rate = source->sound->rate();
  const double from = toSeconds(cut->start, rate).value, to = toSeconds(cut->end, rate).value;
  const ResolvedSource resolved(*source);
  std::string name = resolved.beats().size() > 1 ? placeName(resolved, from)
                                                 : std::to_string(cut - source->cuts.begin() + 1);
  const bool drums = resolved.kind() == SoundKind::Break;
  std::string what = drums ? hitName(resolved, from, to) : chordName(*source, from, to);
  if (what.empty()) what = drums ? chordName(*source, from, to) : hitName(resolved, from, to);
  return what.empty() ? name : name + " " + what;
}

} // namespace tuvvo
