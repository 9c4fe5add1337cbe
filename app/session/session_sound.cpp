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

void Session::openOutput(OutputChoice choice) {
  const std::string said = m_output.open(choice);
  if (!said.empty()) emit message(QString::fromStdString(said), true);
  emit transportChanged();
}

void Session::rebuildScore() {
  std::vector<BakeOrder> wanted;
  CompileOptions options;
  options.audition = m_audition;
  options.baked = [&](const BakeOrder& order) {
    wanted.push_back(order);
    return m_bakery.find(order.name);
  };
  m_score = std::make_shared<Score>(m_plays == Plays::Song
                                        ? compileSong(project(), options)
                                        : compilePattern(project(), m_selection.pattern, options));
  m_bakery.want(std::move(wanted));
  bringSoundsNear();
  m_engine.setScore(m_score);
}

void Session::bringSoundsNear() {
  bringNear(*m_score);
  const Seconds place = placeAsItIs();
  if (!m_audition.sound || place.value < 0) return;
  const Sound& sound = *m_audition.sound; // ten seconds of what is heard from end to end
  const std::int64_t from = std::min(toFrames(place, sound.rate()), sound.frames()).value,
                     count = std::min(toFrames(Seconds(10), sound.rate()).value,
                                      sound.frames().value - from);
  for (int c = 0; c < sound.channels(); ++c)
    soonRead(sound.channel(c).subspan(std::size_t(from), std::size_t(count)));
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

double Session::positionBeats() const {
  return m_score ? double(m_engine.position()) / m_score->framesPerBeat : 0;
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
  c.frame = std::int64_t(std::llround(fromBeats * m_score->framesPerBeat));
  m_engine.send(c);
  m_playing = true;
  emit transportChanged();
}

void Session::stop() {
  m_engine.send(command(Engine::Command::Kind::Stop));
  m_playing = false;
  if (m_recording) finishTake();
  emit transportChanged();
}

void Session::seek(double beats) {
  auto c = command(Engine::Command::Kind::Seek);
  c.frame = std::int64_t(std::llround(beats * m_score->framesPerBeat));
  m_engine.send(c);
}

void Session::setMetronome(bool on) {
  m_metronome = on;
  auto c = command(Engine::Command::Kind::Metronome);
  c.on = on;
  m_engine.send(c);
  emit transportChanged();
}

void Session::toggleRecord() {
  if (m_recording) {
    takeReports();
    finishTake();
    emit transportChanged();
    return;
  }
  setPlays(Plays::Pattern);
  m_take.clear();
  m_held.clear();
  m_recording = true;
  play(m_playing ? positionBeats() : -double(project().beatsPerBar)); // a bar to count in
}

void Session::strike(Id key, double velocity) {
  auto c = command(Engine::Command::Kind::Strike);
  c.key = key;
  c.velocity = float(std::clamp(velocity, 0.02, 1.0));
  m_engine.send(c);
}

void Session::release(Id key) {
  auto c = command(Engine::Command::Kind::Release);
  c.key = key;
  m_engine.send(c);
}

void Session::poll() {
  takeReports();
  const auto peaks = m_engine.takePeaks();
  bool moving = m_playing;
  for (std::size_t i = 0; i < 2; ++i) {
    m_peaks[i] = std::max(peaks[i], m_peaks[i] * 0.86f);
    moving = moving || m_peaks[i] > 1e-4f;
  }
  if (m_score)
    for (std::size_t i = 0; i < m_score->patches.size(); ++i) {
      const Id key = m_score->patches[i].key;
      const float level = std::max(m_engine.takeLevel(int(i)), m_levels.value(key, 0.0f) * 0.75f);
      if (level > 1e-3f)
        m_levels[key] = level;
      else
        m_levels.remove(key);
    }
  m_engine.collect();
  if (m_score && ++m_polls % 64 == 0) bringSoundsNear(); // every other second
  if (moving || !m_levels.isEmpty()) emit tick();
  if (m_job) emit jobChanged();
}

void Session::takeReports() {
  Engine::Report report{};
  while (m_engine.nextReport(report)) {
    if (report.kind == Engine::Report::Kind::AuditionEnded) {
      endAudition();
      continue;
    }
    if (report.kind == Engine::Report::Kind::Ended) {
      m_playing = false;
      emit transportChanged();
      emit tick();
      continue;
    }
    // A little before the one counts as the one: a hand that comes in early is not lost.
    if (!m_recording || !report.playing || report.frame < -std::int64_t(0.12 * kEngineRate.value))
      continue;
    const std::int64_t absolute = report.frame + report.pass * m_score->length;
    if (report.kind == Engine::Report::Kind::Struck) {
      StruckHit hit;
      hit.key = report.key;
      hit.velocity = double(report.velocity);
      hit.at = Beats(
          std::llround(double(report.frame) / m_score->framesPerBeat * double(kTicksPerBeat)));
      m_held[report.key] = absolute;
      m_take.push_back(hit);
    } else if (m_held.contains(report.key)) {
      const double held = double(absolute - m_held.take(report.key)) / m_score->framesPerBeat;
      for (auto hit = m_take.rbegin(); hit != m_take.rend(); ++hit)
        if (hit->key == report.key) {
          hit->length = Beats(std::llround(held * double(kTicksPerBeat)));
          break;
        }
    }
  }
}

void Session::finishTake() {
  m_recording = false;
  if (m_take.empty()) return;
  TakeOptions options;
  options.strength = quantise;
  const auto take = std::move(m_take);
  m_take.clear();
  Project next = withPatternChanged(project(), m_selection.pattern, [&](Pattern& pattern) {
    pattern = withTake(pattern, project(), take, options);
  });
  edit(tr("Record a take"), std::move(next));
  emit message(take.size() == 1 ? tr("1 hit recorded") : tr("%1 hits recorded").arg(take.size()),
               false);
}

} // namespace tuvvo
