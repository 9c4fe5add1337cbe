// What was heard in a sound: a plain value, computed once and kept by the sound's content.
#pragma once

#include "base/units.h"

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace tuvvo {

/// Tonic 0 = C … 11 = B; names use sharps and an m for minor ("F#m").
struct KeyName {
  int tonic = 0;
  bool minor = false;
  auto operator<=>(const KeyName&) const = default;
};
[[nodiscard]] std::string nameOf(KeyName key);
/// "C", "F#m", "Bbm", also with the signs for sharp and flat; nothing for anything else.
[[nodiscard]] std::optional<KeyName> keyFromName(std::string_view name);
/// The nearest note and what is left in cents: "A4", "C#2 +12 ct" (ISO 16; middle C is C4).
[[nodiscard]] std::string noteNameOf(Hertz pitch);
/// The key that many semitones higher (negative: lower).
[[nodiscard]] KeyName transposed(KeyName key, int semitones);

struct TempoAlternative {
  Bpm bpm;
  std::string relation; ///< "half", "double", "dotted", "triplet"
  bool operator==(const TempoAlternative&) const = default;
};

inline constexpr int kTempoCurve = 120;

struct TempoHeard {
  Bpm bpm;
  double confidence = 0; ///< 0 to 1
  std::vector<TempoAlternative> alternatives;
  /// Strength of the pulse at kTempoCurve tempos from 40 to 240 BPM, evenly spaced in log tempo:
  /// the picture of why.
  std::vector<float> curve;
  bool steady = true;    ///< one tempo and one phase describe all beats
  Milliseconds drift{0}; ///< typical distance of the played beats from the steady grid
  bool operator==(const TempoHeard&) const = default;
};

/// The sound's length is a whole number of bars.
struct LoopHeard {
  int bars = 0;
  bool exact = false; ///< the tempo was taken from the length
  bool operator==(const LoopHeard&) const = default;
};

struct KeyHeard {
  KeyName name;
  double confidence = 0; ///< 0 to 1; below about .5 the alternatives deserve a look
  std::vector<KeyName> alternatives;
  Cents tuning{0};  ///< off A4 = 440 Hz, −50 to 50
  std::string mode; ///< "dorian", "phrygian", "lydian", "mixolydian"; empty for major and minor
  bool operator==(const KeyHeard&) const = default;
};

struct ChordHeard {
  Seconds start, end;
  std::string name, bass;
  double confidence = 1;  ///< 0 to 1; an older hearing does not say, and is taken for sure
  std::string other = {}; ///< what it is else likeliest to be; empty: no chord, or not said
  bool operator==(const ChordHeard&) const = default;
};

enum class HitClass { Kick, Snare, Hat, Other };
[[nodiscard]] std::string_view nameOf(HitClass hit);

/// Drums that are told apart more closely than by their class, where that is sure.
enum class Drum { ClosedHat, OpenHat, Ride, Crash, Tom, Clap, Rim, Shaker };
inline constexpr std::size_t kDrums = 8;
/// "closed hat", "open hat", "ride", "crash", "tom", "clap", "rim", "shaker"
[[nodiscard]] std::string_view nameOf(Drum drum);
/// The class that its hits have.
[[nodiscard]] inline HitClass classOf(Drum drum) {
  return drum == Drum::ClosedHat || drum == Drum::OpenHat ? HitClass::Hat : HitClass::Other;
}

/// A place where something is struck, plucked or blown.
struct Onset {
  Seconds at;  ///< where it is heard
  Seconds cut; ///< where a blade should go: just before the attack
  std::vector<HitClass> hits;
  /// How clearly each class was heard to be among them or not, by HitClass; 0 (either way) to 1.
  std::array<double, 4> sure{1, 1, 1, 1};
  std::vector<Drum> drums; ///< which ones they are, where that is sure
  Decibels level{0};       ///< peak of the first 100 ms, dBFS
  /// By HitClass: how loud its own band is in the first 30 ms, RMS, dBFS. Hits of one class compare
  /// by it whatever else is struck with them.
  std::array<Decibels, 4> levels{};
  Hertz brightness{0};   ///< spectral centroid of the first 50 ms
  Milliseconds decay{0}; ///< to 20 dB under its loudest, guessed where the next hit comes first
  Hertz ring{0};         ///< pitch of what rings after the attack; 0 for none
  int group = 0;         ///< hits of one drum or note in this sound share a number, commonest first
  bool operator==(const Onset&) const = default;
};
/// What a hit is called: by its drum where that is sure, else by its first class that is not
/// "other"; empty for anything else.
[[nodiscard]] std::string_view nameOf(const Onset& onset);

/// What is in a stretch of a sound.
struct Content {
  Decibels level{0};  ///< RMS, dB over that of the whole sound
  double onsets = 0;  ///< a second
  double drums = 0;   ///< onsets with a kick, a snare or a hat, a second
  double lows = 0;    ///< share of the power that lies below 150 Hz, 0 to 1
  double voices = 0;  ///< share that lies between 300 and 3400 Hz, 0 to 1
  double tones = 0;   ///< share that stands in time, 0 to 1
  double changes = 0; ///< how unlike neighbouring beats are in level and in these shares, 0 to 1
  bool operator==(const Content&) const = default;
};

struct SectionHeard {
  Seconds start, end;
  std::string label;
  Content content{};
  bool operator==(const SectionHeard&) const = default;
};

/// EBU R 128 figures; −infinity for silence.
struct LoudnessHeard {
  double integratedLufs = 0, truePeakDbtp = 0, samplePeakDbfs = 0, rangeLu = 0;
  double shortTermLufs = 0;     ///< the loudest three seconds; the integrated one for less
  double noiseFloorDbfs = -1e9; ///< RMS of the quietest twentieth of what is not dead silence
  bool operator==(const LoudnessHeard&) const = default;
};

/// What is wrong with a recording; words/fault_words.h says it.
struct FaultHeard {
  /// With its figure, and a second one where there is one:
  ///   "silence"
  ///   "dc offset"             part of full scale
  ///   "clipping"              samples in a row that are cut off, at the most
  ///   "silence at the front"  ms
  ///   "one-sided"             dB, left over right
  ///   "inverted"              correlation of left and right, −1 to 0
  ///   "hum"                   Hz of the mains; level in dBFS
  ///   "dead air"              s, the longest; where it begins, in s
  ///   "wow"                   cents; times a second
  ///   "speed drift"           cents from the beginning to the end
  std::string kind;
  double figure = 0;
  double second = 0; ///< 0: not measured
  bool operator==(const FaultHeard&) const = default;
};

/// What a sound is to this trade.
enum class SoundKind { OneShot, Break, Loop, Passage, Field, Voice };
inline constexpr std::size_t kSoundKinds = 6;
/// "one-shot", "break", "loop", "passage", "field recording", "voice"
[[nodiscard]] std::string_view nameOf(SoundKind kind);

struct KindHeard {
  SoundKind kind = SoundKind::Passage;
  double confidence = 0; ///< 0 to 1
  bool operator==(const KindHeard&) const = default;
};

/// Speed of a disc or tape that wavers once a turn.
struct WowHeard {
  Hertz rate{0};  ///< turns a second
  Cents depth{0}; ///< peak
  bool operator==(const WowHeard&) const = default;
};

struct Analysis {
  KindHeard kind;
  std::optional<WowHeard> wow;
  Hertz root{0}; ///< of a single note or drum; 0 where there is none or more than one

  Seconds duration{0};
  Hertz rate{0};
  int channels = 0;
  std::optional<TempoHeard> tempo;
  int meter = 4;         ///< beats in a bar
  bool compound = false; ///< three parts to a beat, all played
  std::vector<Seconds> beats, downbeats;
  std::optional<LoopHeard> loop;
  std::optional<KeyHeard> key;
  std::vector<ChordHeard> chords; ///< empty: not heard yet
  std::vector<Onset> onsets;
  std::vector<SectionHeard> sections; ///< empty: not heard yet
  Content content;                    ///< of the whole
  LoudnessHeard loudness;
  std::vector<FaultHeard> faults;
  bool operator==(const Analysis&) const = default;
};

/// "4/4", "3/4"; "6/8" and "12/8" where beats of three parts make the bar.
[[nodiscard]] std::string meterName(const Analysis& heard);

} // namespace tuvvo
