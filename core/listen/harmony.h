// What sounds, by semitone, over time: the material of key, chords and harmonic change.
#pragma once

#include "base/jobs.h"
#include "base/units.h"
#include "listen/spectrum.h"

#include <array>

namespace tuvvo {

/// Whitened log-frequency spectra of the tones, three bins a semitone, on the sound's own tuning.
struct Harmony {
  static constexpr double kRate = 11025.0 / 1024.0; ///< frames a second
  static constexpr int kLowNote = 28, kNotes = 56;  ///< MIDI notes of the templates: 28 to 83
  static constexpr int kPerSemitone = 3, kBins = 80 * kPerSemitone; ///< MIDI 28 to 108
  Matrix bins;                                                      ///< frames × kBins
  std::vector<double> sums; ///< (frames + 1) × kSemitones: running sums of the bins by semitone
  static constexpr int kSemitones = 80, kBassSemitones = 24;
  Cents tuning{0};      ///< off A4 = 440 Hz, −50 to 50
  double agreement = 0; ///< of the peaks on that tuning, 0 to 1
  /// Every second frame: cents off the tuning, and how much of it was heard; 0 for nothing.
  struct Speed {
    float cents = 0, weight = 0;
  };
  std::vector<Speed> speeds;
  double tonal = 0; ///< share of the energy that stands in time, 0 to 1
  /// Running sums of the power below 4.3 kHz, frames + 1: all of it, what stands in time, what lies
  /// below 150 Hz, what lies between 300 and 3400 Hz (the band of a telephone, ITU-T G.712).
  struct Power {
    double all = 0, tones = 0, lows = 0, voices = 0;
  };
  std::vector<Power> power;
  [[nodiscard]] Power powerBetween(double fromS, double toS) const;

  /// The mean of the frames between two times. Less than a frame apart: the nearest frame.
  [[nodiscard]] std::vector<float> between(double fromS, double toS) const;

  /// How unlike what sounds after a place is what sounded before it: 1 less the cosine of both
  /// means, 0 to 1. Quick, whatever the reach.
  struct Change {
    double all = 0, bass = 0; ///< of every semitone; of MIDI 28 to 51
  };
  [[nodiscard]] Change changeAt(double fromS, double atS, double toS) const;
};

/// Tuning by the circular mean of spectral peaks' distances from equal temperament; tones kept by
/// median filtering (Fitzgerald 2010), soft mask; whitening by running mean and deviation.
/// @param mono  at 22 050 Hz
[[nodiscard]] Harmony analyseHarmony(std::span<const float> mono, JobContext& job);

/// How strongly each of Harmony::kNotes notes sounds in a stretch.
using Notes = std::array<float, Harmony::kNotes>;

/// Notes by non-negative least squares on harmonic templates (after Mauch & Dixon 2010),
/// multiplicative updates (Lee & Seung 2001).
class NoteFinder {
public:
  NoteFinder();
  /// @param bins  Harmony::kBins values, not negative
  /// @returns an activation for each of Harmony::kNotes notes
  [[nodiscard]] Notes find(std::span<const float> bins) const;

private:
  static constexpr int kBelow = Harmony::kPerSemitone; ///< bins of the template under the note
  static constexpr int kReachBins = kBelow + 45 * Harmony::kPerSemitone; ///< in all: to harmonic 12
  static constexpr int kEnd = (kBelow + Harmony::kBins) / Harmony::kPerSemitone; ///< of the bins
  /// Where the template is not zero: which third of which semitone, from its own beginning on.
  struct Part {
    std::size_t third, semitone;
    float value;
  };
  /// Bins by thirds of a semitone, with room for what reaches out of them.
  using Spread = std::array<std::array<float, Harmony::kNotes + kReachBins / Harmony::kPerSemitone>,
                            Harmony::kPerSemitone>;
  std::vector<Part> m_shape;
};

} // namespace tuvvo
