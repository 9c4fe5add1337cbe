// Quantities that must not be mixed up. Each is a type of its own; going from one to another is a
// named function that asks for whatever it needs (a rate, a tempo). All are plain values and safe
// on the audio thread.
#pragma once

#include "base/convert.h"

#include <cmath>
#include <compare>
#include <concepts>
#include <cstdint>

namespace tuvvo {

/// One number with a meaning. Adds to and compares with its own kind, scales by plain numbers.
template <class Tag, class Rep> struct Quantity {
  Rep value{};

  constexpr Quantity() = default;
  constexpr explicit Quantity(Rep v) : value(v) {}
  constexpr auto operator<=>(const Quantity&) const = default;
  constexpr Quantity operator+(Quantity o) const { return Quantity(Rep(value + o.value)); }
  constexpr Quantity operator-(Quantity o) const { return Quantity(Rep(value - o.value)); }
  constexpr Quantity operator-() const { return Quantity(Rep(-value)); }
  constexpr Quantity operator*(Rep k) const { return Quantity(Rep(value * k)); }
  /// What is left over after whole ones of the other.
  constexpr Quantity operator%(Quantity o) const requires std::integral<Rep> {
    return Quantity(Rep(value % o.value));
  }
  constexpr Quantity& operator+=(Quantity o) { return *this = *this + o; }
  constexpr Quantity& operator-=(Quantity o) { return *this = *this - o; }
};

using Frames = Quantity<struct FramesTag, std::int64_t>; ///< places in one sound, at its own rate
/// Places in what the engine plays, and stretches of it, at the engine's rate.
using EngineFrames = Quantity<struct EngineFramesTag, std::int64_t>;
/// Of the steady clock.
using Nanoseconds = Quantity<struct NanosecondsTag, std::int64_t>;
using Beats = Quantity<struct BeatsTag, std::int64_t>; ///< musical time in ticks, see kTicksPerBeat
using Seconds = Quantity<struct SecondsTag, double>;
using Milliseconds = Quantity<struct MillisecondsTag, double>;
using Semitones = Quantity<struct SemitonesTag, double>; ///< equal temperament, 12 to the octave
using Cents = Quantity<struct CentsTag, double>;         ///< hundredths of a semitone
using Decibels = Quantity<struct DecibelsTag, double>;   ///< of amplitude: 20 log10
using Hertz = Quantity<struct HertzTag, double>;         ///< frequencies and sample rates
using Bpm = Quantity<struct BpmTag, double>;             ///< beats a minute

/// Ticks in a beat: 2^6 · 3^2 · 5 · 7, so that 64ths, triplets, fives and sevens are all exact.
inline constexpr std::int64_t kTicksPerBeat = 20160;

/// A place brought into what goes round, from 0 on.
constexpr std::int64_t wrapped(std::int64_t at, std::int64_t length) {
  const std::int64_t inside = at % length;
  return inside < 0 ? inside + length : inside;
}

constexpr Beats wholeBeats(std::int64_t n) { return Beats(n * kTicksPerBeat); }
constexpr double inBeats(Beats b) { return double(b.value) / double(kTicksPerBeat); }

constexpr Seconds toSeconds(Nanoseconds ns) { return Seconds(double(ns.value) * 1e-9); }
constexpr Seconds toSeconds(Milliseconds ms) { return Seconds(ms.value / 1000.0); }
constexpr Milliseconds toMilliseconds(Seconds s) { return Milliseconds(s.value * 1000.0); }
constexpr Seconds toSeconds(Frames f, Hertz rate) { return Seconds(double(f.value) / rate.value); }
/// The nearest frame.
inline Frames toFrames(Seconds s, Hertz rate) {
  return Frames(toNearest<std::int64_t>(s.value * rate.value));
}
inline Frames toFrames(Milliseconds ms, Hertz rate) { return toFrames(toSeconds(ms), rate); }

/// n semitones are a ratio of 2^(n/12) (equal temperament).
inline double ratioOf(Semitones st) { return std::exp2(st.value / 12.0); }
inline double ratioOf(Cents c) { return std::exp2(c.value / 1200.0); }
inline Semitones semitonesOf(double ratio) { return Semitones(12.0 * std::log2(ratio)); }
constexpr Semitones toSemitones(Cents c) { return Semitones(c.value / 100.0); }

inline double gainOf(Decibels d) { return std::pow(10.0, d.value / 20.0); }
/// −infinity for silence.
inline Decibels decibelsOf(double gain) { return Decibels(20.0 * std::log10(gain)); }

/// A velocity squared is an amplitude: half the velocity is 12 dB less (common practice, no
/// source).
[[nodiscard]] inline float gainOfVelocity(double velocity) { return float(velocity * velocity); }
[[nodiscard]] inline double velocityOfLevel(Decibels level) { return std::sqrt(gainOf(level)); }

/// Note n (MIDI) = 440 · 2^((n − 69) / 12) Hz, A4 = 440 Hz (ISO 16).
inline Hertz frequencyOf(double midiNote) {
  return Hertz(440.0 * std::exp2((midiNote - 69.0) / 12.0));
}
inline double midiNoteOf(Hertz f) { return 69.0 + 12.0 * std::log2(f.value / 440.0); }

} // namespace tuvvo
