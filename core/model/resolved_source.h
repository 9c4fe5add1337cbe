// What a source is: as it was heard, with everything that was corrected.
#pragma once

#include "model/project.h"

#include <span>

namespace tuvvo {

/// The even line through all played beats (least squares): how long a beat is, and where the first
/// downbeat lies on it.
struct EvenBeats {
  double firstS = 0, beatS = 0;
  [[nodiscard]] double beatsAt(double timeS) const { return (timeS - firstS) / beatS; }
};

/// A place among beats, counted from the first of them; before and after them at the nearest two
/// beats' pace. @param beats  in rising order, at least 2
[[nodiscard]] double placeAmong(std::span<const Seconds> beats, Seconds at);

/// Beats at another level, the downbeat among them. @param ratio  2 puts midpoints in, 1/2 takes
/// every second out @param downbeat  which of the beats it is
[[nodiscard]] std::vector<Seconds> beatsAtLevel(std::span<const Seconds> beats, double ratio,
                                                std::size_t downbeat);

/// Worked out once for a value of a source and then handed on. It refers to the source, which has
/// to live as long. Any thread may read it.
class ResolvedSource {
public:
  explicit ResolvedSource(const Source& source);
  explicit ResolvedSource(Source&& source) = delete; // it would not live as long
  ResolvedSource(ResolvedSource&&) = default;
  ResolvedSource(const ResolvedSource&) = delete;

  [[nodiscard]] const Source& source() const { return m_source; }
  /// gridOf() the source.
  [[nodiscard]] const std::optional<Grid>& grid() const& { return m_grid; }
  /// kindOf() the source.
  [[nodiscard]] std::optional<SoundKind> kind() const { return kindOf(m_source); }
  /// Nothing where there is no grid.
  [[nodiscard]] const std::optional<EvenBeats>& even() const& { return m_even; }
  /// Whether its beats lie on one even line, as far as anybody knows.
  [[nodiscard]] bool steady() const;
  /// Played beats: as heard where nobody corrected them. Corrections follow through: beats that
  /// were followed stay so at half or twice the tempo and from another downbeat; else the even
  /// grid. None without a grid.
  [[nodiscard]] std::span<const Seconds> beats() const& { return m_beats; }
  std::span<const Seconds> beats() const&& = delete; // what it refers to would be gone
  /// Which of the beats is nearest to the first downbeat; 0 where there are none.
  [[nodiscard]] std::size_t downbeat() const { return m_downbeat; }
  /// The first beats of bars.
  [[nodiscard]] std::vector<Seconds> bars() const;
  /// The sections as heard, on the bar lines as corrected: a moved downbeat moves them with it.
  [[nodiscard]] std::vector<SectionHeard> sections() const;
  /// The hits as heard, called what they were said to be, which is sure.
  [[nodiscard]] std::span<const Onset> onsets() const& { return m_onsets; }
  std::span<const Onset> onsets() const&& = delete;

private:
  const Source& m_source;
  std::optional<Grid> m_grid;
  std::optional<EvenBeats> m_even;
  std::vector<Seconds> m_ownBeats; ///< where they are not as heard
  std::vector<Onset> m_ownOnsets;
  std::span<const Seconds> m_beats;
  std::span<const Onset> m_onsets;
  std::size_t m_downbeat = 0;
};

} // namespace tuvvo
