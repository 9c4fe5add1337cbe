// A controller without hardware: a built-in player, or a list of what to play.
#pragma once

#include "devices/midi_port.h"

#include <atomic>
#include <condition_variable>
#include <mutex>
#include <thread>

namespace tuvvo {

/// Plays messages at their times on a thread of its own, as a controller would. Its built-in player
/// knows a few bars for pads and plays them as loosely as it is told, the same every time from the
/// same seed.
class SimulatedController {
public:
  SimulatedController();
  ~SimulatedController();
  SimulatedController(const SimulatedController&) = delete;
  SimulatedController& operator=(const SimulatedController&) = delete;

  /// Whoever listens; an empty call ends it. Returns once nothing is called any more.
  void setCall(MidiCall call);

  /// Plays once, from now on; what was playing ends, with its notes let go.
  void play(std::vector<TimedMidi> what);
  /// One message, now.
  void send(const MidiMessage& message);
  void stop();
  [[nodiscard]] bool playing() const { return m_playing; }

  struct Player {
    double bpm = 90;
    int bars = 4;
    double looseMs = 8; ///< standard deviation of its timing; 0 to 60
    double lateMs = 0;  ///< all in all; −60 to 60
    int figure = 0;     ///< 0 to kFigures − 1
    std::uint64_t seed = 1;
    double leadInS = 0; ///< silence before the first bar
  };
  static constexpr int kFigures = 3; ///< a plain beat, a busy one, a roll on the hats
  [[nodiscard]] static std::vector<TimedMidi> played(const Player& player);

private:
  void run();

  std::mutex m_mutex;
  std::condition_variable m_wake;
  MidiCall m_call;
  std::vector<TimedMidi> m_what;
  std::size_t m_next = 0;
  Nanoseconds m_start;
  std::atomic<bool> m_playing{false};
  bool m_ending = false;
  std::thread m_thread;
};

} // namespace tuvvo
