// One sounding hit.
#pragma once

#include "audio/prefetch.h"
#include "audio/sinc_bank.h"
#include "play/score.h"

namespace tuvvo {

/// Plays one patch from its start to its end at any speed, under its envelope and through its
/// filters. Real time: no allocation, lock or wait. What it gives does not depend on how its frames
/// are split into blocks.
class Voice {
public:
  struct Start {
    const Patch* patch = nullptr; ///< must outlive the voice's sounding
    float gain = 1;               ///< from velocity
    double tune = 1;
    double tuneFrom = 0;     ///< where it glides from; 0: it begins at its tune
    EngineFrames glide{};    ///< how long that takes
    double from = 0;         ///< share of the sound where it begins
    float pan = 0;           ///< on top of the patch's
    double bright = 0;       ///< octaves by which the low-pass moves
    EngineFrames hold{};     ///< from now until it is let go; 0 never
    EngineFrames wait{};     ///< of silence before it begins
    EngineFrames skip{};     ///< that have gone by already
    std::uint32_t touch = 0; ///< what struck it: a key held by hand; 0: the score
    int owner = 0;           ///< the caller's mark: whose patch this is
    const PrefetchedSound* prefetched = nullptr; ///< of a long sound: what may be read
  };

  void start(const Start& start, const SincBank& bank);
  /// Adds frames to both outputs. @returns the loudest sample it added
  float render(float* left, float* right, int frames);
  /// Goes on for so many frames that nobody hears.
  void pass(int frames);
  /// Its key's level and pan are others now, or it is muted: they are moved in 10 ms.
  void aim(const Patch& like);
  /// The key was let go: a gated voice goes into its release.
  void letGo();
  /// Slides to another tune, and is held anew.
  void bend(double tune, EngineFrames glide, EngineFrames hold, std::uint32_t touch);
  /// Fades out over 5 ms, whatever it was doing.
  void cutOff();
  /// Gone at once, in silence.
  void drop() { m_patch = nullptr; }

  [[nodiscard]] bool sounding() const { return m_patch != nullptr; }
  [[nodiscard]] bool ending() const { return m_cut > 0; }
  [[nodiscard]] bool released() const { return m_released; }
  [[nodiscard]] const Patch* patch() const { return m_patch; }
  [[nodiscard]] std::uint32_t touch() const { return m_touch; }
  [[nodiscard]] bool live() const { return m_touch != 0; }
  [[nodiscard]] int owner() const { return m_owner; }
  /// Nothing of it is heard, and nothing will be until it is aimed anew.
  [[nodiscard]] bool silent() const { return m_aim == 0 && m_left == 0 && m_right == 0; }
  [[nodiscard]] const PrefetchedSound* prefetched() const { return m_prefetched; }
  /// The frame of its sound that comes next, and how fast it goes.
  [[nodiscard]] double place() const { return placeIn(0); }
  [[nodiscard]] double step() const { return m_step; }
  /// The tune that sounds now, on the way of a glide.
  [[nodiscard]] double tune() const { return m_patch ? m_step / m_patch->step : 1; }

private:
  static constexpr int kCutFrames = 240;
  static constexpr int kRun = 64;
  static constexpr int kGlideStep = 16; ///< frames of one speed on the way

  static constexpr int kAimFrames = 480;

  float renderRun(float* left, float* right, int frames);
  void addTo(float* left, float* right, const float* level, int frames, float& loudest);
  void fadeEdges(float* level, int frames) const;
  int cutLevels(float* level, int frames);
  void shapeLayer(float* level, int frames);
  [[nodiscard]] bool canRead(int frames);
  void samples(int frames, float* left, float* right) const;
  [[nodiscard]] int untilRound(int frames);
  void sampleAt(double place, float& left, float& right) const;
  void setSpeed(double step);
  void glideTo(double step, EngineFrames glide);
  void glideOn();
  /// Place in the sound (frames of it) of the nth frame since the start: reckoned anew from where
  /// the speed last changed, so that it does not depend on how the frames were split.
  [[nodiscard]] double placeOf(EngineFrames n) const {
    return m_from + m_step * double((n - m_since).value);
  }
  /// The same, so many frames from now.
  [[nodiscard]] double placeIn(int frames) const {
    return placeOf(m_played + EngineFrames(frames));
  }

  const Patch* m_patch = nullptr;
  const SincBank* m_bank = nullptr;
  const PrefetchedSound* m_prefetched = nullptr;
  bool m_wasAway = false; ///< its sound was not there when it was to be read
  const SincBank::Kernel* m_kernel = nullptr;
  double m_begin = 0;            ///< place where it began
  double m_from = 0, m_step = 1; ///< place and speed since frame m_since
  EngineFrames m_since;
  double m_target = 1, m_ratio = 1; ///< of the glide: where to, and a step of it
  int m_glideLeft = 0, m_glideUntil = 0;
  EngineFrames m_played, m_length;
  EngineFrames m_wait, m_hold;
  float m_left = 1, m_right = 1;     ///< gains
  float m_toLeft = 1, m_toRight = 1; ///< where they are on their way to
  int m_aim = 0;                     ///< frames until they are there
  float m_gain = 1, m_pan = 0;       ///< of what struck it
  EnvelopeRun m_envelope;
  VoiceFilter m_filter;
  EnvelopeRun m_layerEnvelope; ///< the layer's own, where the patch is shaped
  VoiceFilter m_layerFilter;
  int m_cut = 0, m_owner = 0;
  std::uint32_t m_touch = 0;
  bool m_released = false, m_firstRound = true;
};

} // namespace tuvvo
