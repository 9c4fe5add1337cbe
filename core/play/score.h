// What the engine plays: an immutable score, compiled from a project.
#pragma once

#include "audio/sound.h"
#include "base/tempo_map.h"
#include "mix/graph_plan.h"
#include "mix/pan.h"
#include "model/project.h"
#include "play/voice_filter.h"
#include "shape/bake_cache.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

/// The engine's rate. Devices of other rates are bridged outside it.
inline constexpr Hertz kEngineRate{48000};

/// One layer of a key, resolved to samples and numbers. The layers of a key stand together.
struct Patch {
  Id key = 0;
  int bus = 0;   ///< of the score's graph
  int layer = 0; ///< which of its key's
  SoundPtr sound;
  Frames start, end;              ///< of the sound
  double step = 1;                ///< frames of the sound for one frame of the engine
  double fadeIn = 0, fadeOut = 0; ///< frames of the sound
  float gain = 1, pan = 0;        ///< its own level and place; −1 left to 1 right
  EnvelopeShape envelope;
  PatchFilters filters;
  bool gate = false;
  bool silent = false;   ///< muted, or another is solo; its bus may be muted besides
  Bpm tempo{90};         ///< what was baked goes by it
  bool reversed = false; ///< for hits that are played backwards
  int treated = 0;       ///< for hits with treatments of their own: which; 0: for others
  int choke = 0;
  double lead = 0; ///< engine frames from its start to what a hit stands for, at its own speed
  Frames loopStart, loopEnd; ///< of the sound; equal: it does not go round

  int layers = 1; ///< of the key, from this patch on; said by the first of them
  LayerMode mode = LayerMode::Together;
  EngineFrames delay{};
  PatchFilters layerFilters; ///< its own, before the key's
  bool shaped = false;       ///< it has an envelope of its own, under the key's
  EnvelopeShape layerShape;
  float loudest = 1;       ///< the largest gain of a velocity that it answers to
  std::uint32_t turns = 0; ///< hits of the key in the score; said by the first
  bool mono = false, legato = false;
  EngineFrames glide{};
};

struct ScoreEvent {
  EngineFrames frame{};
  std::int32_t patch = 0; ///< the first layer of a key
  float gain = 1;         ///< from velocity
  double tune = 1;        ///< ratio on top of the patch's step
  EngineFrames hold{};    ///< until a gated key is let go; 0 never
  EngineFrames skip{};    ///< that have gone by where it begins before the start
  float from = 0;         ///< share of the sound where it begins
  float bright = 0;       ///< octaves by which the low-pass moves
  std::uint32_t turn = 0; ///< how many of the key's hits stand before it
  float pan = 0;          ///< on top of the key's
  EngineFrames glide{-1}; ///< into its tune; −1: as its key does
  float glideFrom = 1; ///< ratio on top of its tune where it begins, if nothing of its key sounds
  float chance = 1;    ///< of being struck at all
  std::uint8_t every = 1, which = 0;               ///< struck only when its round leaves this rest
  std::uint8_t treatedEvery = 1, treatedWhich = 0; ///< of two that stand for one hit, treated and
  bool treated = true;                             ///< not: in which rounds it is this one
  std::uint32_t dice = 0;                          ///< what its chance is thrown with
  std::int32_t round = 0;  ///< how often its lane came round before it in the score
  std::int32_t rounds = 1; ///< and in all of the score
  bool early = false;      ///< is shifted out before the loop's start and stands at its end;
                           ///< starting at zero sounds it at once
};

/// Whether an event is struck in a pass: by its condition, the same way every time it is asked.
/// Safe on the audio thread.
[[nodiscard]] bool isStruck(const ScoreEvent& event, std::int64_t pass);

/// A sound heard beside the music without being part of it: in phase with the bars that play.
struct Audition {
  SoundPtr sound; ///< at the engine's rate, from a downbeat on; null for none
  bool loops = false;
  bool fromStart = false; ///< begins at its first frame, wherever the beat is
  float gain = 1;
  std::uint32_t which = 0; ///< the same number: the same source, brought to another tempo
  Bpm tempo{90};           ///< of the beat it was brought to
};

/// How what comes in is heard while it is caught.
struct Monitor {
  bool on = false;
  float left = 1, right = 1; ///< level and pan of what it is heard through
  PatchFilters filters;      ///< standing still; without corners it is heard as it comes
  bool prints = false;       ///< what is caught is what is heard; else it stays dry
};

/// Heard through a key: its level with its part's, its pan and its two filters, standing still. As
/// it comes where there is no such key.
[[nodiscard]] Monitor monitorThrough(const Project& project, Id key);

/// From a bar line on, bars of one meter.
struct MeterSpan {
  Beats start;
  Meter meter;
};

