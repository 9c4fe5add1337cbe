#include "devices/output.h"

#include <chrono>

namespace tuvvo {

std::optional<OutputChoice> outputFromName(const std::string& name) {
  if (name == "automatic") return OutputChoice::Automatic;
  if (name == "jack") return OutputChoice::Jack;
  if (name == "pulse") return OutputChoice::Pulse;
  if (name == "alsa") return OutputChoice::Alsa;
  if (name == "simulated") return OutputChoice::Simulated;
  return std::nullopt;
}

namespace {

/// The engine's blocks, each with the time at which it was asked for.
FillSound filledBy(Engine& engine) {
  return [&engine](float* left, float* right, int frames) {
    const auto now = std::chrono::steady_clock::now().time_since_epoch();
    engine.process(left, right, frames, now / std::chrono::nanoseconds(1));
  };
}

} // namespace

void Output::openSimulated(const DeviceSettings& settings) {
  DeviceSettings simulated = settings;
  simulated.rate = kEngineRate;
  m_device = std::make_unique<SimulatedDevice>(simulated, filledBy(m_engine));
}

std::string Output::open(OutputChoice choice, const DeviceSettings& settings) {
  m_device.reset(); // the old thread ends before the new one calls the engine
  m_settings = settings;
  if (choice == OutputChoice::Simulated) {
    openSimulated(settings);
    return {};
  }
  std::vector<SoundServer> servers;
  if (choice == OutputChoice::Jack || choice == OutputChoice::Automatic)
    servers.push_back(SoundServer::Jack);
  if (choice == OutputChoice::Pulse || choice == OutputChoice::Automatic)
    servers.push_back(SoundServer::Pulse);
  if (choice == OutputChoice::Alsa || choice == OutputChoice::Automatic)
    servers.push_back(SoundServer::Alsa);
  std::string why;
  for (SoundServer server : servers) {
    auto opened = openRtAudio(server, settings, filledBy(m_engine));
    if (opened) {
      m_device = std::move(opened).value();
      return {};
    }
    why = opened.error().text();
  }
  openSimulated(settings);
  if (choice == OutputChoice::Automatic)
    return "No sound output was found. Tuvvo plays to a simulated one; nothing will be heard.";
  return why + " Tuvvo plays to a simulated output; nothing will be heard.";
}

std::string Output::watch() {
  if (!m_device || m_device->alive()) return {};
  const std::string gone = m_device->name();
  m_device.reset();
  openSimulated(m_settings);
  return gone + " has gone. Tuvvo goes on with a simulated output, from the same place; choose "
                "another in Sound output.";
}

SimulatedDevice* Output::simulated() const {
  return dynamic_cast<SimulatedDevice*>(m_device.get());
}

} // namespace tuvvo
