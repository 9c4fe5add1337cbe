// Chords by name: a root, a kind, and the bass where it is another tone.
#pragma once

#include "listen/analysis.h"

#include <span>

namespace tuvvo {

/// A kind of chord: how its names end, and its tones.
struct ChordKind {
  std::string_view ending;
  std::array<int, 7> steps; ///< semitones above the root, rising, the root first; −1 after the last

  [[nodiscard]] std::span<const int> tones() const;
  /// Minor (3) or major (4) third; nothing where it has none.
  [[nodiscard]] std::optional<int> third() const;
  /// Diminished (6), perfect (7) or augmented (8) fifth.
  [[nodiscard]] int fifth() const;
};

/// Every kind that can be written. The first kHeardKinds are those that listening tells apart.
/// Elevenths have no third, as they are mostly played; dominant and major thirteenths have no
/// eleventh.
inline constexpr std::array<ChordKind, 27> kChordKinds{
    {{"", {0, 4, 7, -1, -1, -1, -1}},      {"m", {0, 3, 7, -1, -1, -1, -1}},
     {"dim", {0, 3, 6, -1, -1, -1, -1}},   {"sus2", {0, 2, 7, -1, -1, -1, -1}},
     {"sus4", {0, 5, 7, -1, -1, -1, -1}},  {"maj7", {0, 4, 7, 11, -1, -1, -1}},
     {"m7", {0, 3, 7, 10, -1, -1, -1}},    {"7", {0, 4, 7, 10, -1, -1, -1}},
     {"5", {0, 7, -1, -1, -1, -1, -1}},    {"aug", {0, 4, 8, -1, -1, -1, -1}},
     {"6", {0, 4, 7, 9, -1, -1, -1}},      {"m6", {0, 3, 7, 9, -1, -1, -1}},
     {"6/9", {0, 4, 7, 9, 14, -1, -1}},    {"add9", {0, 4, 7, 14, -1, -1, -1}},
     {"madd9", {0, 3, 7, 14, -1, -1, -1}}, {"m7b5", {0, 3, 6, 10, -1, -1, -1}},
     {"dim7", {0, 3, 6, 9, -1, -1, -1}},   {"mmaj7", {0, 3, 7, 11, -1, -1, -1}},
     {"7sus4", {0, 5, 7, 10, -1, -1, -1}}, {"9", {0, 4, 7, 10, 14, -1, -1}},
     {"m9", {0, 3, 7, 10, 14, -1, -1}},    {"maj9", {0, 4, 7, 11, 14, -1, -1}},
     {"9sus4", {0, 5, 7, 10, 14, -1, -1}}, {"11", {0, 7, 10, 14, 17, -1, -1}},
     {"m11", {0, 3, 7, 10, 14, 17, -1}},   {"13", {0, 4, 7, 10, 14, 21, -1}},
     {"m13", {0, 3, 7, 10, 14, 21, -1}}}};
inline constexpr std::size_t kHeardKinds = 8;

struct ChordName {
  int root = 0; ///< 0 = C … 11 = B
  const ChordKind* kind = nullptr;
  int bass = -1; ///< the lowest tone, a pitch class; −1: the root
  bool operator==(const ChordName&) const = default;

  /// Minor or major by its third; nothing where it has none or its fifth is not perfect.
  [[nodiscard]] std::optional<bool> minor() const;
  /// What sounds lowest: the bass that is written, else the root.
  [[nodiscard]] int lowest() const { return bass < 0 ? root : bass; }
  /// Its tones as pitch classes, the root first; a bass that is none of them comes last.
  [[nodiscard]] std::vector<int> tones() const;
};

/// "Am", "F#maj7", "Eb/G", "C6/9", also as people write them otherwise ("A-7", "Bo7", "FM7",
/// "Gsus"), with the signs for sharp and flat or with letters. A bass that is the root is none.
/// @returns nothing for what is no chord
[[nodiscard]] std::optional<ChordName> chordFromName(std::string_view name);

} // namespace tuvvo
