// What a key of the deck is: the sounds it plays, how they sound, and where its hits are written.
#pragma once

#include "base/units.h"
#include "model/bus.h"
#include "model/extra.h"
#include "model/fit_method.h"
#include "model/treatment.h"

#include <optional>
#include <string>
#include <vector>

namespace tuvvo {

enum class Row { Cuts, Air, Body, Floor };
inline constexpr int kColumns = 8;
inline constexpr int kRowCount = 4;

/// The lineage of what a key plays: a source, or one cut of it.
struct SoundRef {
  Id source = 0;
  Id cut = 0; ///< 0 for the whole source
  bool operator==(const SoundRef&) const = default;
};

/// Rises, holds, falls to its sustain, and falls away once let go. Each slope bends by its curve:
/// 0 straight; 1 quick at first, as a string or a drum dies away: half of the way takes a tenth of
/// the time, and nothing but a thousandth would be left without its end; −1 slow at first.
struct Envelope {
  Milliseconds attack{0};   ///< 0 to 5000
  Milliseconds hold{0};     ///< at full level before it decays; 0 to 10000
  Milliseconds decay{0};    ///< to the sustain level; 0 to 10000
  double sustain = 1;       ///< 0 to 1
  Milliseconds release{40}; ///< 0 to 10000
  double attackCurve = 0, decayCurve = 1, releaseCurve = 1; ///< −1 to 1
  bool operator==(const Envelope&) const = default;
};

/// An envelope over the filters: how far each corner is moved while it is at its top.
struct FilterEnvelope {
  double lowMoves = 0, highMoves = 0; ///< octaves, −8 to 8; both 0: nothing moves
  Envelope shape{Milliseconds(0), Milliseconds(0), Milliseconds(250), 0, Milliseconds(120)};
  bool operator==(const FilterEnvelope&) const = default;
};

/// What a key goes round in while it is held, in shares of its sound. It sounds while held or for a
/// hit's length, whatever `gate` says; a hit without a length sounds once through.
struct SliceLoop {
  bool on = false;
  double from = 0.25, to = 1; ///< 0 to 1, at least a hundredth apart
  Milliseconds crossfade{10}; ///< 1 to 500, at most half of what goes round
  bool operator==(const SliceLoop&) const = default;
};

/// How one of a key's layers sounds beside the others.
struct LayerPlay {
  Milliseconds delay{0};         ///< 0 to 500
  Decibels level{0};             ///< −60 to +12, on top of the key's
  Semitones tune{0};             ///< −48 to 48, on top of the key's
  double upTo = 1;               ///< the hardest velocity it answers to, by velocity; above 0 to 1
  Hertz highPass{0}, lowPass{0}; ///< its own corners, before the key's; as the key's
  Milliseconds attack{0};        ///< its own way in, under the key's envelope; 0 to 500
  Milliseconds decay{0};         ///< after which a thousandth is left of it; 0: none; to 5000
  bool inverted = false;         ///< polarity
  bool operator==(const LayerPlay&) const = default;
};

struct Layer {
  SoundRef sound;
  LayerPlay play;
  Extra extra{};
  bool operator==(const Layer&) const = default;
};
inline constexpr int kMostLayers = 8; ///< a key's own sound among them

/// Which layers a hit sounds: all; the softest-reaching that reaches its velocity; one after the
/// other; or any but the last one.
enum class LayerMode { Together, ByVelocity, InTurn, AtRandom };

/// Muted, or alone with whatever else is solo.
struct MuteSolo {
  bool muted = false, solo = false;
  bool operator==(const MuteSolo&) const = default;
};

struct Key {
  Id id = 0;
  Row row = Row::Body;
  int column = 0;   ///< 0 to 7
  int page = 0;     ///< Cuts have pages; the other rows have one
  std::string name; ///< as typed; empty: made from what it plays (nameOf)
  SoundRef sound;   ///< its own, the first layer
  LayerPlay own;
  std::vector<Layer> layers; ///< the others
  LayerMode mode = LayerMode::Together;
  Milliseconds trimStart{0}, trimEnd{0}; ///< inside what it plays, from either end; 0 to kMostTrim
  std::optional<FitMethod> method;       ///< a method of its own; nothing: its source's
  std::vector<Treatment> treatments;     ///< in this order, after the shape
  SliceLoop loop;
  Hertz highPass{0}, lowPass{0}; ///< corners, 12 dB an octave, 20 to 20 000; 0 for none
  Decibels resonance{0};         ///< how far both corners stand up; 0 to 24
  FilterEnvelope filterEnvelope;
  Decibels level{0}; ///< −60 to +12
  double pan = 0;    ///< −1 left to 1 right
  Semitones tune{0}; ///< repitch, −48 to 48
  Cents fine{0};     ///< −100 to 100
  Envelope envelope;
  bool gate = false;     ///< sounds while held, or for a hit's length; else to its own end
  int choke = 0;         ///< 0 none; keys with the same number (1 to 8) cut each other off
  bool mono = false;     ///< a new hit takes the place of the one that sounds
  Milliseconds glide{0}; ///< mono: time from the pitch that sounds to the new one; 0 to 2000
  bool legato = true;    ///< mono and held: a hit over a held one bends it and does not strike anew
  MuteSolo muteSolo;
  Id part = 0; ///< whose ribbon its hits are written on
  Extra extra{};
  bool operator==(const Key&) const = default;
};

inline constexpr Milliseconds kMostTrim{3'600'000};

struct Part {
  Id id = 0;
  std::string name;
  Row role = Row::Body;
  BusSettings bus;
  bool muted = false, solo = false;
  double quantiseStrength = 0; ///< how far a take is pulled to the grid as it is played in; 0 to 1
  int perBeat = 4;             ///< lines of that grid in a beat; 1 to 32
  Duck duck;
  Extra extra{};
  bool operator==(const Part&) const = default;
};

} // namespace tuvvo
