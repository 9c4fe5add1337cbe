#include "session/catch_service.h"

#include "base/convert.h"
#include "base/tempo_map.h"
#include "session/clock_text.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QFileInfo>
#include <QStandardPaths>
#include <cmath>

namespace tuvvo {

namespace {

constexpr qint64 kHoldMs = 3000, kAdviceMs = 10'000;
constexpr float kFalls = 0.86f; ///< a poll
constexpr int kMostBarsCaught = 64;
constexpr int kListensMs = 60;       ///< before the probe goes out
constexpr EngineFrames kAhead(2400); ///< a bar line nearer than this is the next one's

std::filesystem::path home(const char* name) {
  return (QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) +
          QStringLiteral("/tuvvo/"))
             .toStdString() +
         name;
}

QString nowText() {
  return QDateTime::currentDateTime().toString(QStringLiteral("yyyy-MM-dd HH:mm"));
}

} // namespace

CatchService::CatchService(Document& document, JobService& jobs, Player& player,
                           Transport& transport, CrateService& crate)
    : m_document(document), m_player(player), m_transport(transport), m_crate(crate),
      m_catcher(std::make_unique<Catcher>(
          player.engine().input(),
          [this](CatchEvent told) {
            QMetaObject::invokeMethod(
                this, [this, told = std::move(told)]() mutable { this->told(std::move(told)); },
                Qt::QueuedConnection);
          })),
      m_pool(1, jobs.trouble()) {
  player.setMonitor([this] { return monitor(); });
  connect(&player, &Player::aboutToOpenSound, this, &CatchService::stop); // what came is kept
  connect(&document, &Document::selectionChanged, this, [this] {
    if (m_settings.hear == Hear::Through) m_player.refresh();
  });
  connect(&transport, &Transport::changed, this, [this] { // a bar that never comes
    if (m_catching && m_settings.mode == Mode::Bars && !m_transport.playing() &&
        !m_catcher->now().taking)
      stop();
  });
  connect(&document, &Document::changed, this, [this] { // bars of two tempos fit nothing
    if (m_catching && m_settings.mode == Mode::Bars && m_document.project().tempo.value != m_tempo)
      stop();
  });
}

CatchService::~CatchService() = default;

std::filesystem::path CatchService::caughtFolder() const { return home("caught"); }
std::filesystem::path CatchService::takesFolder() const { return home("takes"); }

void CatchService::change(const Settings& settings) {
  if (settings == m_settings) return;
  if (m_catching && settings.mode != m_settings.mode) stop();
  m_settings = settings;
  m_settings.bars = std::clamp(settings.bars, 1, kMostBarsCaught);
  m_player.refresh();
  emit changed();
}

Monitor CatchService::monitor() const {
  Monitor out;
  // What goes out and comes in by a cable would go round for ever.
  const bool howls = m_player.liveSound().choice().input == InputChoice::Cable;
  if (m_settings.hear == Hear::Not || m_measuring || howls) return out;
  const Id key = m_document.selection().key;
  if (m_settings.hear == Hear::Direct || !findKey(m_document.project(), key)) {
    out.on = true;
    return out;
  }
  out = monitorThrough(m_document.project(), key);
  out.prints = m_settings.prints;
  return out;
}

// ---- level --------------------------------------------------------------------------------------

bool CatchService::listens() const { return !m_player.liveSound().inputName().empty(); }

void CatchService::forgetPeaks() {
  m_level.held = {};
  m_loudest = 0;
  m_clipsBefore += m_level.clips;
  m_level.clips = 0;
  emit levelMoved();
}

