// Real devices, through RtAudio: JACK, PulseAudio, ALSA.
#pragma once

#include "devices/sound_device.h"

#include <vector>

namespace tuvvo {

enum class SoundServer { Jack, Pulse, Alsa };
[[nodiscard]] std::string nameOf(SoundServer server);

/// Opens a device and starts it.
/// @returns an Error when the server does not answer or has no output
Result<std::unique_ptr<SoundDevice>> openRtAudio(SoundServer server, const DeviceSettings& settings,
                                                 FillSound fill);

/// Names of the outputs of a server; empty when it does not answer.
[[nodiscard]] std::vector<std::string> outputsOf(SoundServer server);

} // namespace tuvvo
