// The output in use, whatever happens to the hardware.
#pragma once

#include "devices/rtaudio_device.h"
#include "devices/simulated_device.h"
#include "play/engine.h"

namespace tuvvo {

enum class OutputChoice { Automatic, Jack, Pulse, Alsa, Simulated };
/// "automatic", "jack", "pulse", "alsa", "simulated"; nothing for anything else.
[[nodiscard]] std::optional<OutputChoice> outputFromName(const std::string& name);

/// Keeps an engine sounding: opens what was chosen, or the first server that answers, or the
/// simulated device. Used on the interface thread.
class Output {
public:
  /// @param engine  must outlive the output
  explicit Output(Engine& engine) : m_engine(engine) {}

  /// @returns a message when something else was opened than asked for; empty when all is well
  std::string open(OutputChoice choice, const DeviceSettings& settings = {});
  /// Call a few times a second: a device that vanished is replaced by the simulated one, and the
  /// engine goes on from where it was. @returns a message when that happened, else empty
  std::string watch();
  void close() { m_device.reset(); }

  [[nodiscard]] const SoundDevice* device() const { return m_device.get(); }
  /// The device when it is the simulated one, else null.
  [[nodiscard]] SimulatedDevice* simulated() const;

private:
  void openSimulated(const DeviceSettings& settings);

  Engine& m_engine;
  DeviceSettings m_settings;
  std::unique_ptr<SoundDevice> m_device;
};

} // namespace tuvvo
