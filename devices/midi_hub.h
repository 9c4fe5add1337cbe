// All controllers at once: plugged in and out at any time, each straight to the engine.
#pragma once

#include "base/spsc_queue.h"
#include "devices/midi_port.h"
#include "devices/simulated_controller.h"
#include "midi/velocity_curve.h"
#include "play/engine.h"

#include <atomic>
#include <bitset>
#include <map>
#include <set>

namespace tuvvo {

/// What a note of a controller strikes.
struct NoteStrike {
  Id key = 0; ///< 0: nothing
  float tune = 1, from = 0, bright = 0;
  EngineFrames hold{};
  Engine::Roll roll{};
};

/// What every note of one controller does now. Recipe on the interface thread, read by the
/// controller's own; never changed once it is handed over.
struct LiveMap {
  std::array<NoteStrike, 128> notes{};
  VelocityCurve curve;
  bool pressRolls = true; ///< aftertouch is the level of a roll
};

/// Opens every controller there is, hears it, and strikes the engine on the controller's own
/// thread, so that a busy window delays nothing. What came is also handed to the interface, for
/// learning and for slides. Used on the interface thread.
class MidiHub {
public:
  explicit MidiHub(Engine& engine);
  ~MidiHub();
  MidiHub(const MidiHub&) = delete;
  MidiHub& operator=(const MidiHub&) = delete;

  struct Input {
    MidiPortName port;
    bool open = false;
    bool wanted = true;     ///< opened as soon as it is there
    std::string trouble;    ///< why it is not open
    std::uint64_t came = 0; ///< messages so far
    std::uint64_t lost = 0; ///< messages that there was no room for
  };
  /// Every controller seen so far; those that are gone are not open.
  [[nodiscard]] std::vector<Input> inputs() const;
  /// Call it about once a second: opens what was plugged in, closes what is gone.
  /// @returns what changed, for a person; empty when nothing did
  std::string watch();
  void setWanted(const MidiPortName& port, bool wanted);
  /// @returns the number that LiveMaps and touches of this controller go by; −1 if it is not open
  [[nodiscard]] int sourceOf(const MidiPortName& port) const;
  /// What the notes of a controller strike from now on.
  void setMap(const MidiPortName& port, const LiveMap& map);

  /// The simulated controller; opened and closed like the others.
  [[nodiscard]] SimulatedController& simulated() { return m_simulated; }
  static MidiPortName simulatedName() { return {MidiSystem::Simulated, "Simulated controller"}; }

  struct Came {
    MidiPortName port;
    MidiMessage message;
    Nanoseconds when{};
  };
  /// What has come since the last call, at most some hundreds; a flood leaves some out.
  [[nodiscard]] std::vector<Came> take();

  // ---- clock out ----
  [[nodiscard]] std::vector<MidiPortName> outputs();
  /// Sends clock, start and stop to one output; an empty name ends it.
  Result<void> sendClockTo(const MidiPortName& port);

private:
  class Controller;
  class ClockThread;
  struct Known {
    bool wanted = true;
    std::string trouble;
    std::unique_ptr<Controller> controller; ///< while it is open
    LiveMap map;
    std::uint64_t came = 0, lost = 0; ///< while it was open before
  };
  void open(const MidiPortName& port, Known& known);
  void close(Known& known);
  [[nodiscard]] MidiPorts& portsOf(MidiSystem system);
  void lookAgain();
  void endClock();

  Engine& m_engine;
  std::map<MidiSystem, std::unique_ptr<MidiPorts>> m_ports;
  std::map<MidiPortName, Known> m_known;
  std::bitset<Engine::kSources> m_taken;
  SimulatedController m_simulated;
  std::unique_ptr<ClockThread> m_clock;
  MidiPortName m_clockPort; ///< without a name: none
  int m_tries = 0;
};

} // namespace tuvvo
