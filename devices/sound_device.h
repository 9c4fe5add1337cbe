// A place where sound goes out.
#pragma once

#include "base/result.h"
#include "base/units.h"

#include <functional>
#include <memory>
#include <string>

namespace tuvvo {

/// Fills both channels with that many frames. Called on the device's own real-time thread.
using FillSound = std::function<void(float* left, float* right, int frames)>;

struct DeviceSettings {
  std::string name;      ///< empty: the system's own choice
  Hertz rate{48000};     ///< asked for; the device may run at another
  int blockFrames = 256; ///< asked for, 16 to 8192
};

/// Open from construction to destruction. Devices fill through the call they were opened with and
/// never call it again once the destructor has returned.
class SoundDevice {
public:
  virtual ~SoundDevice() = default;
  [[nodiscard]] virtual std::string name() const = 0;
  [[nodiscard]] virtual bool simulated() const = 0;
  [[nodiscard]] virtual Hertz rate() const = 0;
  [[nodiscard]] virtual int blockFrames() const = 0;
  /// False once it has gone (server ended, device pulled out).
  [[nodiscard]] virtual bool alive() const = 0;
};

} // namespace tuvvo