struct Score {
  std::vector<Patch> patches;     ///< in the order of the project's keys and their layers; then
                                  ///< those of keys that are also struck in reverse, and of keys
                                  ///< that are struck at another tempo
  std::vector<ScoreEvent> events; ///< in rising order
  GraphPlan graph;                ///< where they are played into
  EngineFrames length{};          ///< its end, or that of what goes round
  EngineFrames loopStart{};       ///< below length: where it goes round from
  bool loops = false;
  TempoMap tempo{Bpm(90)};
  std::vector<MeterSpan> meters{MeterSpan{}}; ///< in rising order, the first at 0; never empty
  Audition audition;
  Monitor monitor;

  // All of these are safe on the audio thread.
  /// The place in ticks; nothing is rounded.
  [[nodiscard]] double ticksAt(EngineFrames at) const {
    return tempo.ticksAt(double(at.value), kEngineRate);
  }
  [[nodiscard]] double beatsAt(EngineFrames at) const {
    return ticksAt(at) / double(kTicksPerBeat);
  }
  /// How long it takes to come round.
  [[nodiscard]] EngineFrames round() const { return length - loopStart; }
  /// Where the music stands once it has played so many frames from its start on: counting on over
  /// the rounds, each as long as round().
  [[nodiscard]] EngineFrames placeOf(EngineFrames counted) const {
    if (!loops || counted < length || round().value <= 0) return counted;
    return loopStart + (counted - loopStart) % round();
  }
  /// Which round that is; 0 for the first.
  [[nodiscard]] std::int64_t roundOf(EngineFrames counted) const {
    if (!loops || counted < length || round().value <= 0) return 0;
    return (counted - loopStart).value / round().value;
  }
  /// The nearest frame.
  [[nodiscard]] EngineFrames frameAt(double beats) const {
    return EngineFrames(
        toNearest<std::int64_t>(tempo.framesAt(beats * double(kTicksPerBeat), kEngineRate)));
  }
  [[nodiscard]] EngineFrames frameAt(Beats at) const {
    return EngineFrames(tempo.frameAt(at, kEngineRate).value);
  }
  /// Frames of a beat at the tempo of a place.
  [[nodiscard]] double framesPerBeatAt(EngineFrames at) const {
    return tempo.framesPerBeat(kEngineRate, ticksAt(at));
  }
  /// The span a place lies in; the first one before the start.
  [[nodiscard]] const MeterSpan& spanAt(double ticks) const {
    std::size_t i = meters.size() - 1;
    while (i > 0 && double(meters[i].start.value) > ticks) --i;
    return meters[i];
  }
  /// The bar line at or before a frame; those before the start are as far apart as the first ones.
  [[nodiscard]] Beats barLineAt(EngineFrames at) const;
  /// The bar line that comes so many bars after one.
  [[nodiscard]] Beats barLineAfter(Beats line, int bars) const;
  /// The first of a key's patches; −1 when there is no such key.
  [[nodiscard]] int patchOf(Id key) const {
    for (std::size_t i = 0; i < patches.size(); ++i)
      if (patches[i].key == key) return int(i);
    return -1;
  }
  /// The same for the tempo of a frame: the nearest that the score has.
  [[nodiscard]] int patchAt(Id key, EngineFrames at) const;
};
using ScorePtr = std::shared_ptr<const Score>;

/// Which layers of a key a hit sounds: as places in `patches`. Real time: no allocation, lock or
/// wait. The same turn gives the same layers; at random, no layer comes twice in a row.
/// @param turn  how many hits of the key came before
/// @returns how many of `chosen` are filled; at least 1
int layersOf(const Score& score, const ScoreEvent& event, std::uint32_t turn,
             std::array<int, kMostLayers>& chosen);

/// A stretch that goes round.
struct LoopSpan {
  Beats from, until; ///< from the start of the pattern or song; what lies outside of it is left out
  bool operator==(const LoopSpan&) const = default;
};

struct CompileOptions {
  Id onlyPart = 0;              ///< not 0: every other part is silent (stems)
  std::optional<LoopSpan> loop; ///< only this goes round, of a pattern or of the song
  Audition audition;            ///< played besides the keys
  Monitor monitor;              ///< what comes in
  /// Asked once for every key that is not played straight from its source. Nothing where it is not
  /// there yet: the key is then played from its source, at its pitch. Empty: nothing is baked.
  std::function<Baked(const BakeOrder&)> baked;
};

/// What the keys of a project need baked, each once, in the order of the keys.
[[nodiscard]] std::vector<BakeOrder> bakesOf(const Project& project);

/// What one key needs baked; nothing for a key that is played straight from its source.
[[nodiscard]] std::optional<BakeOrder> bakeOf(const Project& project, const Key& key);

/// The whole song. Not for the audio thread; quick enough for every move of a slide.
[[nodiscard]] Score compileSong(const Project& project, const CompileOptions& options = {});
/// One pattern, looped.
[[nodiscard]] Score compilePattern(const Project& project, Id pattern,
                                   const CompileOptions& options = {});

} // namespace tuvvo
