#include "devices/midi_hub.h"

#include "midi/clock.h"

#include <algorithm>
#include <chrono>
#include <mutex>
#include <thread>

namespace tuvvo {

/// One open controller. Its call runs on the controller's thread: a look at the map, a command to
/// the engine, a copy for the interface.
class MidiHub::Controller {
public:
  Controller(Engine& engine, int source, const LiveMap& map)
      : m_engine(engine), m_source(source), m_map(std::make_shared<const LiveMap>(map)) {}

  void handle(const MidiMessage& message, Nanoseconds when) {
    std::lock_guard lock(m_mutex);
    ++came;
    if (!m_toInterface.push({message, when})) ++lost;
    const auto map = m_map.load();
    Engine::Command c{Engine::Command::Kind::Release};
    c.touch = touchOf(message.channel, message.number);
    c.when = when;
    const auto note = std::size_t(message.number);
    switch (message.kind) {
    case MidiKind::NoteOn: {
      const NoteStrike& strike = map->notes[note];
      if (strike.key == 0) return;
      c.kind = Engine::Command::Kind::Strike;
      c.key = strike.key;
      c.velocity = float(map->curve.velocityOf(message.value));
      c.tune = strike.tune;
      c.from = strike.from;
      c.bright = strike.bright;
      c.hold = strike.hold;
      c.roll = strike.roll;
      if (send(c)) m_held.set(std::size_t(message.channel) * 128 + note);
      return;
    }
    case MidiKind::NoteOff:
      if (m_held.test(std::size_t(message.channel) * 128 + note) && send(c))
        m_held.reset(std::size_t(message.channel) * 128 + note);
      return;
    case MidiKind::KeyPressure:
      if (!map->pressRolls) return;
      c.kind = Engine::Command::Kind::Press;
      c.velocity = float(map->curve.velocityOf(message.value));
      (void)send(c);
      return;
    case MidiKind::ChannelPressure:
      if (map->pressRolls) press(message.channel, map->curve.velocityOf(message.value));
      return;
    default:
      return;
    }
  }

  /// Where there was no room for what it sent, all it holds is let go as soon as there is.
  void mend() {
    std::lock_guard lock(m_mutex);
    if (m_overflowed) letAllGo();
  }

  /// Every note it holds is let go; its port must be closed, or m_mutex held.
  void letAllGo() {
    Engine::Command c{Engine::Command::Kind::Release};
    for (std::size_t i = 0; i < m_held.size(); ++i)
      if (m_held.test(i)) {
        c.touch = touchOf(int(i / 128), int(i % 128));
        if (!m_engine.sendFrom(m_source, c)) return; // what is still held waits for the next time
        m_held.reset(i);
      }
    m_overflowed = false;
  }

  bool next(Came& out) {
    Entry entry{};
    if (!m_toInterface.pop(entry)) return false;
    out.message = entry.message;
    out.when = entry.when;
    return true;
  }
  void setMap(const LiveMap& map) { m_map.store(std::make_shared<const LiveMap>(map)); }
  [[nodiscard]] int source() const { return m_source; }

  std::atomic<std::uint64_t> came{0}, lost{0};
  std::unique_ptr<MidiInPort> port; ///< null for the simulated one

private:
  [[nodiscard]] std::uint32_t touchOf(int channel, int note) const {
    return 0x01000000u | std::uint32_t(m_source) << 16 | std::uint32_t(channel) << 8 |
           std::uint32_t(note);
  }
  void press(int channel, double velocity) {
    Engine::Command c{Engine::Command::Kind::Press};
    c.velocity = float(velocity);
    for (int note = 0; note < 128; ++note)
      if (m_held.test(std::size_t(channel) * 128 + std::size_t(note))) {
        c.touch = touchOf(channel, note);
        (void)send(c);
      }
  }
  bool send(const Engine::Command& c) {
    if (m_overflowed) letAllGo(); // a note whose end was lost must not sound for ever
    if (!m_overflowed && m_engine.sendFrom(m_source, c)) return true;
    m_overflowed = true;
    ++lost;
    return false;
  }

  struct Entry {
    MidiMessage message;
    Nanoseconds when;
  };
  std::mutex m_mutex; ///< one message at a time; waited for by mend() alone
  Engine& m_engine;
  int m_source;
  std::atomic<std::shared_ptr<const LiveMap>> m_map;
  SpscQueue<Entry, 1024> m_toInterface;
  std::bitset<std::size_t(16) * 128> m_held;
  bool m_overflowed = false;
};

/// Sends the clock from where the music stands, looked at every millisecond.
class MidiHub::ClockThread {
public:
  ClockThread(Engine& engine, std::unique_ptr<MidiOutPort> port)
      : m_engine(engine), m_port(std::move(port)), m_thread([this] { run(); }) {}
  ~ClockThread() {
    m_ending = true;
    m_thread.join();
    if (m_started) (void)m_port->send({MidiKind::Stop});
  }

private:
  void run() {
    ClockSender sender;
    auto due = std::chrono::steady_clock::now();
    while (!m_ending) {
      due += std::chrono::milliseconds(1);
      std::this_thread::sleep_until(due);
      const double beats = m_engine.positionBeats();
      const bool plays = m_engine.playing() && beats >= 0;
      if (plays != m_started) {
        m_started = plays;
        sender.reset();
        (void)m_port->send({plays ? MidiKind::Start : MidiKind::Stop});
      }
      if (!plays) continue;
      for (int i = sender.due(beats); i > 0; --i) (void)m_port->send({MidiKind::Clock});
    }
  }

