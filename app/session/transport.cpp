#include "session/transport.h"

#include "base/tempo_map.h"
#include "model/edits.h"

#include <cmath>

namespace tuvvo {

Transport::Transport(Document& document, Player& player) : m_document(document), m_player(player) {
  m_clock.start();
  connect(&document, &Document::workEnds, this, &Transport::stop);
  connect(&document, &Document::replaced, this, [this] { m_taps.reset(); });
  connect(&player, &Player::soundOpened, this, &Transport::changed);
  connect(&player, &Player::ended, this, [this] {
    m_playing = false;
    emit changed();
    emit tick();
  });
}

void Transport::setPlays(Plays plays) {
  if (plays == this->plays()) return;
  const bool wasPlaying = m_playing;
  emit aboutToChangePlays();
  m_player.setPlays(plays);
  if (wasPlaying) play(0);
  emit changed();
}

Meter Transport::meter() const {
  const Project& p = m_document.project();
  const bool song = plays() == Plays::Song && !p.sections.empty();
  const PatternPtr pattern =
      findPattern(p, song ? p.sections.front().pattern : m_document.selection().pattern);
  return pattern ? pattern->meter : p.meter;
}

double Transport::positionBeats() const {
  const ScorePtr score = m_player.score();
  return score ? score->beatsAt(m_player.engine().position()) : 0;
}

void Transport::togglePlay() {
  if (m_playing)
    stop();
  else
    play(0);
}

void Transport::play(double fromBeats) {
  const ScorePtr score = m_player.score();
  if (!score || score->length.value <= 0) {
    emit message(plays() == Plays::Song ? tr("The song is empty. Add a section first.")
                                        : tr("There is no pattern to play."),
                 true);
    return;
  }
  Engine::Command c{Engine::Command::Kind::Play};
  c.frame = score->frameAt(fromBeats);
  m_player.engine().send(c);
  m_playing = true;
  ++m_starts;
  emit changed();
}

void Transport::stop() {
  m_player.engine().send(Engine::Command{Engine::Command::Kind::Stop});
  m_playing = false;
  emit stopped();
  emit changed();
}

void Transport::seek(double beats) {
  Engine::Command c{Engine::Command::Kind::Seek};
  c.frame = m_player.score()->frameAt(beats);
  m_player.engine().send(c);
}

void Transport::setMetronome(bool on) {
  m_metronome = on;
  Engine::Command c{Engine::Command::Kind::Metronome};
  c.on = on;
  c.sound = m_click.sound;
  c.level = float(gainOf(m_click.level));
  m_player.engine().send(c);
  emit changed();
}

void Transport::setClick(const Click& click) {
  m_click = click;
  m_click.sound = std::clamp(m_click.sound, 0, Engine::kClickSounds - 1);
  m_click.level.value = std::clamp(m_click.level.value, -30.0, 9.0);
  m_click.countIn = std::clamp(m_click.countIn, 0, 2);
  setMetronome(m_metronome);
}

void Transport::tapTempo() {
  m_taps.tap(Seconds(double(m_clock.nsecsElapsed()) * 1e-9));
  const auto tempo = m_taps.tempo();
  if (!tempo) return;
  Project next = m_document.project();
  next.tempo = Bpm(std::clamp(std::round(tempo->bpm.value * 100) / 100, kSlowestTempo.value,
                              kFastestTempo.value));
  m_document.edit(tr("Tap the tempo"), std::move(next), QStringLiteral("tap"));
  emit message(tr("%1 BPM ± %2 from %3 taps")
                   .arg(tempo->bpm.value, 0, 'f', 2)
                   .arg(tempo->uncertaintyBpm, 0, 'f', 2)
                   .arg(tempo->taps),
               false);
}

void Transport::poll(bool sounds) {
  if (m_playing || sounds) emit tick();
}

} // namespace tuvvo
