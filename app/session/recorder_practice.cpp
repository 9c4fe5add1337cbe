// Practice, and catching what was played before anybody thought of recording.
#include "base/convert.h"
#include "base/tempo_map.h"
#include "model/edits.h"
#include "session/recorder.h"

#include <cmath>

namespace tuvvo {

namespace {
constexpr double kPhraseS = 4; ///< a rest as long as this begins another phrase
}

// ---- practice -----------------------------------------------------------------------------------

void Recorder::togglePractice() {
  if (m_practising) {
    finishPractice();
    m_transport.stop();
    return;
  }
  if (m_recording) toggleRecord();
  m_transport.setPlays(Plays::Pattern);
  m_practising = true;
  m_rounds.clear();
  m_take.clear();
  m_round = 0;
  m_ownLoop = !m_transport.loop();
  if (m_ownLoop) m_transport.loopBars(0, kPracticeBars);
  m_transport.play(-std::max(1, m_transport.click().countIn) * quartersOf(m_transport.meter()));
  emit takeChanged();
}

/// The music has come to another round: what was played in the one before is looked at.
void Recorder::beginRound(std::int64_t round) {
  if (round <= m_round) return;
  finishRound();
  m_round = round;
}

void Recorder::finishRound() {
  if (m_take.empty()) return;
  const PatternPtr pattern = this->pattern();
  if (!pattern) return;
  m_timing = timingOf(m_document.project(), *pattern, m_take);
  m_rounds.push_back({m_timing.all, std::move(m_take)});
  m_take.clear();
  emit takeChanged();
}

void Recorder::finishPractice() {
  m_player.takeReports();
  finishRound();
  m_practising = false;
  if (std::exchange(m_ownLoop, false)) m_transport.loopAll();
  emit takeChanged();
}

// ---- catch that ---------------------------------------------------------------------------------

namespace {

/// Hits cut into rounds; rounds without a hit are left out.
std::vector<std::vector<RecordedHit>> inRounds(const std::vector<RecordedHit>& hits, Beats first,
                                               Beats length) {
  std::map<std::int64_t, std::vector<RecordedHit>> rounds;
  for (const auto& hit : hits) {
    // A hit just before a round belongs to its one.
    const double round = double((hit.at - first).value) / double(length.value);
    const double early = double(kTicksPerBeat) / 8 / double(length.value);
    rounds[toWhole<std::int64_t>(std::floor(round + early))].push_back(hit);
  }
  std::vector<std::vector<RecordedHit>> out;
  for (auto& [number, round] : rounds) out.push_back(std::move(round));
  return out;
}

} // namespace

/// Back to the last rest, within one run of the music or outside it.
std::vector<RecordedHit> Recorder::lastPhrase() const {
  const Remembered& last = m_memory.back();
  std::vector<RecordedHit> phrase;
  for (auto hit = m_memory.rbegin(); hit != m_memory.rend(); ++hit) {
    const bool along =
        last.playing ? hit->playing && hit->play == last.play
                     : !hit->playing && (phrase.empty() ||
                                         phrase.back().when.value - hit->hit.when.value < kPhraseS);
    if (!along) break;
    phrase.push_back(hit->hit);
  }
  std::reverse(phrase.begin(), phrase.end());
  return phrase;
}

void Recorder::catchThat() {
  m_player.takeReports();
  const PatternPtr pattern = this->pattern();
  if (m_memory.empty() || !pattern) {
    emit message(tr("Nothing was played yet. Play a few keys, then catch them."), true);
    return;
  }
  const Beats length = lengthOf(*pattern);
  m_caught = {};
  const bool alone = !m_memory.back().playing;
  std::vector<RecordedHit> phrase = lastPhrase();
  if (alone) {
    std::vector<PlayedHit> played;
    for (const auto& hit : phrase) played.push_back({hit.when, hit.velocity});
    std::stable_sort(played.begin(), played.end(),
                     [](const PlayedHit& a, const PlayedHit& b) { return a.at < b.at; });
    m_caught.tempo = tempoOfHits(played);
    const Bpm bpm = m_caught.tempo ? m_caught.tempo->bpm : m_document.project().tempo;
    const Seconds one = m_caught.tempo ? m_caught.tempo->downbeat : phrase.front().when;
    for (auto& hit : phrase)
      hit.at = Beats(
          toNearest<std::int64_t>((hit.when - one).value * bpm.value / 60 * double(kTicksPerBeat)));
  }
  if (!alone && loopsPart()) {
    const LoopSpan loop = *m_transport.loop();
    m_caught.rounds = inRounds(phrase, loop.from, loop.until - loop.from);
    for (auto& round : m_caught.rounds)
      for (auto& hit : round) hit = placed(hit);
  } else {
    m_caught.rounds = inRounds(phrase, Beats(0), length);
  }
  // The fullest of the last two: the one that goes on may have just begun.
  const std::size_t count = m_caught.rounds.size();
  std::size_t best = count - 1;
  if (count > 1 && m_caught.rounds[count - 2].size() > m_caught.rounds[best].size())
    best = count - 2;
  m_caught.round = best;
  ++m_takeNumber;
  layRound(best);
}

void Recorder::layRound(std::size_t round) {
  if (round >= m_caught.rounds.size()) return;
  const QString merge = QStringLiteral("caught %1").arg(m_takeNumber);
  // Another round takes the place of the one that lies there: its step is taken back first.
  if (round != m_caught.round && m_caughtStep && m_document.projectPtr() == m_caughtStep)
    m_document.goToStep(m_document.history().place() - 1);
  m_caught.round = round;
  const auto& hits = m_caught.rounds[round];
  m_document.edit(tr("Keep what I just played"),
                  withPatternChanged(m_document.project(), m_document.selection().pattern,
                                     [&](Pattern& pattern) {
                                       pattern = withTake(pattern, m_document.project(), hits, {});
                                     }),
                  merge);
  m_document.settle();
  m_caughtStep = m_document.projectPtr();
  if (const PatternPtr pattern = this->pattern())
    m_timing = timingOf(m_document.project(), *pattern, hits);
  emit takeChanged();
  QString said = tr("Caught %1 hits.").arg(hits.size());
  if (m_caught.tempo)
    said += QLatin1Char(' ') +
            tr("They were played at %1 BPM.").arg(m_caught.tempo->bpm.value, 0, 'f', 1);
  emit message(said, false);
}

void Recorder::takeCaughtTempo(Bpm tempo) {
  Project next = m_document.project();
  next.tempo = Bpm(
      std::clamp(std::round(tempo.value * 100) / 100, kSlowestTempo.value, kFastestTempo.value));
  m_document.edit(tr("Take the tempo that was played"), std::move(next));
}

} // namespace tuvvo
