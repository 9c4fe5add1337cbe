// What parts play: hits on lanes, how each lane feels, and the sections that put patterns in order.
#pragma once

#include "base/meter.h"
#include "model/key.h"

#include <memory>

namespace tuvvo {

/// A hit struck several times in a row, the first time at its own place.
struct Roll {
  int hits = 1;                  ///< 1: struck once; to kMostRoll
  Beats step{kTicksPerBeat / 8}; ///< from one hit to the next; at least kShortestStep
  double endLevel = 1;           ///< velocity of the last hit as a share of the first; 0.02 to 4
  Semitones endTune{0};          ///< of the last hit on top of the first; −48 to 48
  bool operator==(const Roll&) const = default;
};
inline constexpr int kMostRoll = 64;
inline constexpr Beats kShortestStep{kTicksPerBeat / 64};

/// A softer hit just before a hit.
struct Flam {
  Milliseconds before{0}; ///< 0: none; to 100
  double level = 0.5;     ///< of its velocity; above 0 to 1
  bool operator==(const Flam&) const = default;
};

/// When a hit is struck at all.
struct Condition {
  double chance = 1; ///< of every time round; 0 to 1
  int every = 1;     ///< struck once in so many times round; 1 to 16
  int turn = 1;      ///< which of them; 1 to every
  bool operator==(const Condition&) const = default;
};
inline constexpr int kMostRounds = 16;

/// How a hit comes to its pitch.
struct Glide {
  /// From the pitch that sounds (on a mono key) or from `from`; −1: as long as its key's glide, or
  /// kUsualGlide where that is none; to 2000.
  Milliseconds time{-1};
  /// Off its pitch, where nothing of its key sounds; 0: it begins at its pitch; −48 to 48.
  Semitones from{0};
  bool operator==(const Glide&) const = default;
};
inline constexpr Milliseconds kUsualGlide{100};

/// What is done to the sound of a hit alone, after what is done to its key's. Most hits have
/// nothing of it, so it takes no room then; it is shared and never changed.
class HitTreatments {
public:
  struct List {
    std::vector<Treatment> treatments; ///< in this order; at most kMostTreatments
    int every = 1;                     ///< treated once in so many times round; 1 to kMostRounds
    int turn = 1;                      ///< which of them; 1 to every
    bool operator==(const List&) const = default;
  };

