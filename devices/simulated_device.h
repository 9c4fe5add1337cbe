// A device without hardware, with a real clock.
#pragma once

#include "devices/sound_device.h"

#include <atomic>
#include <mutex>
#include <thread>
#include <vector>

namespace tuvvo {

/// Asks for a block whenever the clock says that the last one has been played, as hardware does.
/// What it was given can be kept, for tests and for listening afterwards.
class SimulatedDevice final : public SoundDevice {
public:
  SimulatedDevice(const DeviceSettings& settings, ProcessSound process);
  ~SimulatedDevice() override;

  [[nodiscard]] std::string name() const override { return "Simulated output"; }
  [[nodiscard]] bool simulated() const override { return true; }
  [[nodiscard]] Hertz rate() const override { return m_settings.rate; }
  [[nodiscard]] int blockFrames() const override { return m_settings.blockFrames; }
  [[nodiscard]] bool alive() const override { return true; }

  /// Keeps what is played from now on, up to so many frames (memory is taken here).
  void startCapture(std::size_t frames);
  struct Capture {
    std::vector<float> left, right;
  };
  [[nodiscard]] Capture captured() const;

private:
  void run();

  DeviceSettings m_settings;
  ProcessSound m_process;
  std::atomic<bool> m_ending{false};
  mutable std::mutex m_captureMutex; // held by the simulated hardware, outside the fill call
  Capture m_capture;
  std::size_t m_captureLimit = 0;
  std::thread m_thread;
};

} // namespace tuvvo
