// One sounding hit.
#pragma once

#include "audio/sinc_bank.h"
#include "play/score.h"

namespace tuvvo {

/// Plays one patch from its start to its end at any speed, under its envelope. Real time: no
/// allocation, lock or wait. What it gives does not depend on how its frames are split into blocks.
class Voice {
public:
  struct Start {
    const Patch* patch = nullptr; ///< must outlive the voice's sounding
    float gain = 1;               ///< from velocity and strip
    double tune = 1;
    std::int64_t hold = 0; ///< frames until let go; 0 never
    std::int64_t skip = 0; ///< frames that have gone by already
    bool live = false;     ///< struck by hand, not by the score
    int owner = 0;         ///< the caller's mark: whose patch this is
  };

  void start(const Start& start, const SincBank& bank);
  /// Adds frames to both outputs. @returns the loudest sample it added
  float render(float* left, float* right, int frames);
  /// The key was let go: a gated voice goes into its release.
  void letGo();
  /// Fades out over 5 ms, whatever it was doing.
  void cutOff();
  /// Gone at once, in silence.
  void drop() { m_patch = nullptr; }

  [[nodiscard]] bool sounding() const { return m_patch != nullptr; }
  [[nodiscard]] bool ending() const { return m_cut > 0; }
  [[nodiscard]] const Patch* patch() const { return m_patch; }
  [[nodiscard]] bool live() const { return m_live; }
  [[nodiscard]] int owner() const { return m_owner; }

private:
  enum class Stage { Attack, Hold, Decay, Sustain, Release, Faded };
  static constexpr int kCutFrames = 240;
  static constexpr int kRun = 64;

  float renderRun(float* left, float* right, int frames);
  int levels(float* level, int frames);
  int stageLevels(float* level, int frames);
  void fadeEdges(float* level, int frames) const;
  int cutLevels(float* level, int frames);
  void samples(int frames, float* left, float* right) const;
  [[nodiscard]] int untilRound(int frames);
  void filter(float* left, float* right, int frames);
  void sampleAt(double place, float& left, float& right) const;
  /// Place in the sound of the nth frame since the start: reckoned anew, so that it does not
  /// depend on how the frames were split.
  [[nodiscard]] double placeOf(std::int64_t n) const { return m_from + m_step * double(n); }

  const Patch* m_patch = nullptr;
  const SincBank::Kernel* m_kernel = nullptr;
  double m_from = 0, m_step = 1;
  std::int64_t m_played = 0, m_length = 0; ///< frames of output
  float m_gain = 1, m_level = 0, m_above = 0;
  Stage m_stage = Stage::Attack;
  int m_attacked = 0, m_heldFor = 0, m_cut = 0, m_owner = 0;
  std::array<double, 8> m_memory{}; ///< of two sections on two channels
  std::int64_t m_hold = 0;
  bool m_live = false;
};

} // namespace tuvvo
