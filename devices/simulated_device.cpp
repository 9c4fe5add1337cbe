#include "devices/simulated_device.h"

#include <algorithm>
#include <chrono>

namespace tuvvo {

SimulatedDevice::SimulatedDevice(const DeviceSettings& settings, ProcessSound process)
    : m_settings(settings), m_process(std::move(process)) {
  m_settings.blockFrames = std::clamp(m_settings.blockFrames, 16, 8192);
  m_thread = std::thread([this] { run(); });
}

SimulatedDevice::~SimulatedDevice() {
  m_ending = true;
  m_thread.join();
}

void SimulatedDevice::startCapture(std::size_t frames) {
  std::lock_guard lock(m_captureMutex);
  m_capture = {};
  m_capture.left.reserve(frames);
  m_capture.right.reserve(frames);
  m_captureLimit = frames;
}

SimulatedDevice::Capture SimulatedDevice::captured() const {
  std::lock_guard lock(m_captureMutex);
  return m_capture;
}

void SimulatedDevice::run() {
  using Clock = std::chrono::steady_clock;
  const auto block = std::chrono::duration_cast<Clock::duration>(
      std::chrono::duration<double>(m_settings.blockFrames / m_settings.rate.value));
  std::vector<float> left(std::size_t(m_settings.blockFrames)), right(left.size());
  auto due = Clock::now();
  while (!m_ending) {
    m_process({left.data(), right.data(), nullptr, nullptr, m_settings.blockFrames});
    {
      std::lock_guard lock(m_captureMutex);
      const std::size_t room = m_captureLimit - std::min(m_captureLimit, m_capture.left.size());
      const auto n = std::ptrdiff_t(std::min(room, left.size()));
      m_capture.left.insert(m_capture.left.end(), left.begin(), left.begin() + n);
      m_capture.right.insert(m_capture.right.end(), right.begin(), right.begin() + n);
    }
    due += block;
    // After a long stall (a suspended laptop) the clock starts anew instead of racing after it.
    if (Clock::now() > due + std::chrono::milliseconds(200)) due = Clock::now();
    std::this_thread::sleep_until(due);
  }
}

} // namespace tuvvo
