// Where two sources lie well over each other.
#pragma once

#include "listen/chord_name.h"
#include "model/resolved_source.h"

namespace tuvvo {

/// One way: a phrase of one source under a phrase of the other, beat on beat.
struct Overlay {
  std::size_t under = 0, over = 0; ///< first beats of the phrases, in Question's beats
  int beats = 0;                   ///< of the one that lies under
  int offset = 0;   ///< the upper phrase begins so many beats after the lower one; it goes round
  int shift = 0;    ///< semitones by which the upper one moves against the lower one
  double tones = 0; ///< 0: its chords bite, 1: they are one
  double room = 0;  ///< 0: lows, drums and voices lie on each other, 1: each has its own place
  double turns = 0; ///< 0: they strike at the same places, 1: they take turns
  double score = 0; ///< of all of it; larger is better
  bool operator==(const Overlay&) const = default;
};

/// Two sources, beat for beat. The upper one's tempo is folded to the nearest of its own, its half
/// and its double.
class OverlayQuestion {
public:
  /// @returns nothing where one of them has no tempo or is shorter than a bar of the lower one
  static std::optional<OverlayQuestion> of(const Source& under, const Source& over);

  /// The best ways, best first; no two of them begin at the same places.
  /// Tones: intervals between what sounds in both are summed by how consonant pairs of tones are
  /// (Huron 1994, Music Perception 11(3): dyadic consonance by interval class; from memory). Where
  /// one has no chords nothing bites, and it is not moved. How much tones, room and turns weigh
  /// against each other is common practice without a source.
  /// Phrases are of four bars at most and begin on bars; of a long source at most 48 are tried.
  [[nodiscard]] std::vector<Overlay> best(std::size_t most = 6) const;

  /// When the beats of each begin; one more than there are whole ones.
  [[nodiscard]] const std::vector<Seconds>& underBeats() const { return m_under.beats; }
  [[nodiscard]] const std::vector<Seconds>& overBeats() const { return m_over.beats; }
  /// Number of the bar, from 0, that a beat of either begins.
  [[nodiscard]] int underBar(std::size_t beat) const { return m_under.barOf(beat); }
  [[nodiscard]] int overBar(std::size_t beat) const { return m_over.barOf(beat); }

private:
  static constexpr int kSlots = 4; ///< in a beat
  struct Side {
    std::vector<Seconds> beats;
    std::size_t downbeat = 0;
    int meter = 4;
    std::vector<int> chord; ///< of every beat, in chords; −1 none
    std::vector<ChordName> chords;
    std::vector<std::array<float, kSlots>> strokes;
    std::vector<Content> contents; ///< of the section that every beat is in
    [[nodiscard]] int barOf(std::size_t beat) const;
    [[nodiscard]] std::size_t count() const { return chord.size(); }
    [[nodiscard]] std::vector<std::size_t> starts(std::size_t length) const;
    [[nodiscard]] Content meanContent(std::size_t from, std::size_t length) const;
  };
  static Side sideOf(const ResolvedSource& source, double level);

  Side m_under, m_over;
};

} // namespace tuvvo
