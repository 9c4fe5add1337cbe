#include "session/controller_service.h"
#include "session/music_text.h"

#include "base/files.h"
#include "base/tempo_map.h"
#include "formats/controllers_json.h"
#include "model/edits.h"

#include <QStandardPaths>
#include <cmath>

namespace tuvvo {

namespace {

constexpr std::uint64_t kMostTaughtBytes = 4u << 20;
constexpr double kTempoMoves = 0.3; ///< BPM by which a clock has to differ to be followed

} // namespace

ControllerService::ControllerService(Document& document, Player& player, Transport& transport,
                                     DeckHand& hand)
    : m_document(document), m_player(player), m_transport(transport), m_hand(hand),
      m_hub(player.engine()) {
  m_file = (QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) +
            QStringLiteral("/tuvvo/controllers.json"))
               .toStdString();
  read();
  for (auto signal : {&Document::changed, &Document::selectionChanged})
    connect(&document, signal, this, &ControllerService::layMaps);
  connect(&hand, &DeckHand::changed, this, &ControllerService::layMaps);
}

ControllerService::~ControllerService() = default;

void ControllerService::read() {
  if (!std::filesystem::exists(m_file)) return;
  const auto bytes = readFile(m_file, kMostTaughtBytes);
  auto read = bytes ? controllersFromText(*bytes, m_file.string()) : bytes.error();
  if (read) {
    m_controllers = std::move(read).value();
    return;
  }
  m_readable = false;
  emit message(QString::fromStdString(read.error().text()), true);
}

void ControllerService::write() {
  if (!m_readable) return;
  std::error_code code;
  std::filesystem::create_directories(m_file.parent_path(), code);
  if (const auto written = writeFileAtomically(m_file, controllersToText(m_controllers)); !written)
    emit message(QString::fromStdString(written.error().text()), true);
}

ControllerSettings ControllerService::settings(const MidiPortName& port) const {
  const auto known = m_controllers.find(port.name);
  return known == m_controllers.end() ? ControllerSettings{} : known->second;
}

void ControllerService::change(const MidiPortName& port,
                               const std::function<void(ControllerSettings&)>& change) {
  ControllerSettings& settings = m_controllers[port.name];
  change(settings);
  write();
  m_hub.setWanted(port, settings.wanted);
  layMaps();
  emit changed();
}

void ControllerService::watch() {
  if (m_rounds++ % 2 != 0) return;
  for (const auto& input : m_hub.inputs())
    if (const bool wanted = settings(input.port).wanted; wanted != input.wanted)
      m_hub.setWanted(input.port, wanted);
  const std::string said = m_hub.watch();
  if (said.empty() && m_rounds > 1) return;
  layMaps();
  emit changed();
  if (!said.empty()) emit message(QString::fromStdString(said), false);
}

/// Lays every controller's notes on what the deck plays now.
void ControllerService::layMaps() {
  const Project& project = m_document.project();
  const auto& hand = m_hand.settings();
  for (const auto& input : m_hub.inputs()) {
    if (!input.open) continue;
    const ControllerSettings settings = this->settings(input.port);
    LiveMap map;
    map.curve = settings.curve;
    map.pressRolls = settings.pressRolls;
    for (int n = 0; n < 128; ++n) {
      NoteStrike& strike = map.notes[std::size_t(n)];
      const auto spot = settings.spotOf(n);
      const Key* key = nullptr;
      PerformanceHit hit;
      if (spot) {
        key = m_hand.keyUnder(spot->row, spot->column);
        if (key && hand.spread)
          hit = spreadHit(*hand.spread, int(spot->row), spot->column, hand.velocity, project.key,
                          rootOf(project, *key));
      } else if (settings.layout == NoteLayout::Pitch) {
        key = findKey(project, m_document.selection().key);
        hit.tune = Semitones(n - 60);
        if (std::abs(hit.tune.value) > 48) key = nullptr;
      }
      if (!key) continue;
      strike.key = key->id;
      strike.tune = float(ratioOf(hit.tune));
      strike.from = float(hit.start);
      strike.bright = float(hit.bright);
      strike.hold = m_player.holdOf(*key, hit);
      if (hand.roll) strike.roll = {hand.rollBeats, float(hand.swell), float(hand.climb)};
    }
    m_hub.setMap(input.port, map);
  }
}

QString ControllerService::lastOf(const MidiPortName& port) const {
  return m_last.value(QString::fromStdString(port.name));
}

// ---- what comes ---------------------------------------------------------------------------------

void ControllerService::poll() {
  for (const auto& each : m_hub.take()) came(each);
}

void ControllerService::came(const MidiHub::Came& came) {
  const QString port = QString::fromStdString(came.port.name);
  switch (came.message.kind) {
  case MidiKind::NoteOn:
    m_last[port] = tr("note %1, velocity %2").arg(came.message.number).arg(came.message.value);
    note(came);
    emit noteCame(came.port, came.message.number, came.message.value);
    break;
  case MidiKind::Control:
    m_last[port] = tr("control %1 at %2").arg(came.message.number).arg(came.message.value);
    control(came);
    emit controlCame(came.port, came.message.number, came.message.value);
    break;
  case MidiKind::Clock:
  case MidiKind::Start:
  case MidiKind::Continue:
  case MidiKind::Stop:
    clock(came);
    return;
  default:
    return;
  }
  emit changed();
}