  Engine& m_engine;
  std::unique_ptr<MidiOutPort> m_port;
  std::atomic<bool> m_ending{false};
  bool m_started = false;
  std::thread m_thread;
};

MidiHub::MidiHub(Engine& engine) : m_engine(engine) {
  m_taken.set(0); // the interface's own
  m_known[simulatedName()];
}

MidiHub::~MidiHub() {
  m_clock.reset();
  for (auto& [port, known] : m_known) close(known);
}

MidiPorts& MidiHub::portsOf(MidiSystem system) {
  auto& ports = m_ports[system];
  if (!ports) ports = std::make_unique<MidiPorts>(system);
  return *ports;
}

/// A server that went away and came back, or was started later, is found by asking anew, now and
/// then. What was open of the old one is closed before: its library cannot tell them apart.
void MidiHub::lookAgain() {
  for (auto& [system, ports] : m_ports) {
    if (!ports->inputs().empty() || !ports->outputs().empty()) continue;
    for (auto& [port, known] : m_known)
      if (port.system == system) close(known);
    if (m_clockPort.system == system) endClock();
    ports.reset();
    ports = std::make_unique<MidiPorts>(system);
  }
}

void MidiHub::endClock() {
  m_clock.reset();
  m_clockPort = {};
}

void MidiHub::open(const MidiPortName& port, Known& known) {
  int source = 1;
  while (source < Engine::kSources && m_taken.test(std::size_t(source))) ++source;
  if (source == Engine::kSources) {
    known.trouble = "So many controllers are open that there is no room for it.";
    return;
  }
  auto controller = std::make_unique<Controller>(m_engine, source, known.map);
  const MidiCall call = [heard = controller.get()](const MidiMessage& message, Nanoseconds when) {
    heard->handle(message, when);
  };
  if (port.system == MidiSystem::Simulated) {
    m_simulated.setCall(call);
  } else {
    auto opened = portsOf(port.system).openInput(port.name, call);
    if (!opened) {
      known.trouble = opened.error().text();
      return;
    }
    controller->port = std::move(opened).value();
  }
  known.trouble.clear();
  m_taken.set(std::size_t(source));
  known.controller = std::move(controller);
}

void MidiHub::close(Known& known) {
  if (!known.controller) return;
  if (!known.controller->port) m_simulated.setCall({});
  known.controller->port.reset(); // nothing calls any more
  known.controller->letAllGo();
  known.came += known.controller->came;
  known.lost += known.controller->lost;
  m_taken.reset(std::size_t(known.controller->source()));
  known.controller.reset();
}

std::string MidiHub::watch() {
  std::string said;
  for (auto& [port, known] : m_known)
    if (known.controller) known.controller->mend();
  std::set<MidiPortName> there{simulatedName()};
  for (MidiSystem system : {MidiSystem::Alsa, MidiSystem::Jack})
    for (auto& name : portsOf(system).inputs()) there.insert({system, std::move(name)});
  if (!m_clockPort.name.empty()) {
    const auto still = portsOf(m_clockPort.system).outputs();
    if (std::find(still.begin(), still.end(), m_clockPort.name) == still.end()) {
      said = m_clockPort.name + " has gone; no clock is sent any more.";
      endClock();
    }
  }
  if (++m_tries % 5 == 0) lookAgain();
  for (const auto& port : there) m_known[port];
  for (auto& [port, known] : m_known) {
    const bool here = there.contains(port);
    if (known.controller && (!here || !known.wanted)) {
      close(known);
      if (!here) said = port.name + " was unplugged; its notes were let go.";
    } else if (!known.controller && here && known.wanted) {
      const std::string before = known.trouble;
      open(port, known);
      if (!known.controller && known.trouble != before) said = known.trouble;
      if (known.controller && port.system != MidiSystem::Simulated)
        said = port.name + " is plugged in and plays the deck.";
    }
  }
  return said;
}

std::vector<MidiHub::Input> MidiHub::inputs() const {
  std::vector<Input> out;
  for (const auto& [port, known] : m_known) {
    Input input{port,      known.controller != nullptr, known.wanted, known.trouble, known.came,
                known.lost};
    if (known.controller) {
      input.came += known.controller->came;
      input.lost += known.controller->lost;
    }
    out.push_back(std::move(input));
  }
  return out;
}

void MidiHub::setWanted(const MidiPortName& port, bool wanted) {
  m_known[port].wanted = wanted;
  (void)watch();
}

int MidiHub::sourceOf(const MidiPortName& port) const {
  const auto known = m_known.find(port);
  return known != m_known.end() && known->second.controller ? known->second.controller->source()
                                                            : -1;
}

void MidiHub::setMap(const MidiPortName& port, const LiveMap& map) {
  Known& known = m_known[port];
  known.map = map;
  if (known.controller) known.controller->setMap(known.map);
}

std::vector<MidiHub::Came> MidiHub::take() {
  std::vector<Came> out;
  for (auto& [port, known] : m_known) {
    Came came;
    came.port = port;
    while (known.controller && out.size() < 512 && known.controller->next(came))
      out.push_back(came);
  }
  return out;
}

std::vector<MidiPortName> MidiHub::outputs() {
  std::vector<MidiPortName> out;
  for (MidiSystem system : {MidiSystem::Alsa, MidiSystem::Jack})
    for (auto& name : portsOf(system).outputs()) out.push_back({system, std::move(name)});
  return out;
}

Result<void> MidiHub::sendClockTo(const MidiPortName& port) {
  endClock();
  if (port.name.empty()) return {};
  auto opened = portsOf(port.system).openOutput(port.name);
  if (!opened) return opened.error();
  m_clock = std::make_unique<ClockThread>(m_engine, std::move(opened).value());
  m_clockPort = port;
  return {};
}

} // namespace tuvvo
