// The sound device in use, whatever happens to the hardware.
#pragma once

#include "devices/rtaudio_device.h"
#include "devices/simulated_device.h"
#include "devices/simulated_input.h"
#include "play/engine.h"

#include <chrono>

namespace tuvvo {

enum class OutputChoice { Automatic, Jack, Pulse, Alsa, Simulated };
/// "automatic", "jack", "pulse", "alsa", "simulated"; nothing for anything else.
[[nodiscard]] std::optional<OutputChoice> outputFromName(const std::string& name);
[[nodiscard]] std::string nameOf(OutputChoice choice);

enum class InputChoice { None, Device, Line, Microphone, Cable };
/// "none", "device", "line", "microphone", "cable"; nothing for anything else.
[[nodiscard]] std::optional<InputChoice> inputFromName(const std::string& name);
[[nodiscard]] std::string nameOf(InputChoice choice);

/// What a person has chosen. A value; kept by names.
struct SoundChoice {
  OutputChoice server = OutputChoice::Automatic;
  std::string output{};  ///< empty: the system's own choice
  Hertz rate{48000};     ///< 22 050 to 192 000; JACK runs at its own
  int blockFrames = 256; ///< 16 to 8192
  InputChoice input = InputChoice::None;
  std::string inputName{}; ///< of a device; empty: the system's own choice
  int inputPair = 0;       ///< 0 to 31
  bool operator==(const SoundChoice&) const = default;
};

/// How well blocks were filled since the device was opened.
struct DeviceLoad {
  double mean = 0; ///< share of a block that filling one takes, over some seconds
  double most = 0; ///< the largest since it was opened
  std::int64_t blocks = 0;
  std::int64_t late = 0;     ///< blocks that took us longer than they last
  std::int64_t reported = 0; ///< gaps that the server or driver told of
};

/// Keeps an engine sounding and hearing: opens what was chosen, or the first server that answers,
/// or the simulated device; comes back to what was chosen when it is there again. Used on the
/// interface thread.
class LiveSound {
public:
  /// @param engine  must outlive this
  explicit LiveSound(Engine& engine);
  ~LiveSound();

  /// @returns a message when something else was opened than asked for; empty when all is well
  std::string open(const SoundChoice& choice);
  /// Call a few times a second: a device that vanished is opened again, or replaced by the
  /// simulated one until it can be, and the engine goes on from where it was. @returns a message
  /// when something of it happened, else empty
  std::string watch();
  void close();

  [[nodiscard]] const SoundChoice& choice() const { return m_choice; }
  [[nodiscard]] const SoundDevice* device() const { return m_device.get(); }
  /// The device when it is the simulated one, else null.
  [[nodiscard]] SimulatedDevice* simulated() const;
  /// What comes in where that is simulated, else null.
  [[nodiscard]] SimulatedInput* simulatedInput() const { return m_input.get(); }
  /// Of what comes in, for people and for lineage; empty where nothing does.
  [[nodiscard]] std::string inputName() const;
  [[nodiscard]] DeviceLoad load() const;

  /// How soon a device that has gone is looked for again; a test waits less.
  void setPatience(std::chrono::milliseconds patience) { m_patience = patience; }

private:
  std::string openAny();
  void openSimulated();
  void process(const SoundBlock& block);
  [[nodiscard]] ProcessSound processed();
  [[nodiscard]] DeviceSettings settings() const;

  Engine& m_engine;
  SoundChoice m_choice;
  std::unique_ptr<SimulatedInput> m_input;
  std::vector<float> m_inLeft, m_inRight; ///< of the simulated input
  bool m_away = false;                    ///< what was chosen has gone
  std::chrono::milliseconds m_patience{2000};
  std::chrono::steady_clock::time_point m_tried{};
  std::atomic<double> m_mean{0}, m_most{0};
  std::atomic<std::int64_t> m_blocks{0}, m_late{0};
  std::unique_ptr<SoundDevice> m_device; ///< last: ends before what its thread uses
};

} // namespace tuvvo
