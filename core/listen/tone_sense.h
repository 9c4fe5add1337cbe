// What chords and what key a listener would name: learnt from music whose chords are known.
#pragma once

#include "listen/chord_name.h"
#include "listen/harmony.h"

namespace tuvvo {

/// Notes every kGrainS seconds over a whole sound: what tones are sensed from.
struct NoteGrains {
  static constexpr int kFrames = 2; ///< of Harmony, in a grain
  static constexpr double kGrainS = kFrames / Harmony::kRate;
  std::vector<Notes> grains;
  /// The mean of what lies between two times; the nearest grain where they are closer than one.
  [[nodiscard]] Notes between(double fromS, double toS) const;
};
[[nodiscard]] NoteGrains grainsOf(const Harmony& harmony);

/// Likelihoods by chord: root (0 = C) times the first kHeardKinds of kChordKinds, then none.
inline constexpr std::size_t kChordNames = 12 * kHeardKinds + 1;
/// Likelihoods by key: majors by tonic, minors by tonic, then none.
inline constexpr std::size_t kKeyNames = 25;

struct ToneSense {
  std::vector<std::array<float, kChordNames>> chords; ///< of each stretch; they add up to 1
  std::array<float, kKeyNames> key{};                 ///< of the whole; they add up to 1
};

/// Each root in turn is taken for the tonic: the notes of every stretch, folded from there, pass
/// through gated recurrent units in both directions, which say how well each kind of chord on that
/// root fits the stretch and each mode on that tonic the whole. What is learnt about one root is so
/// known of all. Published profiles of keys speak beside it: they know no style better than
/// another. Learnt by bench/listening/fit_tones.py.
/// @param notes     of stretches one after the other, mostly beats
/// @param downbeat  which of them begin a bar
[[nodiscard]] ToneSense senseTones(std::span<const Notes> notes, const std::vector<bool>& downbeat);

} // namespace tuvvo