void CatchService::poll() {
  const auto now = m_player.engine().input().takeLevel();
  const qint64 time = QDateTime::currentMSecsSinceEpoch();
  if (time - m_adviceSince > kAdviceMs) m_loudest = 0;
  for (std::size_t c = 0; c < 2; ++c) {
    m_level.peak[c] = std::max(now.peak[c], m_level.peak[c] * kFalls);
    m_level.rms[c] = now.rms[c];
    if (now.peak[c] >= m_level.held[c]) {
      m_level.held[c] = now.peak[c];
      m_heldSince = time;
    }
    if (now.peak[c] >= m_loudest) {
      m_loudest = now.peak[c];
      m_adviceSince = time;
    }
  }
  if (time - m_heldSince > kHoldMs) {
    m_level.held = m_level.peak;
    m_heldSince = time;
  }
  m_level.clips = now.clips - m_clipsBefore;
  m_level.advice = adviceFor(m_loudest, m_level.clips);
  if (listens() || m_catching) emit levelMoved();
}

void CatchService::watch() {
  if (!m_catching || listens()) return;
  stop();
  emit message(
      tr("The input has gone. What was caught before is kept; choose an input in Devices."), true);
}

// ---- catching -----------------------------------------------------------------------------------

QString CatchService::settingsText() const {
  QString text;
  switch (m_settings.mode) {
  case Mode::Bars:
    text = tr("%1 bars at %2 BPM").arg(m_settings.bars).arg(m_tempo, 0, 'f', 2);
    text += tr(", %1 frames of latency taken off (%2)")
                .arg(roundTrip())
                .arg(measured() ? tr("measured") : tr("estimated"));
    break;
  case Mode::Hits:
    text = tr("single sound, %1 dB over the noise").arg(m_settings.hits.over.value);
    break;
  case Mode::Long:
    text = tr("long take");
  }
  return text + (monitor().prints ? tr(", with the effect of a key") : tr(", dry"));
}

Provenance CatchService::provenanceFor(const QString& settings) const {
  Provenance provenance;
  provenance.from = tr("caught from %1")
                        .arg(QString::fromStdString(m_player.liveSound().inputName()))
                        .toStdString();
  provenance.when = nowText().toStdString();
  provenance.note = settings.toStdString();
  return provenance;
}

void CatchService::begin() {
  if (m_catching || m_measuring) return;
  if (!listens()) {
    emit message(tr("Nothing comes in. Choose an input first: a device, or a simulated one."),
                 true);
    return;
  }
  m_catching = true;
  m_tempo = m_document.project().tempo.value;
  switch (m_settings.mode) {
  case Mode::Bars:
    beginBars();
    break;
  case Mode::Hits:
    m_catcher->order(HitsRequest{m_settings.hits});
    break;
  case Mode::Long:
    m_catcher->order(LongRequest{
        takesFolder(),
        {m_player.liveSound().inputName(), nowText().toStdString(), settingsText().toStdString()}});
    break;
  }
  emit changed();
}

void CatchService::beginBars() {
  const ScorePtr score = m_player.score();
  const auto framesFrom = [&](Beats line) {
    const Beats end = score->barLineAfter(line, m_settings.bars);
    return toNearest<std::int64_t>(
        score->tempo.framesBetween(double(line.value), double(end.value), kEngineRate));
  };
  BarsRequest order;
  order.latency = roundTrip();
  order.frames = m_barFrames = framesFrom(Beats(0));
  if (m_transport.playing() && score->length.value > 0) {
    const EngineFrames now = m_player.engine().absolutePosition() + kAhead;
    const EngineFrames place = score->placeOf(now);
    const Beats next = score->barLineAfter(score->barLineAt(place), 1);
    order.from = now - place + std::min(score->length, score->frameAt(next));
    order.frames = m_barFrames = framesFrom(next);
    m_catcher->order(order);
    return;
  }
  m_catcher->order(order);
  m_transport.play(-m_transport.click().countIn * quartersOf(score->meters.front().meter));
  if (!m_transport.playing()) stop(); // there is no pattern; a message has said so
}

void CatchService::toggle() {
  if (m_catching)
    stop();
  else
    begin();
}

