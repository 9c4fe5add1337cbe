// The document: plain values, with sound shared and never copied. Any thread may read any value it
// holds; an edit makes a new value (edits.h) and the old one is what undo goes back to.
#pragma once

#include "audio/sound.h"
#include "base/tempo_map.h"
#include "listen/analysis.h"
#include "model/extra.h"
#include "model/pattern.h"

#include <set>

namespace tuvvo {

// ---- Sources ------------------------------------------------------------------------------------

enum class Permission { Unrecorded, Own, Granted, Asked, OpenLicence };

/// A source's provenance: what it is, who made it, how it came here, and what is known about the
/// right to use it. A record, not legal advice.
struct Provenance {
  std::string title, maker;
  std::string from; ///< where it was obtained
  std::string when; ///< as the person writes it
  Permission recording = Permission::Unrecorded, composition = Permission::Unrecorded;
  std::string note;
  bool operator==(const Provenance&) const = default;
};
/// Both the recording and what is played on it may be used.
[[nodiscard]] bool cleared(const Provenance& provenance);

/// What a hit was said to be.
struct HitCorrection {
  Seconds at; ///< where the hit is heard
  std::vector<HitClass> hits;
  Extra extra{};
  bool operator==(const HitCorrection&) const = default;
};

/// Two times of one hit lie nearer than this.
inline constexpr Seconds kSameHit{0.005};

/// What a person said against what was heard. It always wins.
struct Corrections {
  std::optional<Bpm> tempo;
  std::optional<Seconds> downbeat; ///< the first one
  std::optional<KeyName> key;
  std::optional<SoundKind> kind;
  std::vector<HitCorrection> hits; ///< in rising order
  bool operator==(const Corrections&) const = default;
};

/// A stretch of a source, half open. A recipe: nothing of the sound is copied.
struct Cut {
  Id id = 0;
  Frames start, end;      ///< at the source's own rate
  bool byHand = false;    ///< survives a change of the way to cut
  Milliseconds fadeIn{1}; ///< against clicks; 0 to 50
  Milliseconds fadeOut{4};
  Extra extra{};
  bool operator==(const Cut&) const = default;
};

enum class CutMode { Hits, Beats, Bars, Equal, Sections, Chords, Hand };
/// Where a slice ends: at the next one, or before it where its own sound has died away.
enum class CutEnd { Next, Decay };

struct CutSettings {
  CutMode mode = CutMode::Hits;
  double sensitivity = 0.5;                            ///< for hits: 0 to 1
  std::array<bool, 4> classes{true, true, true, true}; ///< for hits: which, by HitClass
  int perBeat = 1;  ///< for beats: slices to a beat, 1 to 8; 3 and 6 are triplets
  int barsEach = 1; ///< for bars: 1 to 16
  int parts = 8;    ///< for equal parts: 1 to 128
  CutEnd end = CutEnd::Next;
  bool fromDownbeat = false; ///< what stands before the first downbeat is set aside
  bool operator==(const CutSettings&) const = default;
};

/// What is pulled straight; what lies between stays as loose as it was played.
enum class StraightenBy { Bars, Beats, Hits };
/// What stretching goes by: tones keep their phases, hits their attacks.
enum class Material { Tones, Hits };

/// A place of a source that is held to a place of its grid.
struct WarpMarker {
  Seconds at;      ///< in the source
  double beat = 0; ///< from its first downbeat
  Extra extra{};
  bool operator==(const WarpMarker&) const = default;
};

/// How a source is brought to the beat. Nothing of it touches the sound itself or the cuts.
struct Shape {
  FitMethod method = FitMethod::Repitch;
  Semitones semitones{0}; ///< −36 to 36
  Cents cents{0};         ///< −50 to 50
  StraightenBy by = StraightenBy::Beats;
  double straighten = 0;            ///< 0 as played to 1 on the grid
  std::vector<WarpMarker> markers;  ///< in rising order
  std::optional<Material> material; ///< nothing: by what the source is
  bool formants = false;            ///< stretching leaves the colour of a voice where it is
  bool operator==(const Shape&) const = default;
  [[nodiscard]] double pitch() const { return ratioOf(semitones + toSemitones(cents)); }
};

struct Recipe; ///< below

struct Source {
  Id id = 0;
  std::string name;
  std::string origin;            ///< where it came from: a path, or a sentence
  std::string hash;              ///< of its sound; names it in the project folder
  SoundPtr sound;                ///< null when the file is missing
  std::optional<Analysis> heard; ///< nothing until it was listened to
  Corrections corrections;
  Provenance provenance;
  bool kit = false;                     ///< one of the drums that ship
  std::shared_ptr<const Recipe> recipe; ///< null for a sound from outside
  CutSettings cutting;
  std::vector<Cut> cuts; ///< in rising order, not overlapping
  Shape shape;
  Extra extra{};
  bool operator==(const Source&) const = default;
};
using SourcePtr = std::shared_ptr<const Source>;

/// Beats laid over a source: one tempo from a first downbeat.
struct Grid {
  Bpm tempo;
  Seconds downbeat;
  int meter = 4;
  bool operator==(const Grid&) const = default;
};
/// The heard or corrected grid; nothing when the sound has no tempo.
[[nodiscard]] std::optional<Grid> gridOf(const Source& source);
/// The heard or corrected key; nothing when there is none.
[[nodiscard]] std::optional<KeyName> keyOf(const Source& source);
/// The heard or corrected kind; nothing when it was not listened to.
[[nodiscard]] std::optional<SoundKind> kindOf(const Source& source);

// ---- Sounds made of sounds
// -----------------------------------------------------------------------

/// A stretch of another source with everything that acted on it, played once and kept as a source.
struct Recipe {
  Key as;            ///< the settings it was played with; as.sound names the source
  Frames start, end; ///< of that source, at its own rate
  Shape shape;       ///< of that source then
  /// The same of what its layers play, in their order.
  struct Under {
    Frames start, end;
    Shape shape;
    Extra extra{};
    bool operator==(const Under&) const = default;
  };
  std::vector<Under> under;
  Bpm tempo{90}; ///< what its shape and treatments went by
  Meter meter;
  bool operator==(const Recipe&) const = default;
};

// ---- The whole
// -----------------------------------------------------------------------------------

/// A place of the song where its tempo steps, or is reached by a ramp.
struct TempoMark {
  TempoChange change; ///< after the song's start; 20 to 400 BPM
  Extra extra{};
  bool operator==(const TempoMark&) const = default;
};
inline constexpr std::size_t kMostTempoMarks = 4096;        ///< of one song
inline constexpr Beats kLatestMark = wholeBeats(1'000'000); ///< of tempo

struct Project {
  std::string name;
  Bpm tempo{90}; ///< of patterns that go round, and of the song up to its first mark
  std::vector<TempoMark> tempoMarks; ///< in rising order, one a place
  Meter meter;                       ///< of new patterns, and what shapes and treatments go by
  std::optional<KeyName> key;
  std::vector<SourcePtr> sources;
  std::array<MuteSolo, kRowCount> roles;   ///< by Row
  std::array<BusSettings, kRowCount> rows; ///< by Row: where its parts come together
  std::array<BusSettings, kSends> sends;   ///< where what is sent comes together
  BusSettings master;                      ///< where all comes together
  std::vector<Part> parts;
  std::vector<Key> keys;
  std::vector<PatternPtr> patterns;
  std::vector<Groove> grooves; ///< feels that lanes use
  std::vector<Section> sections;
  std::set<std::string> dismissedNotes; ///< notes that the person does not want to see
  Id nextId = 1;
  Extra extra{};
  bool operator==(const Project&) const = default;
};
using ProjectPtr = std::shared_ptr<const Project>;

// ---- Finding things; null when there is no such thing
// ---------------------------------------------

/// The song's tempo, from its start on.
[[nodiscard]] TempoMap songTempo(const Project& project);
[[nodiscard]] const Source* findSource(const Project& project, Id id);
[[nodiscard]] const Cut* findCut(const Source& source, Id id);
[[nodiscard]] const Key* findKey(const Project& project, Id id);
/// Whether any role, part or key is solo.
[[nodiscard]] bool anySolo(const Project& project);
/// Whether a key is heard: neither it nor its part nor its role is muted, and where anything is
/// solo, one of the three is.
[[nodiscard]] bool audible(const Project& project, const Key& key, bool anySolo);
/// The same without its part's mute, which is its bus's.
[[nodiscard]] bool soundsOnItsBus(const Project& project, const Key& key, bool anySolo);
/// Whether any treatment of a key is on.
[[nodiscard]] bool isTreated(const Key& key);
[[nodiscard]] const Key* keyAt(const Project& project, Row row, int column, int page);
[[nodiscard]] const Part* findPart(const Project& project, Id id);
[[nodiscard]] const Groove* findGroove(const Project& project, Id id);
[[nodiscard]] PatternPtr findPattern(const Project& project, Id id);
[[nodiscard]] const Lane* findLane(const Pattern& pattern, Id part);
/// No lane has a hit.
[[nodiscard]] bool isEmpty(const Pattern& pattern);
[[nodiscard]] const Section* findSection(const Project& project, Id id);
/// Pages of the Cuts row that hold anything; at least 1.
[[nodiscard]] int cutPages(const Project& project);
/// The stretch of its source that a key plays; an empty one when there is no sound.
struct Stretch {
  Frames start, end;
};
[[nodiscard]] Stretch stretchOf(const Source& source, const SoundRef& ref);
/// How one of a key's layers sounds; 0 is its own sound, as is a layer that is not there.
[[nodiscard]] LayerPlay& playOf(Key& key, int layer);
/// A key that plays one of a key's layers: its sound, method and settings, without the trims, loop
/// and treatments, which act on the key's own sound alone.
[[nodiscard]] Key keyOfLayer(const Key& key, const Layer& layer);
/// Without what the key trims off; at least one frame is left of a sound that has any.
[[nodiscard]] Stretch stretchOf(const Source& source, const Key& key);
/// What a key is called: as it was typed, or by what it plays: "2.3 snare", "1.1 Am", "5".
[[nodiscard]] std::string nameOf(const Project& project, const Key& key);
/// The shape that acts on a key: its source's, with the key's own method if it has one.
[[nodiscard]] Shape shapeOf(const Source& source, const Key& key);

} // namespace tuvvo