void ControllerService::note(const MidiHub::Came& came) {
  const QString port = QString::fromStdString(came.port.name);
  if (const auto fitting = m_fitting.find(port); fitting != m_fitting.end()) {
    fitting->push_back(came.message.value);
    if (int(fitting->size()) < kFitStrikes) return;
    const auto curve = curveOf(*fitting);
    m_fitting.erase(fitting);
    if (!curve) {
      emit message(
          tr("%1 sends nearly one velocity, however hard it is played; its curve stays.").arg(port),
          true);
      return;
    }
    change(came.port, [&](ControllerSettings& s) { s.curve = *curve; });
    emit message(tr("%1: softest %2, hardest %3. Its velocities are yours now.")
                     .arg(port)
                     .arg(curve->softest)
                     .arg(curve->hardest),
                 false);
    return;
  }
  if (m_learnKey) {
    const DeckSpot spot = *m_learnKey;
    m_learnKey.reset();
    change(came.port, [&](ControllerSettings& s) { s.notes[came.message.number] = spot; });
    emit message(tr("Note %1 of %2 plays %3 %4.")
                     .arg(came.message.number)
                     .arg(port, rowText(spot.row))
                     .arg(spot.column + 1),
                 false);
    return;
  }
  if (const auto spot = settings(came.port).spotOf(came.message.number))
    if (const Key* key = m_hand.keyUnder(spot->row, spot->column))
      m_document.select(withKeyChosen(m_document.selection(), m_document.project(), key->id));
}

void ControllerService::control(const MidiHub::Came& came) {
  const int number = came.message.number;
  if (!m_learnSlide.isEmpty()) {
    const std::string slide = m_learnSlide.toStdString();
    m_learnSlide.clear();
    change(came.port, [&](ControllerSettings& s) {
      std::erase_if(s.slides, [&](const auto& known) { return known.second == slide; });
      s.slides[number] = slide;
    });
    emit message(tr("Control %1 of %2 moves %3.")
                     .arg(number)
                     .arg(QString::fromStdString(came.port.name), m_learnName),
                 false);
    return;
  }
  const auto& slides = settings(came.port).slides;
  if (const auto slide = slides.find(number); slide != slides.end())
    emit slideMoved(QString::fromStdString(slide->second), came.message.value / 127.0);
}

void ControllerService::clock(const MidiHub::Came& came) {
  if (!settings(came.port).followClock) return;
  ClockFollower& follower = m_clocks[came.port.name];
  switch (came.message.kind) {
  case MidiKind::Start:
    follower.reset();
    if (!m_transport.playing()) m_transport.play(0);
    return;
  case MidiKind::Continue:
    if (!m_transport.playing()) m_transport.play(std::max(0.0, m_transport.positionBeats()));
    return;
  case MidiKind::Stop:
    if (m_transport.playing()) m_transport.stop();
    return;
  default:
    break;
  }
  follower.pulse(toSeconds(came.when));
  const auto tempo = follower.tempo();
  if (!tempo || std::abs(tempo->value - m_document.project().tempo.value) < kTempoMoves) return;
  Project next = m_document.project();
  next.tempo =
      Bpm(std::clamp(std::round(tempo->value * 10) / 10, kSlowestTempo.value, kFastestTempo.value));
  m_document.edit(tr("Follow a clock"), std::move(next), QStringLiteral("clock"));
}

// ---- learning -----------------------------------------------------------------------------------

void ControllerService::learnKey(const DeckSpot& spot) {
  stopLearning();
  m_learnKey = spot;
  emit changed();
}

void ControllerService::learnSlide(const QString& slide, const QString& name) {
  stopLearning();
  m_learnSlide = slide;
  m_learnName = name;
  emit message(tr("Move the control that is to move %1.").arg(slide.section(QLatin1Char('/'), -1)),
               false);
  emit changed();
}

void ControllerService::forgetSlide(const QString& slide) {
  for (auto& [name, settings] : m_controllers)
    std::erase_if(settings.slides,
                  [&](const auto& known) { return known.second == slide.toStdString(); });
  write();
  emit changed();
}

void ControllerService::stopLearning() {
  m_learnKey.reset();
  m_learnSlide.clear();
  m_fitting.clear();
  emit changed();
}

QString ControllerService::learning() const {
  if (m_learnKey)
    return tr("Press the pad or key for %1 %2.")
        .arg(rowText(m_learnKey->row))
        .arg(m_learnKey->column + 1);
  if (!m_learnSlide.isEmpty()) return tr("Move the control that is to move %1.").arg(m_learnName);
  for (auto fitting = m_fitting.begin(); fitting != m_fitting.end(); ++fitting)
    return tr("Play it %1 more times, from as soft to as hard as you play.")
        .arg(kFitStrikes - int(fitting->size()));
  return {};
}

void ControllerService::fitCurve(const MidiPortName& port) {
  stopLearning();
  m_fitting[QString::fromStdString(port.name)] = {};
  emit changed();
}

} // namespace tuvvo
