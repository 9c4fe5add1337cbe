// Inputs without hardware: a player on a line, a microphone, a cable from the output.
#pragma once

#include "audio/sinc_bank.h"
#include "audio/sound.h"
#include "base/spsc_queue.h"
#include "devices/sound_device.h"

#include <atomic>
#include <vector>

namespace tuvvo {

/// How a simulated player sounds.
struct LineSettings {
  double speed = 1;    ///< of what it plays; 0.25 to 4, pitch goes with it
  Decibels level{-6};  ///< −60 to 12
  Decibels hum{-100};  ///< RMS, dBFS: mains and two harmonics; −100 is none, to −20
  Decibels hiss{-100}; ///< RMS, dBFS: white noise; −100 is none, to −20
  Hertz mains{50};     ///< 50 or 60
  bool operator==(const LineSettings&) const = default;
};

/// Gives blocks at 48 kHz beside whatever device plays.
class SimulatedInput {
public:
  enum class Kind { Line, Microphone, Cable };

  explicit SimulatedInput(Kind kind);
  ~SimulatedInput();
  SimulatedInput(const SimulatedInput&) = delete;
  SimulatedInput& operator=(const SimulatedInput&) = delete;
  [[nodiscard]] Kind kind() const { return m_kind; }

  // ---- interface thread ----
  /// What the player or the microphone has before it; null is silence. It starts from the front.
  void load(SoundPtr sound);
  void set(const LineSettings& settings);
  [[nodiscard]] const LineSettings& settings() const { return m_settings; }
  void start();
  void stop(); ///< hum and hiss go on
  [[nodiscard]] bool runs() const { return m_runs.load(std::memory_order_relaxed); }
  /// How far it has come.
  [[nodiscard]] Seconds place() const { return Seconds(m_place.load(std::memory_order_relaxed)); }

  // ---- the device's thread: no allocation, lock or wait ----
  /// @param frames  at most 8192
  void render(float* left, float* right, int frames);
  /// What went out, for the cable; called after every render() with as many frames. It comes in
  /// one block and kCable frames later.
  void wentOut(const float* left, const float* right, int frames);
  static constexpr int kCable = 64;

private:
  /// Something to play, with silence around it.
  struct Reel {
    Samples left, right;
    double step = 1; ///< frames of it for one of the engine, at its own speed
    std::int64_t frames = 0;
    Hertz rate{48000};
  };
  static constexpr int kEdge = 1024; ///< frames of silence at either end
  struct Tone {
    double level = 0, hum = 0, hiss = 0, mains = 50, speed = 1;
  };
  void takeNew();
  void playReel(float* left, float* right, int frames);
  void addNoise(float* left, float* right, int frames);

  const Kind m_kind;
  const SincBank m_bank{SincBank::Make::Now};
  LineSettings m_settings;
  std::atomic<Reel*> m_incoming{nullptr};
  SpscQueue<Reel*, 64> m_done; ///< to be freed by the interface thread
  std::atomic<double> m_level{0.5}, m_hum{0}, m_hiss{0}, m_mains{50}, m_speed{1};
  std::atomic<bool> m_runs{false};
  std::atomic<double> m_place{0};

  // The device's thread's own.
  Reel* m_reel = nullptr;
  double m_at = 0, m_phase = 0;
  std::uint64_t m_noise = 0x9e3779b97f4a7c15u;
  std::vector<float> m_cableLeft, m_cableRight;
  std::uint64_t m_cableWritten = 0;
};

} // namespace tuvvo
