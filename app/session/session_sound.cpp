#include "base/convert.h"
#include "base/tempo_map.h"
#include "cut/fit.h"
#include "model/edits.h"
#include "session/session.h"

namespace tuvvo {

namespace {
Engine::Command command(Engine::Command::Kind kind) {
  Engine::Command c{kind};
  return c;
}
} // namespace

void Session::openSound(const SoundChoice& choice) {
  m_catch->stop(); // what was caught until now is kept
  const std::string said = m_liveSound.open(choice);
  if (!said.empty()) emit message(QString::fromStdString(said), true);
  m_standIn->prepare();
  refreshMonitor();
  emit transportChanged();
}

void Session::chooseSound(const SoundChoice& choice) {
  openSound(choice);
  m_soundMemory.keepChoice(choice);
}

void Session::rebuildScore() {
  std::vector<BakeOrder> wanted;
  CompileOptions options;
  options.audition = m_audition;
  options.bars = m_practising ? kPracticeBars : 0;
  if (m_catch) options.monitor = m_catch->monitor();
  options.baked = [&](const BakeOrder& order) {
    wanted.push_back(order);
    return m_bakery.find(order.name);
  };
  m_score = std::make_shared<Score>(m_plays == Plays::Song
                                        ? compileSong(project(), options)
                                        : compilePattern(project(), m_selection.pattern, options));
  m_bakery.want(std::move(wanted));
  m_engine.setScore(m_score);
}

void Session::waitForBakes() {
  m_bakery.wait();
  rebuildScore();
  emit bakeMoved();
}

void Session::setPlays(Plays plays) {
  if (plays == m_plays) return;
  const bool wasPlaying = m_playing;
  if (m_recording) toggleRecord();
  m_plays = plays;
  rebuildScore();
  if (wasPlaying) play(0);
  emit transportChanged();
}

Meter Session::meter() const {
  const Project& p = project();
  const bool song = m_plays == Plays::Song && !p.sections.empty();
  const PatternPtr pattern =
      findPattern(p, song ? p.sections.front().pattern : m_selection.pattern);
  return pattern ? pattern->meter : p.meter;
}

double Session::positionBeats() const {
  return m_score ? m_score->beatsAt(double(m_engine.position())) : 0;
}

void Session::togglePlay() {
  if (m_playing)
    stop();
  else
    play(0);
}

void Session::play(double fromBeats) {
  if (!m_score || m_score->length <= 0) {
    emit message(m_plays == Plays::Song ? tr("The song is empty. Add a section first.")
                                        : tr("There is no pattern to play."),
                 true);
    return;
  }
  auto c = command(Engine::Command::Kind::Play);
  c.frame = m_score->frameAt(fromBeats);
  m_engine.send(c);
  m_playing = true;
  ++m_starts;
  emit transportChanged();
}

void Session::stop() {
  m_engine.send(command(Engine::Command::Kind::Stop));
  m_playing = false;
  if (m_recording) finishTake();
  if (m_practising) finishPractice();
  emit transportChanged();
}

void Session::seek(double beats) {
  auto c = command(Engine::Command::Kind::Seek);
  c.frame = m_score->frameAt(beats);
  m_engine.send(c);
}

void Session::setMetronome(bool on) {
  m_metronome = on;
  auto c = command(Engine::Command::Kind::Metronome);
  c.on = on;
  c.sound = m_click.sound;
  c.level = float(gainOf(m_click.level));
  m_engine.send(c);
  emit transportChanged();
}

void Session::setClick(const Click& click) {
  m_click = click;
  m_click.sound = std::clamp(m_click.sound, 0, Engine::kClickSounds - 1);
  m_click.level.value = std::clamp(m_click.level.value, -30.0, 9.0);
  m_click.countIn = std::clamp(m_click.countIn, 0, 2);
  setMetronome(m_metronome);
}

void Session::poll() {
  m_controllers->poll();
  m_catch->poll();
  takeReports();
  layPending(false);
  if (m_practising && m_playing && m_score && m_score->length > 0)
    beginRound(heardNow() / m_score->length);
  eraseOn();
  const auto peaks = m_engine.takePeaks();
  bool moving = m_playing;
  for (std::size_t i = 0; i < 2; ++i) {
    m_peaks[i] = std::max(peaks[i], m_peaks[i] * 0.86f);
    moving = moving || m_peaks[i] > 1e-4f;
  }
  QHash<Id, float> levels; // of a key's loudest patch; what sounded falls away
  for (auto level = m_levels.cbegin(); level != m_levels.cend(); ++level)
    levels[level.key()] = level.value() * 0.75f;
  if (m_score)
    for (std::size_t i = 0; i < m_score->patches.size(); ++i) {
      float& level = levels[m_score->patches[i].key];
      level = std::max(level, m_engine.takeLevel(int(i)));
    }
  levels.removeIf([](const auto& level) { return level.value() <= 1e-3f; });
  m_levels = std::move(levels);
  m_engine.collect();
  if (moving || !m_levels.isEmpty()) emit tick();
  if (m_job) emit jobChanged();
}

} // namespace tuvvo
