// A place where MIDI comes in or goes out.
#pragma once

#include "base/result.h"
#include "base/units.h"
#include "midi/message.h"

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace tuvvo {

/// A message and when it came, in ns of the steady clock. Called on the port's own thread.
using MidiCall = std::function<void(const MidiMessage& message, Nanoseconds when)>;

enum class MidiSystem { Alsa, Jack, Simulated };
[[nodiscard]] std::string nameOf(MidiSystem system);

/// What can be opened.
struct MidiPortName {
  MidiSystem system = MidiSystem::Alsa;
  std::string name;
  auto operator<=>(const MidiPortName&) const = default;
};

/// Open from construction to destruction; never calls again once the destructor has returned.
class MidiInPort {
public:
  virtual ~MidiInPort() = default;
};

class MidiOutPort {
public:
  virtual ~MidiOutPort() = default;
  /// Sends at once. @returns whether it could
  virtual bool send(const MidiMessage& message) = 0;
};

/// The ports of ALSA or JACK, through RtMidi. Used on the interface thread.
class MidiPorts {
public:
  explicit MidiPorts(MidiSystem system);
  ~MidiPorts();
  MidiPorts(const MidiPorts&) = delete;
  MidiPorts& operator=(const MidiPorts&) = delete;

  /// False where the system is not there (no sequencer, no server).
  [[nodiscard]] bool works() const;
  /// What can be opened now; Tuvvo's own ports are left out. Empty where the system has gone.
  [[nodiscard]] std::vector<std::string> inputs();
  [[nodiscard]] std::vector<std::string> outputs();
  Result<std::unique_ptr<MidiInPort>> openInput(const std::string& name, MidiCall call);
  Result<std::unique_ptr<MidiOutPort>> openOutput(const std::string& name);

private:
  struct Inside;
  std::unique_ptr<Inside> m_inside;
};

} // namespace tuvvo