void CatchService::stop() {
  if (!m_catching) return;
  m_catcher->order({});
  m_catching = false;
  emit changed();
}

void CatchService::finish() {
  stop();
  m_catcher->finish();
  // What it has told lies in the event queue, and so does what becomes of that.
  QCoreApplication::sendPostedEvents(this, QEvent::MetaCall);
  m_pool.waitIdle();
  QCoreApplication::sendPostedEvents(this, QEvent::MetaCall);
}

QString CatchService::state() const {
  if (m_measuring) return tr("listening for the sound that was sent");
  if (!m_catching) return {};
  const auto now = m_catcher->now();
  switch (m_settings.mode) {
  case Mode::Bars:
    if (!now.taking) return tr("waiting for the bar");
    return tr("bar %1 of %2").arg(1 + int(done() * m_settings.bars * 0.9999)).arg(m_settings.bars);
  case Mode::Hits:
    if (std::isinf(now.floor.value)) return tr("listening to the room");
    if (now.taking) return tr("caught %1, and one sounds").arg(now.hits);
    return tr("caught %1; play the next").arg(now.hits);
  case Mode::Long:
    break;
  }
  return tr("%1 on disc").arg(clockText(toSeconds(Frames(now.frames), kEngineRate), false));
}

double CatchService::done() const {
  if (!m_catching || m_settings.mode != Mode::Bars || m_barFrames == 0) return 0;
  return std::min(1.0, double(m_catcher->now().frames) / double(m_barFrames));
}

std::optional<Seconds> CatchService::room() const { return roomIn(takesFolder()); }

// ---- the way there and back ---------------------------------------------------------------------

void CatchService::measureLatency() {
  if (m_measuring || m_catching || !listens()) return;
  m_measuring = true;
  m_player.refresh(); // what comes in is not sent out again
  m_catcher->order(ProbeRequest{});
  QTimer::singleShot(kListensMs, this, [this] {
    m_player.engine().send(Engine::Command{Engine::Command::Kind::Probe});
  });
  QTimer::singleShot(5000, this, [this] { // a device that stands still gives nothing
    if (m_measuring) m_catcher->order({});
  });
  emit changed();
}

std::optional<std::int64_t> CatchService::measured() const {
  return m_player.soundMemory().latency(SoundMemory::setupOf(m_player.liveSound()));
}

std::int64_t CatchService::roundTrip() const {
  const SoundDevice* device = m_player.liveSound().device();
  return processorsLate() +
         measured().value_or(Limiter::kLatency + (device ? 2 * device->blockFrames() : 0));
}

/// What is measured goes past the buses; the music does not.
std::int64_t CatchService::processorsLate() const {
  return std::max(0, m_player.engine().latency() - Limiter::kLatency);
}

EngineFrames CatchService::toTheEar() const {
  const SoundDevice* device = m_player.liveSound().device();
  const std::int64_t block = device ? device->blockFrames() : 0, limiter = Limiter::kLatency;
  const auto known = measured();
  return EngineFrames(processorsLate() +
                      (known ? std::max(limiter, *known - block) : limiter + block));
}

void CatchService::foundLatency(const LatencyFound& found) {
  m_measuring = false;
  m_player.refresh();
  if (found.frames) {
    m_player.soundMemory().keepLatency(SoundMemory::setupOf(m_player.liveSound()), *found.frames);
    emit message(tr("There and back takes %1 ms (%2 frames); it came back at %3 dB. Takes "
                    "and catches are moved back by it from now on.")
                     .arg(double(*found.frames) / kEngineRate.value * 1000, 0, 'f', 2)
                     .arg(*found.frames)
                     .arg(found.gain.value, 0, 'f', 0),
                 false);
  } else {
    emit message(tr("The sound that was sent did not come back. Connect an output to the "
                    "input with a cable, or hold the microphone to a headphone, and "
                    "raise the input's level."),
                 true);
  }
  emit changed();
}

} // namespace tuvvo
