#include "session/transport.h"

#include "base/tempo_map.h"
#include "model/edits.h"
#include "song/timeline.h"

#include <cmath>

namespace tuvvo {

Transport::Transport(Document& document, Player& player) : m_document(document), m_player(player) {
  m_clock.start();
  connect(&document, &Document::workEnds, this, &Transport::stop);
  connect(&document, &Document::replaced, this, [this] { m_taps.reset(); });
  connect(&document, &Document::selectionChanged, this, &Transport::keepLoop);
  connect(&document, &Document::changed, this, &Transport::keepLoop);
  connect(&document, &Document::replaced, this, &Transport::loopAll);
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
  loopAll();
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
  const double at = score ? score->beatsAt(m_player.engine().position()) : 0;
  // What stands still begins with what goes round.
  const bool outside =
      m_loop && (at < inBeats(m_loop->from) || at >= inBeats(m_loop->until)) && !m_playing;
  return outside ? inBeats(m_loop->from) : at;
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
  // Whoever starts elsewhere wants to hear that.
  if (m_loop && fromBeats > 0 &&
      (fromBeats < inBeats(m_loop->from) || fromBeats >= inBeats(m_loop->until)))
    loopAll();
  c.frame = m_player.score()->frameAt(fromBeats);
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

// ---- what goes round ----------------------------------------------------------------------------

std::vector<Beats> Transport::barLines() const {
  const Project& p = m_document.project();
  std::vector<Beats> lines{Beats(0)};
  if (plays() == Plays::Pattern) {
    if (const PatternPtr pattern = findPattern(p, m_document.selection().pattern))
      for (int bar = 1; bar <= pattern->bars; ++bar) lines.push_back(barOf(pattern->meter) * bar);
    return lines;
  }
  for (const auto& placed : timelineOf(p).sections)
    for (Beats at = barOf(placed.meter); at <= placed.length; at += barOf(placed.meter))
      lines.push_back(placed.start + at);
  return lines;
}

int Transport::barAt(double beats) const {
  const auto lines = barLines();
  const auto after = std::upper_bound(lines.begin(), lines.end(), beats,
                                      [](double b, Beats line) { return b < inBeats(line); });
  return int(std::clamp<std::ptrdiff_t>(after - lines.begin() - 1, 0,
                                        std::max<std::ptrdiff_t>(0, std::ssize(lines) - 2)));
}

std::optional<std::pair<int, int>> Transport::loopedBars() const {
  if (!m_loop) return std::nullopt;
  return std::pair(barAt(inBeats(m_loop->from)) + 1, barAt(inBeats(m_loop->until) - 0.01) + 1);
}

void Transport::loopBars(int from, int bars) {
  const auto lines = barLines();
  const int last = int(lines.size()) - 1;
  if (bars <= 0 || from >= last) return loopAll();
  from = std::max(0, from);
  setLoop(LoopSpan{lines[std::size_t(from)], lines[std::size_t(std::min(last, from + bars))]});
}

void Transport::loopFrom(double beats) {
  const auto lines = barLines();
  const int bar = barAt(beats), last = int(lines.size()) - 1;
  const int until = m_loop ? barAt(inBeats(m_loop->until) - 0.01) + 1 : last;
  loopBars(bar, (until > bar ? until : last) - bar);
}

void Transport::loopTo(double beats) {
  const int bar = barAt(beats), from = m_loop ? barAt(inBeats(m_loop->from)) : 0;
  loopBars(from <= bar ? from : 0, bar + 1 - (from <= bar ? from : 0));
}

void Transport::loopLastBar(double beats) {
  const auto lines = barLines();
  const int bar = barAt(beats);
  if (lines.size() < 2) return;
  const double into = beats - inBeats(lines[std::size_t(bar)]),
               length = inBeats(lines[std::size_t(bar) + 1] - lines[std::size_t(bar)]);
  loopBars(m_playing && bar > 0 && into < length / 4 ? bar - 1 : bar, 1);
}

void Transport::setLoop(const std::optional<LoopSpan>& loop) {
  if (loop == m_loop) return;
  emit loopChanging();
  takeLoop(loop);
}

void Transport::takeLoop(const std::optional<LoopSpan>& loop) {
  ++m_starts;
  m_loop = loop;
  m_loopOf = plays() == Plays::Pattern ? m_document.selection().pattern : 0;
  m_player.setLoop(loop);
  emit loopChanged();
}

/// A loop belongs to what it was made in, and lies inside of it.
void Transport::keepLoop() {
  if (!m_loop) return;
  const Id now = plays() == Plays::Pattern ? m_document.selection().pattern : 0;
  // Whoever is told of a change may not make another: nobody is asked what is pending.
  if (m_loopOf != now || m_loop->until > barLines().back()) takeLoop(std::nullopt);
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