  HitTreatments() = default;
  explicit HitTreatments(List list) {
    if (!(list == List{})) m_list = std::make_shared<const List>(std::move(list));
  }
  [[nodiscard]] bool empty() const { return !m_list || m_list->treatments.empty(); }
  [[nodiscard]] const List& list() const {
    static const List none;
    return m_list ? *m_list : none;
  }
  bool operator==(const HitTreatments& other) const {
    return m_list == other.m_list || list() == other.list();
  }

private:
  std::shared_ptr<const List> m_list;
};

/// One hit.
struct Hit {
  Beats at; ///< from the lane's start, before swing and micro-timing
  Id key = 0;
  double velocity = 0.8;       ///< above 0 to 1, before the feel's accents
  Milliseconds microTiming{0}; ///< late (+) or early (−); −200 to 200
  Semitones tune{0};           ///< −48 to 48
  Beats length{0};             ///< how long a gated key is held; 0 to its own end
  double start = 0;            ///< where in the sound it begins, a share of it; 0 to kLatestStart
  double bright = 0;           ///< octaves by which the low-pass moves; −10 to 10
  double pan = 0;              ///< on top of the key's; −1 to 1
  bool reversed = false;       ///< its sound is played backwards
  Roll roll;
  Flam flam;
  Condition condition;
  Glide glide;
  HitTreatments treatments;
  Extra extra{};
  bool operator==(const Hit&) const = default;
};
inline constexpr double kLatestStart = 0.99; ///< of a hit

/// Which places of a bar are struck harder than the others.
enum class AccentShape { Flat, Beats, Backbeats, OffBeats, Downbeat, Rising, Falling };

/// How a lane feels. None of it changes a hit: a hit keeps its place, and what is heard is reckoned
/// from both (hearing.h).
struct Feel {
  double swing8 = 50;  ///< where the second eighth of a pair starts, % of the pair; 50 to 80
  double swing16 = 50; ///< the same of sixteenths
  Milliseconds microTiming{0}; ///< the whole lane late (+) or early (−); −200 to 200
  Beats lag{0};                ///< the same in ticks, which follow the tempo; at most half a beat
  AccentShape accent = AccentShape::Flat;
  double accentDepth = 0;      ///< how much softer what is not accented is struck; 0 to 0.9
  Milliseconds humanise{0};    ///< a deviation of its own for every hit, always the same; 0 to 40
  double humaniseLevel = 0;    ///< the same of its velocity; 0 to 0.4
  std::uint32_t seed = 1;      ///< of both
  double quantiseStrength = 0; ///< how much of a hit's own micro-timing is taken off; 0 to 1
  Id groove = 0;               ///< 0: none
  double grooveTiming = 1, grooveLevel = 1; ///< how much of it is laid on; 0 to 1.5
  bool operator==(const Feel&) const = default;
};
inline constexpr Beats kMostLag{kTicksPerBeat / 2};

/// The timing and the accents of something that was played, to be laid over any lane.
struct Groove {
  Id id = 0;
  std::string name;
  std::string from;            ///< what it was taken from; empty for one of ours
  Beats length{kTicksPerBeat}; ///< after which it comes round; up to 16 beats
  /// What was played around one place.
  struct Step {
    Beats at;         ///< below length
    double late = 0;  ///< ticks (+) after or (−) before the place
    double level = 1; ///< velocity as a share of the mean one; 0.1 to 4
    Extra extra{};
    bool operator==(const Step&) const = default;
  };
  std::vector<Step> steps; ///< in rising order; what lies between is spread evenly
  Extra extra{};
  bool operator==(const Groove&) const = default;
};
inline constexpr Beats kMostGroove = wholeBeats(16);

/// What one part plays in one pattern, and how it feels.
struct Lane {
  Id part = 0;
  std::vector<Hit> hits; ///< in rising order; those past the lane's end are kept and not heard
  Beats length{0};       ///< after which it comes round by itself; 0: with the pattern
  Feel feel;
  Extra extra{};
  bool operator==(const Lane&) const = default;
};

/// A chord that was written over a pattern: what sounds there up to the next one, whatever is
/// heard.
struct ChordMark {
  Beats at;
  std::string name; ///< as chordFromName() reads it
  Extra extra{};
  bool operator==(const ChordMark&) const = default;
};
inline constexpr std::size_t kMostChords = 1024; ///< of one pattern

struct Pattern {
  Id id = 0;
  std::string name;
  int bars = 2; ///< 1 to kMostBars
  Meter meter;
  Id family = 0;                 ///< alternatives of one pattern have the same; 0: it has none
  std::vector<Lane> lanes;       ///< one a part at most
  std::vector<ChordMark> chords; ///< in rising order; empty: as heard in what plays
  Extra extra{};
  bool operator==(const Pattern&) const = default;
};
using PatternPtr = std::shared_ptr<const Pattern>;
inline constexpr int kMostBars = 64;
inline constexpr Beats kShortestLane{kTicksPerBeat / 8};

/// How long a hit slides into its pitch; 0: it does not.
[[nodiscard]] Milliseconds glideOf(const Hit& hit, const Key& key);

/// Brings every figure into its range, and hits and steps into their order.
void clamp(Hit& hit);
void clamp(Feel& feel);
void clamp(Groove& groove);
void clamp(Pattern& pattern);
void sortHits(Lane& lane);

struct Section {
  Id id = 0;
  std::string name;
  Id pattern = 0;
  int bars = 4;               ///< 1 to 256, of the pattern's meter
  std::vector<Id> mutedParts; ///< parts that do not play here
  Extra extra{};
  bool operator==(const Section&) const = default;
};

} // namespace tuvvo
