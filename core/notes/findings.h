// What notes have found, as kinds and figures. The sentences are in words/note_words.h.
#pragma once

#include "cut/fit.h"
#include "model/project.h"

#include <variant>

namespace tuvvo {

/// What a slice is for, by the first hit that was heard in it.
enum class SliceJob { Kick, Snare, Hat, Tones };

/// Names are those that the project gives its sources, patterns, sections and keys.
namespace finding {

/// Slices of a source that do the same job differ in loudness.
struct LevelsApart {
  std::string source;
  SliceJob job = SliceJob::Tones;
  double lu = 0; ///< between the loudest and the quietest; of drums, and the usual one
  std::string loudest, quietest;
};

/// A steady loop has another tempo, if it is to be a whole number of bars.
struct TempoOfWholeBars {
  std::string source;
  double bars = 0; ///< at the tempo it has now
  Bpm tempo{0}, wholeTempo{0};
};

/// A source does not end on a bar line.
struct EndsOffBars {
  std::string source;
  double bars = 0;
  int wholeBars = 0; ///< that are in it
};

/// Cuts begin after the attack of a hit did.
struct CutsInAttacks {
  std::string source;
  std::size_t cuts = 0;
};

/// Slices begin or end loudly with no fade.
struct EdgesClick {
  std::string source;
  std::size_t slices = 0;
};

/// Slices begin with what is not heard.
struct DeadAir {
  std::string source;
  std::size_t slices = 0;
  Milliseconds longest{0};
};

/// A whole source is stretched so far that it is heard.
struct HeardStretch {
  std::string source;
  double percent = 0; ///< of length, signed
  FitMethod instead = FitMethod::Repitch;
};

/// The speed changes so much between two places that it is heard.
struct HeardWobble {
  std::string source;
  double percent = 0; ///< of length, signed, where it is most
};

/// Slices come nearly in the order and rhythm of their source.
struct OldOrder {
  std::string source, pattern;
  double novelty = 0; ///< 0 to 1
};

/// A kick and a bass ring together, not quite in tune.
struct KickRubs {
  std::string pattern, kick, bass;
  double apart = 0;     ///< semitones
  double overlap = 0;   ///< share of the kick's ring in which the bass sounds
  Hertz kickPitch{0};   ///< fundamental
  std::string bassNote; ///< spelt by the beat's key
};

/// A kick and a bass ring together in the low end.
struct LowsTogether {
  std::string pattern, kick, bass;
  double overlap = 0; ///< as above
};

/// A kick still rings when it is struck again.
struct KickRingsOn {
  std::string kick;
  double ringBeats = 0, freeBeats = 0;
};

/// Two layers of a key take lows away from each other.
struct LayersCancelLows {
  std::string key, first, second;
  double lost = 0;       ///< dB, by their phases
  bool polarity = false; ///< turning the second over mends it
  std::string later;     ///< else what is delayed
  Milliseconds by{0};
};

/// A section is long and no bar of it differs.
struct BarsTheSame {
  std::string section, pattern;
  int bars = 0;
};

/// Nothing says that a source may be used.
struct NoPermission {
  std::string source;
  bool recording = false, composition = false; ///< for which nothing is recorded
  Seconds heard{0};                            ///< in the song, of the source
};

} // namespace finding

using Finding =
    std::variant<finding::LevelsApart, finding::TempoOfWholeBars, finding::EndsOffBars,
                 finding::CutsInAttacks, finding::EdgesClick, finding::DeadAir,
                 finding::HeardStretch, finding::HeardWobble, finding::OldOrder, finding::KickRubs,
                 finding::LowsTogether, finding::KickRingsOn, finding::BarsTheSame,
                 finding::NoPermission, finding::LayersCancelLows>;

} // namespace tuvvo
