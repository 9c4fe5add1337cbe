// Real devices, through RtAudio: JACK, PulseAudio, ALSA.
#pragma once

#include "devices/sound_device.h"

#include <vector>

namespace tuvvo {

enum class SoundServer { Jack, Pulse, Alsa };
[[nodiscard]] std::string nameOf(SoundServer server);

/// Opens a device and starts it.
/// @returns an Error when the server does not answer, has no output, or has no input and one is
///          asked for
Result<std::unique_ptr<SoundDevice>> openRtAudio(SoundServer server, const DeviceSettings& settings,
                                                 ProcessSound process);

struct DeviceAbout {
  std::string name;
  int outputs = 0, inputs = 0; ///< channels
  std::vector<int> rates;      ///< Hz; for JACK the server's own
};
/// The devices of a server; none when it does not answer.
[[nodiscard]] std::vector<DeviceAbout> devicesOf(SoundServer server);

} // namespace tuvvo
