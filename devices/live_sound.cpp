#include "devices/live_sound.h"

#include "base/convert.h"
#include "base/steady_clock.h"

namespace tuvvo {

namespace {

template <class T> struct Named {
  const char* name;
  T value;
};
constexpr Named<OutputChoice> kOutputs[] = {{"automatic", OutputChoice::Automatic},
                                            {"jack", OutputChoice::Jack},
                                            {"pulse", OutputChoice::Pulse},
                                            {"alsa", OutputChoice::Alsa},
                                            {"simulated", OutputChoice::Simulated}};
constexpr Named<InputChoice> kInputs[] = {{"none", InputChoice::None},
                                          {"device", InputChoice::Device},
                                          {"line", InputChoice::Line},
                                          {"microphone", InputChoice::Microphone},
                                          {"cable", InputChoice::Cable}};

template <class T, std::size_t n>
std::optional<T> byName(const Named<T> (&names)[n], const std::string& name) {
  for (const auto& each : names)
    if (name == each.name) return each.value;
  return std::nullopt;
}

template <class T, std::size_t n> std::string nameIn(const Named<T> (&names)[n], T value) {
  for (const auto& each : names)
    if (value == each.value) return each.name;
  return {};
}

constexpr int kMostBlock = 8192;

std::vector<SoundServer> serversFor(OutputChoice choice) {
  switch (choice) {
  case OutputChoice::Jack:
    return {SoundServer::Jack};
  case OutputChoice::Pulse:
    return {SoundServer::Pulse};
  case OutputChoice::Alsa:
    return {SoundServer::Alsa};
  case OutputChoice::Simulated:
    return {};
  case OutputChoice::Automatic:
    break;
  }
  return {SoundServer::Jack, SoundServer::Pulse, SoundServer::Alsa};
}

std::unique_ptr<SimulatedInput> simulatedFor(InputChoice choice) {
  switch (choice) {
  case InputChoice::Line:
    return std::make_unique<SimulatedInput>(SimulatedInput::Kind::Line);
  case InputChoice::Microphone:
    return std::make_unique<SimulatedInput>(SimulatedInput::Kind::Microphone);
  case InputChoice::Cable:
    return std::make_unique<SimulatedInput>(SimulatedInput::Kind::Cable);
  default:
    return nullptr;
  }
}

} // namespace

std::optional<OutputChoice> outputFromName(const std::string& name) {
  return byName(kOutputs, name);
}
std::string nameOf(OutputChoice choice) { return nameIn(kOutputs, choice); }
std::optional<InputChoice> inputFromName(const std::string& name) { return byName(kInputs, name); }
std::string nameOf(InputChoice choice) { return nameIn(kInputs, choice); }

LiveSound::LiveSound(Engine& engine)
    : m_engine(engine), m_inLeft(kMostBlock), m_inRight(kMostBlock) {}

LiveSound::~LiveSound() { close(); }

void LiveSound::close() { m_device.reset(); }

/// One block of the device, with the time at which it was asked for.
void LiveSound::process(const SoundBlock& block) {
  using Clock = std::chrono::steady_clock;
  const auto began = Clock::now();
  const Nanoseconds now = steadyNow();
  if (m_input && block.frames <= kMostBlock) {
    m_input->render(m_inLeft.data(), m_inRight.data(), block.frames);
    m_engine.process(block.left, block.right, block.frames, now, m_inLeft.data(), m_inRight.data());
    m_input->wentOut(block.left, block.right, block.frames);
  } else {
    m_engine.process(block.left, block.right, block.frames, now, block.inLeft, block.inRight);
  }
  const double share = std::chrono::duration<double>(Clock::now() - began).count() *
                       kEngineRate.value / std::max(1, block.frames);
  const double mean = m_mean.load(std::memory_order_relaxed);
  m_mean.store(mean + (share - mean) * std::min(1.0, block.frames / (2 * kEngineRate.value)),
               std::memory_order_relaxed);
  if (share > m_most.load(std::memory_order_relaxed))
    m_most.store(share, std::memory_order_relaxed);
  m_blocks.fetch_add(1, std::memory_order_relaxed);
  if (share > 1) m_late.fetch_add(1, std::memory_order_relaxed);
}

ProcessSound LiveSound::processed() {
  m_mean = m_most = 0;
  m_blocks = m_late = 0;
  return [this](const SoundBlock& block) { process(block); };
}

DeviceSettings LiveSound::settings() const {
  DeviceSettings out;
  out.name = m_choice.output;
  out.rate = Hertz(std::clamp(m_choice.rate.value, 22'050.0, 192'000.0));
  out.blockFrames = std::clamp(m_choice.blockFrames, 16, kMostBlock);
  out.input = m_choice.input == InputChoice::Device;
  out.inputName = m_choice.inputName;
  out.inputPair = std::clamp(m_choice.inputPair, 0, 31);
  return out;
}

void LiveSound::openSimulated() {
  DeviceSettings simulated = settings();
  simulated.rate = kEngineRate;
  m_device = std::make_unique<SimulatedDevice>(simulated, processed());
}

std::string LiveSound::open(const SoundChoice& choice) {
  m_device.reset(); // the old thread ends before the new one calls the engine
  if (!m_input || choice.input != m_choice.input) m_input = simulatedFor(choice.input);
  m_choice = choice;
  m_away = false;
  return openAny();
}

std::string LiveSound::openAny() {
  std::string why, without;
  for (SoundServer server : serversFor(m_choice.server)) {
    DeviceSettings wanted = settings();
    auto opened = openRtAudio(server, wanted, processed());
    if (!opened && wanted.input) { // rather sound without an input than silence
      without = opened.error().text() + " Sound goes out; nothing comes in.";
      wanted.input = false;
      opened = openRtAudio(server, wanted, processed());
    }
    if (opened) {
      m_device = std::move(opened).value();
      return without;
    }
    why = opened.error().text();
    without.clear();
  }
  openSimulated();
  const std::string deaf = m_choice.input == InputChoice::Device
                               ? " The simulated output has no input of a device."
                               : std::string();
  if (m_choice.server == OutputChoice::Simulated)
    return deaf.empty() ? deaf : deaf.substr(1) + " Choose a simulated input.";
  if (m_choice.server == OutputChoice::Automatic)
    return "No sound output was found. Tuvvo plays to a simulated one; nothing will be heard." +
           deaf;
  m_away = true; // it may come
  m_tried = std::chrono::steady_clock::now();
  return why + " Tuvvo plays to a simulated output; nothing will be heard." + deaf;
}

std::string LiveSound::watch() {
  if (!m_device) return {};
  const auto now = std::chrono::steady_clock::now();
  if (m_away) {
    if (now - m_tried < m_patience) return {};
    m_tried = now;
    for (SoundServer server : serversFor(m_choice.server))
      if (!devicesOf(server).empty()) {
        m_device.reset();
        m_away = false;
        const std::string said = openAny();
        if (m_device->simulated()) {
          m_away = true;
          return {};
        }
        return m_device->name() + " is back." + (said.empty() ? "" : " " + said);
      }
    return {};
  }
  if (m_device->alive()) return {};
  const std::string gone = m_device->name();
  m_device.reset();
  const std::string said = openAny(); // a server that changed its block or rate is there at once
  if (!m_device->simulated())
    return gone + " had stopped; it was opened again at " +
           std::to_string(toWhole<int>(m_device->rate().value)) + " Hz with blocks of " +
           std::to_string(m_device->blockFrames()) + "." + (said.empty() ? "" : " " + said);
  m_away = true;
  m_tried = now;
  return gone + " has gone. Tuvvo goes on with a simulated output, from the same place, and comes "
                "back to it when it is there again.";
}

SimulatedDevice* LiveSound::simulated() const {
  return dynamic_cast<SimulatedDevice*>(m_device.get());
}

std::string LiveSound::inputName() const {
  switch (m_choice.input) {
  case InputChoice::None:
    return {};
  case InputChoice::Device:
    return m_device ? m_device->inputName() : std::string();
  case InputChoice::Line:
    return "Simulated line input";
  case InputChoice::Microphone:
    return "Simulated microphone";
  case InputChoice::Cable:
    break;
  }
  return "Simulated cable from the output";
}

DeviceLoad LiveSound::load() const {
  DeviceLoad load;
  load.mean = m_mean;
  load.most = m_most;
  load.blocks = m_blocks;
  load.late = m_late;
  load.reported = m_device ? m_device->reportedGaps() : 0;
  return load;
}

} // namespace tuvvo
