#include "session/reel_player.h"

#include "audio/decode.h"
#include "formats/shipped.h"

#include <QFileInfo>

namespace tuvvo {

ReelPlayer::ReelPlayer(Document& document, JobService& jobs, Player& player)
    : m_document(document), m_player(player), m_pool(1, jobs.trouble()) {
  connect(&player, &Player::soundOpened, this, &ReelPlayer::prepare);
}

SimulatedInput* ReelPlayer::input() const { return m_player.liveSound().simulatedInput(); }

void ReelPlayer::prepare() {
  SimulatedInput* now = input();
  if (!now) return emit changed();
  if (now->kind() == SimulatedInput::Kind::Microphone && !m_microphone) {
    JobContext job;
    auto decoded = decodeFile(dataFolder() / "stand-ins" / "microphone.flac", job);
    if (decoded)
      m_microphone = decoded->sound;
    else
      emit message(QString::fromStdString(decoded.error().text()), true);
  }
  if (now->kind() == SimulatedInput::Kind::Line && !m_sound) {
    // Something to play: the first sound of the beat that is no drum of the kit.
    for (const auto& source : m_document.project().sources)
      if (!source->kit && source->sound) {
        m_sound = source->sound;
        m_name = QString::fromStdString(source->name);
        break;
      }
  }
  lay();
}

void ReelPlayer::lay() {
  SimulatedInput* now = input();
  if (!now) return;
  const bool line = now->kind() == SimulatedInput::Kind::Line;
  now->load(line ? m_sound : m_microphone);
  if (line)
    now->set(m_settings);
  else
    now->set({1, Decibels(-3), Decibels(-100), Decibels(-100), Hertz(50)});
  emit changed();
}

void ReelPlayer::playFile(const QString& path) {
  const int run = ++m_run;
  m_pool.run([this, path, run](JobContext& job) {
    auto decoded = decodeFile(path.toStdString(), job);
    QMetaObject::invokeMethod(
        this,
        [this, path, run, decoded = std::move(decoded)] {
          if (run != m_run) return;
          if (decoded)
            playSound(QFileInfo(path).completeBaseName(), decoded->sound);
          else
            emit message(QString::fromStdString(decoded.error().text()), true);
        },
        Qt::QueuedConnection);
  });
}

void ReelPlayer::playSound(const QString& name, SoundPtr sound) {
  ++m_run;
  m_name = name;
  m_sound = std::move(sound);
  lay();
}

void ReelPlayer::set(const LineSettings& settings) {
  m_settings = settings;
  if (SimulatedInput* now = input(); now && now->kind() == SimulatedInput::Kind::Line) {
    now->set(settings);
    m_settings = now->settings();
  }
  emit changed();
}

void ReelPlayer::start() {
  if (SimulatedInput* now = input()) now->start();
  emit changed();
}

void ReelPlayer::stop() {
  if (SimulatedInput* now = input()) now->stop();
  emit changed();
}

bool ReelPlayer::runs() const { return input() && input()->runs(); }

Seconds ReelPlayer::place() const { return input() ? input()->place() : Seconds(0); }

Seconds ReelPlayer::length() const {
  const SimulatedInput* now = input();
  if (!now) return Seconds(0);
  const SoundPtr& sound = now->kind() == SimulatedInput::Kind::Line ? m_sound : m_microphone;
  return sound ? sound->duration() : Seconds(0);
}

} // namespace tuvvo
