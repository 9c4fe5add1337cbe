// A place where sound goes out and comes in.
#pragma once

#include "base/result.h"
#include "base/units.h"

#include <functional>
#include <memory>
#include <string>

namespace tuvvo {

/// One block: what came in, and room for what goes out at the same time.
struct SoundBlock {
  float *left = nullptr, *right = nullptr;           ///< to be filled
  const float *inLeft = nullptr, *inRight = nullptr; ///< null where nothing comes in
  int frames = 0;
};
/// Fills both channels. Called on the device's own real-time thread.
using ProcessSound = std::function<void(const SoundBlock&)>;

struct DeviceSettings {
  std::string name;      ///< of the output; empty: the system's own choice
  Hertz rate{48000};     ///< asked for; the device may run at another
  int blockFrames = 256; ///< asked for, 16 to 8192
  bool input = false;    ///< something is to come in as well
  std::string inputName; ///< empty: the system's own choice
  int inputPair = 0;     ///< which two channels of the input, from 0
};

/// Open from construction to destruction. Devices fill through the call they were opened with and
/// never call it again once the destructor has returned.
class SoundDevice {
public:
  virtual ~SoundDevice() = default;
  [[nodiscard]] virtual std::string name() const = 0;
  /// Of its input; empty where nothing comes in.
  [[nodiscard]] virtual std::string inputName() const { return {}; }
  [[nodiscard]] virtual bool simulated() const = 0;
  [[nodiscard]] virtual Hertz rate() const = 0;
  [[nodiscard]] virtual int blockFrames() const = 0;
  /// False once it has gone (server ended, device pulled out).
  [[nodiscard]] virtual bool alive() const = 0;
  /// Gaps that the server or driver told of since it was opened.
  [[nodiscard]] virtual std::int64_t reportedGaps() const { return 0; }
};

} // namespace tuvvo
