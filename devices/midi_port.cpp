#include "devices/midi_port.h"

#include "base/steady_clock.h"

#include <RtMidi.h>
#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <jack/jack.h>

namespace tuvvo {

namespace {

constexpr const char* kClient = "Tuvvo";

RtMidi::Api apiOf(MidiSystem system) {
  return system == MidiSystem::Jack ? RtMidi::UNIX_JACK : RtMidi::LINUX_ALSA;
}

/// What the back ends say of trouble is answered by what they return.
void quietly(RtMidiError::Type, const std::string&, void*) {}

class InPort final : public MidiInPort {
public:
  InPort(MidiSystem system, MidiCall call)
      : m_call(std::move(call)), m_midi(apiOf(system), kClient, 1024) {
    m_midi.setErrorCallback(&quietly);
    m_midi.ignoreTypes(true, false, true); // exclusive and sensing are not listened to; clock is
    m_midi.setCallback(&InPort::came, this);
  }
  ~InPort() override {
    m_midi.cancelCallback();
    m_midi.closePort();
  }
  RtMidiIn& midi() { return m_midi; }

private:
  static void came(double, std::vector<unsigned char>* bytes, void* self) {
    const Nanoseconds now = steadyNow();
    if (const auto message = messageOf({bytes->data(), bytes->size()}))
      static_cast<InPort*>(self)->m_call(*message, now);
  }
  MidiCall m_call;
  RtMidiIn m_midi;
};

class OutPort final : public MidiOutPort {
public:
  explicit OutPort(MidiSystem system) : m_midi(apiOf(system), kClient) {
    m_midi.setErrorCallback(&quietly);
  }
  bool send(const MidiMessage& message) override {
    std::array<std::uint8_t, 3> bytes{};
    const int count = bytesOf(message, bytes);
    try {
      m_midi.sendMessage(bytes.data(), std::size_t(count));
      return true;
    } catch (const RtMidiError&) {
      return false;
    }
  }
  RtMidiOut& midi() { return m_midi; }

private:
  RtMidiOut m_midi;
};

template <class Midi> std::vector<std::string> namesOf(Midi* midi) {
  std::vector<std::string> names;
  if (!midi) return names;
  try {
    const unsigned count = midi->getPortCount();
    for (unsigned i = 0; i < count; ++i) {
      const std::string name = midi->getPortName(i);
      if (!name.empty() && name.rfind(kClient, 0) != 0) names.push_back(name);
    }
  } catch (const RtMidiError&) {
    return {};
  }
  return names;
}

template <class Midi> std::optional<unsigned> numberOf(Midi& midi, const std::string& name) {
  const unsigned count = midi.getPortCount();
  for (unsigned i = 0; i < count; ++i)
    if (midi.getPortName(i) == name) return i;
  return std::nullopt;
}

/// Asked first and quietly: RtMidi tells the terminal of every server that is not there.
bool jackAnswers() {
  setenv("JACK_NO_START_SERVER", "1", 0);
  const auto nothing = [](const char*) {};
  jack_set_error_function(nothing);
  jack_set_info_function(nothing);
  jack_client_t* client = jack_client_open(kClient, JackNoStartServer, nullptr);
  if (client) jack_client_close(client);
  return client;
}

bool compiledIn(MidiSystem system) {
  std::vector<RtMidi::Api> apis;
  RtMidi::getCompiledApi(apis);
  return std::find(apis.begin(), apis.end(), apiOf(system)) != apis.end();
}

} // namespace

std::string nameOf(MidiSystem system) {
  switch (system) {
  case MidiSystem::Alsa:
    return "ALSA";
  case MidiSystem::Jack:
    return "JACK";
  case MidiSystem::Simulated:
    break;
  }
  return "simulated";
}

struct MidiPorts::Inside {
  MidiSystem system;
  std::unique_ptr<RtMidiIn> in; ///< to look around with
  std::unique_ptr<RtMidiOut> out;
};

MidiPorts::MidiPorts(MidiSystem system) : m_inside(new Inside{system, nullptr, nullptr}) {
  if (system == MidiSystem::Simulated || !compiledIn(system)) return;
  if (system == MidiSystem::Jack && !jackAnswers()) return;
  if (system == MidiSystem::Alsa && !std::filesystem::exists("/dev/snd/seq")) return;
  try {
    m_inside->in = std::make_unique<RtMidiIn>(apiOf(system), kClient, 16);
    m_inside->out = std::make_unique<RtMidiOut>(apiOf(system), kClient);
    m_inside->in->setErrorCallback(&quietly);
    m_inside->out->setErrorCallback(&quietly);
  } catch (const RtMidiError&) {
    m_inside->in.reset(); // no sequencer, or no server
    m_inside->out.reset();
  }
}

MidiPorts::~MidiPorts() = default;

bool MidiPorts::works() const { return m_inside->in && m_inside->out; }

std::vector<std::string> MidiPorts::inputs() { return namesOf(m_inside->in.get()); }
std::vector<std::string> MidiPorts::outputs() { return namesOf(m_inside->out.get()); }

Result<std::unique_ptr<MidiInPort>> MidiPorts::openInput(const std::string& name, MidiCall call) {
  const Error gone{"There is no controller named \"" + name + "\"", nameOf(m_inside->system),
                   "Plug it in again."};
  try {
    auto port = std::make_unique<InPort>(m_inside->system, std::move(call));
    const auto number = numberOf(port->midi(), name);
    if (!number) return gone;
    port->midi().openPort(*number, "controller");
    return std::unique_ptr<MidiInPort>(std::move(port));
  } catch (const RtMidiError& error) {
    return Error{"The controller cannot be opened (" + error.getMessage() + ")", name,
                 "Plug it in again, or close what holds it."};
  }
}

Result<std::unique_ptr<MidiOutPort>> MidiPorts::openOutput(const std::string& name) {
  try {
    auto port = std::make_unique<OutPort>(m_inside->system);
    const auto number = numberOf(port->midi(), name);
    if (!number)
      return Error{"There is no MIDI output named \"" + name + "\"", nameOf(m_inside->system),
                   "Plug it in again."};
    port->midi().openPort(*number, "clock");
    return std::unique_ptr<MidiOutPort>(std::move(port));
  } catch (const RtMidiError& error) {
    return Error{"The MIDI output cannot be opened (" + error.getMessage() + ")", name,
                 "Plug it in again, or close what holds it."};
  }
}

} // namespace tuvvo
