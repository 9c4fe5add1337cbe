// Single sounds out of what comes in: each from just before its attack until it has died away.
#pragma once

#include "audio/sound.h"

#include <deque>
#include <functional>

namespace tuvvo {

struct HitSettings {
  Decibels over{9};         ///< how far over the noise floor a hit has to rise; 4 to 40
  Decibels least{-60};      ///< and over full scale, RMS of 3 ms; −80 to 0
  Milliseconds preRoll{5};  ///< kept before the attack; 0 to 100
  Milliseconds silence{80}; ///< so long near the floor, and it is over; 20 to 2000
  Milliseconds gap{60};     ///< strokes nearer than this are one hit (a flam, a clap); 20 to 1000
  Seconds longest{10};      ///< it is cut there; 0.1 to 60
  bool operator==(const HitSettings&) const = default;
};

struct CaughtHit {
  Channels channels;       ///< two
  std::int64_t start = 0;  ///< frame of what was fed
  std::int64_t attack = 0; ///< frames from its start to where it rises out of what was before
};

/// Watches the energy of 3 ms every millisecond, and that of the differences from frame to frame. A
/// hit begins where the energy rises `over` the floor, and again, `gap` or more after the last one,
/// where it rises 7 dB over the loudest of the 50 ms before, or the differences do by 9 dB (a hat
/// into a ringing drum). It ends where it has stayed within 4 dB of the floor, or 12 dB
/// under `least`. The floor is the
/// fifth part of the energies of the last three quiet seconds (the first fifth of a second is
/// only listened to). The figures are ours; tst_catch renders what they are measured on.
///
/// For one thread, not the audio thread. The same samples give the same hits however they are fed.
class HitCatcher {
public:
  HitCatcher(const HitSettings& settings, Hertz rate);
  using Take = std::function<void(CaughtHit)>;
  void feed(const float* left, const float* right, int frames, const Take& take);
  /// Nothing more comes: a hit that still sounds is handed out.
  void finish(const Take& take);

  [[nodiscard]] bool inHit() const { return m_start >= 0; }
  /// dBFS, RMS; −infinity until it is known.
  [[nodiscard]] Decibels floor() const;

private:
  void step(const Take& take);
  struct Before {
    double energy = 0, bright = 0;
  };
  struct Begun {
    std::int64_t start = 0, attack = 0; ///< frames
  };
  [[nodiscard]] Before before() const;
  [[nodiscard]] Begun rising(double energy, double before) const;
  void begin(const Begun& begun);
  void end(std::int64_t at, const Take& take);
  [[nodiscard]] std::int64_t rise(std::int64_t step, double from) const;
  void learnFloor(double energy);
  [[nodiscard]] double energyAt(std::int64_t step) const;
  [[nodiscard]] double brightAt(std::int64_t step) const;
  void forget();

  HitSettings m_settings;
  int m_hop; ///< frames of a step: 1 ms
  std::deque<float> m_left, m_right;
  std::int64_t m_first = 0;       ///< frame of m_left's first
  std::int64_t m_steps = 0;       ///< finished
  std::deque<double> m_energy;    ///< mean square of 3 ms ending with each of the last steps
  std::int64_t m_firstEnergy = 0; ///< step of m_energy's first
  std::deque<double> m_bright;    ///< the same of the differences from frame to frame
  double m_hopEnergy[3]{}, m_hopBright[3]{};
  double m_sum = 0, m_brightSum = 0, m_lastLeft = 0, m_lastRight = 0;
  int m_inHop = 0;
  std::deque<float> m_quiet; ///< energies that the floor is taken from, every 10 ms
  double m_floor = -1;       ///< mean square; below 0: not known yet
  std::int64_t m_start = -1, m_trigger = 0, m_attack = 0; ///< frame; step; frame
  std::int64_t m_lastLoud = 0;                            ///< step
};

} // namespace tuvvo
