// Takes: what was struck is laid into the pattern where it was heard, pass by pass.
#include "base/convert.h"
#include "base/tempo_map.h"
#include "model/edits.h"
#include "session/session.h"

#include <cmath>

namespace tuvvo {

namespace {

constexpr double kMemoryS = 600;         ///< how much of what was played is always kept
constexpr double kPhraseS = 4;           ///< a rest as long as this begins another phrase
constexpr double kEarlyRound = 1 / 64.0; ///< of a round: a hit so near before it belongs to it
constexpr double kEarlyS = 0.12;         ///< a hand that comes in so much early is not lost
constexpr std::size_t kMostKept = 50'000;

Beats beatsAt(const Score& score, double frame) {
  return Beats(toNearest<std::int64_t>(score.tempo.ticksAt(frame, kEngineRate)));
}

} // namespace

/// Where the music that is heard stands, counting on over the passes.
std::int64_t Session::heardNow() const { return m_engine.absolutePosition() - m_catch->toTheEar(); }

void Session::toggleRecord() {
  if (m_recording) {
    takeReports();
    finishTake();
    emit transportChanged();
    return;
  }
  if (m_practising) togglePractice();
  setPlays(Plays::Pattern);
  m_pending.clear();
  m_take.clear();
  m_replaced.clear();
  ++m_takeNumber;
  m_recording = true;
  if (!m_playing) play(-m_click.countIn * quartersOf(meter()));
  emit transportChanged();
}

void Session::setReplaces(bool on) {
  m_replaces = on;
  emit transportChanged();
}

// ---- what comes from the engine -----------------------------------------------------------------

void Session::takeReports() {
  Engine::Report report{};
  while (m_engine.nextReport(report)) {
    switch (report.kind) {
    case Engine::Report::Kind::AuditionEnded:
      endAudition();
      break;
    case Engine::Report::Kind::Ended:
      m_playing = false;
      emit transportChanged();
      emit tick();
      break;
    case Engine::Report::Kind::Struck:
      struck(report);
      break;
    case Engine::Report::Kind::Released:
      lifted(report);
      break;
    }
  }
}

void Session::struck(const Engine::Report& report) {
  if (!m_score || m_score->length <= 0) return;
  const double heard = double(report.frame + report.pass * m_score->length) -
                       (report.playing ? double(m_catch->toTheEar()) : 0);
  StruckHit hit;
  hit.key = report.key;
  hit.velocity = double(report.velocity);
  hit.tune = semitonesOf(double(report.tune));
  hit.start = double(report.from);
  hit.bright = double(report.bright);
  hit.at = beatsAt(*m_score, heard);
  hit.length = beatsAt(*m_score, heard + double(report.hold)) - hit.at;
  hit.when = Seconds(double(report.when) * 1e-9);
  m_memory.push_back({hit, report.playing && m_plays == Plays::Pattern, report.touch, m_starts});
  while (m_memory.size() > kMostKept ||
         m_memory.back().hit.when.value - m_memory.front().hit.when.value > kMemoryS)
    m_memory.pop_front();
  const bool inTime = report.playing && heard >= -kEarlyS * kEngineRate.value;
  if (!inTime || (!m_recording && !m_practising)) return;
  if (m_practising) {
    beginRound(toWhole<std::int64_t>(std::floor(heard / double(m_score->length) + kEarlyRound)));
    m_take.push_back(hit);
    return;
  }
  m_pending.push_back({hit, hit.length.value > 0 ? 0 : report.touch});
}

void Session::lifted(const Engine::Report& report) {
  if (!m_score) return;
  const double heard = double(report.frame + report.pass * m_score->length) -
                       (report.playing ? double(m_catch->toTheEar()) : 0);
  const Beats until = beatsAt(*m_score, heard);
  const auto end = [&](StruckHit& hit, std::uint32_t& touch) {
    if (touch != report.touch) return;
    hit.length = std::max(Beats(1), until - hit.at);
    touch = 0;
  };
  for (auto& pending : m_pending) end(pending.hit, pending.touch);
  for (auto remembered = m_memory.rbegin(); remembered != m_memory.rend(); ++remembered)
    if (remembered->touch == report.touch) {
      end(remembered->hit, remembered->touch);
      break;
    }
}

// ---- laying -------------------------------------------------------------------------------------

/// Lays the hits whose place has gone by, so that none sounds twice: struck, and from the pattern a
/// moment later. @param all  the take is over
void Session::layPending(bool all) {
  if (!m_score || m_pending.empty()) return;
  const PatternPtr pattern = findPattern(project(), m_selection.pattern);
  if (!pattern) return;
  const double now = double(m_engine.absolutePosition());
  const TempoMap map(project().tempo);
  std::map<std::int64_t, std::vector<StruckHit>> passes;
  std::erase_if(m_pending, [&](const Pending& pending) {
    const Key* key = findKey(project(), pending.hit.key);
    if (!key) return true;
    const bool held = key->gate || key->loop.on;
    if (!all && held && pending.touch != 0) return false; // its length is not known yet
    const auto hit = hitOf(pending.hit, *pattern, project(), {});
    if (!hit) return true;
    const double at = double(pending.hit.at.value);
    const auto pass =
        toWhole<std::int64_t>(std::floor(std::max(0.0, at) / double(lengthOf(*pattern).value)));
    const double length = double(laneLength(*pattern, key->part).value);
    double sounds = Hearing(project(), *pattern, key->part).heardAt(*hit);
    sounds +=
        length * std::round((at - sounds) / length); // the time nearest to where it was struck
    const Beats over(toNearest<std::int64_t>(std::max(at, sounds)));
    if (!all && now <= double(map.frameAt(over, kEngineRate).value)) return false;
    passes[pass].push_back(pending.hit);
    m_take.push_back(pending.hit);
    return true;
  });
  for (const auto& [pass, hits] : passes) layHits(hits, pass);
}

void Session::layHits(const std::vector<StruckHit>& hits, std::int64_t pass) {
  Project next = project();
  next = withPatternChanged(std::move(next), m_selection.pattern, [&](Pattern& pattern) {
    if (m_replaces)
      for (const auto& hit : hits)
        if (const Key* key = findKey(project(), hit.key);
            key && m_replaced.insert(key->part).second)
          laneOf(pattern, key->part).hits.clear();
    pattern = withTake(pattern, project(), hits, {});
  });
  edit(tr("Record a pass"), std::move(next),
       QStringLiteral("take %1 pass %2").arg(m_takeNumber).arg(pass));
}

/// While a key is held with the erasing hand, its hits go as the music passes them.
void Session::eraseOn() {
  if (m_erasing.isEmpty() || !m_playing || !m_score || m_score->length <= 0) return;
  const std::int64_t now = heardNow();
  for (auto erased = m_erasing.begin(); erased != m_erasing.end(); ++erased) {
    if (now <= erased.value()) continue;
    const Id key = erased.key();
    const Beats from = beatsAt(*m_score, double(erased.value())),
                until = beatsAt(*m_score, double(now));
    erased.value() = now;
    edit(tr("Erase while held"),
         withPatternChanged(project(), m_selection.pattern,
                            [&](Pattern& pattern) {
                              pattern = withoutHeard(pattern, project(), key, from, until);
                            }),
         QStringLiteral("erase %1").arg(key));
  }
}

void Session::finishTake() {
  m_recording = false;
  layPending(true);
  m_pending.clear();
  settle();
  if (m_take.empty()) return;
  const auto take = std::move(m_take);
  m_take.clear();
  if (const PatternPtr pattern = findPattern(project(), m_selection.pattern))
    m_timing = timingOf(project(), *pattern, take);
  emit takeChanged();
  const QString count =
      take.size() == 1 ? tr("1 hit recorded.") : tr("%1 hits recorded.").arg(take.size());
  emit message(count + QLatin1Char(' ') + QString::fromStdString(m_timing.sentence), false);
}

void Session::quantise(const QuantiseOptions& options) {
  edit(tr("Pull to the grid"),
       withPatternChanged(project(), m_selection.pattern, [&](Pattern& pattern) {
         pattern = withQuantised(pattern, project(), options);
       }));
}

// ---- practice -----------------------------------------------------------------------------------

void Session::togglePractice() {
  if (m_practising) {
    finishPractice();
    stop();
    return;
  }
  if (m_recording) toggleRecord();
  setPlays(Plays::Pattern);
  m_practising = true;
  m_rounds.clear();
  m_take.clear();
  m_round = 0;
  rebuildScore();
  play(-std::max(1, m_click.countIn) * quartersOf(meter()));
  emit takeChanged();
}

/// The music has come to another round: what was played in the one before is looked at.
void Session::beginRound(std::int64_t round) {
  if (round <= m_round) return;
  finishRound();
  m_round = round;
}

void Session::finishRound() {
  if (m_take.empty()) return;
  const PatternPtr pattern = findPattern(project(), m_selection.pattern);
  if (!pattern) return;
  m_timing = timingOf(project(), *pattern, m_take);
  m_rounds.push_back({m_timing.all, std::move(m_take)});
  m_take.clear();
  emit takeChanged();
}

void Session::finishPractice() {
  takeReports();
  finishRound();
  m_practising = false;
  rebuildScore();
  emit takeChanged();
}

// ---- catch that ---------------------------------------------------------------------------------

namespace {

/// Hits cut into rounds as long as the pattern; rounds without a hit are left out.
std::vector<std::vector<StruckHit>> inRounds(const std::vector<StruckHit>& hits, Beats length) {
  std::map<std::int64_t, std::vector<StruckHit>> rounds;
  for (const auto& hit : hits) {
    // A hit just before a round belongs to its one.
    const double round = double(hit.at.value) / double(length.value);
    const double early = double(kTicksPerBeat) / 8 / double(length.value);
    rounds[toWhole<std::int64_t>(std::floor(round + early))].push_back(hit);
  }
  std::vector<std::vector<StruckHit>> out;
  for (auto& [number, round] : rounds) out.push_back(std::move(round));
  return out;
}

} // namespace

void Session::catchThat() {
  takeReports();
  const PatternPtr pattern = findPattern(project(), m_selection.pattern);
  if (m_memory.empty() || !pattern) {
    emit message(tr("Nothing was played yet. Play a few keys, then catch them."), true);
    return;
  }
  const Beats length = lengthOf(*pattern);
  m_caught = {};
  // The last phrase: back to the last rest, within one run of the music or outside it.
  const Remembered& last = m_memory.back();
  std::vector<StruckHit> phrase;
  for (auto hit = m_memory.rbegin(); hit != m_memory.rend(); ++hit) {
    const bool along =
        last.playing ? hit->playing && hit->play == last.play
                     : !hit->playing && (phrase.empty() ||
                                         phrase.back().when.value - hit->hit.when.value < kPhraseS);
    if (!along) break;
    phrase.push_back(hit->hit);
  }
  std::reverse(phrase.begin(), phrase.end());
  if (!last.playing) {
    std::vector<PlayedHit> played;
    for (const auto& hit : phrase) played.push_back({hit.when, hit.velocity});
    std::stable_sort(played.begin(), played.end(),
                     [](const PlayedHit& a, const PlayedHit& b) { return a.at < b.at; });
    m_caught.tempo = tempoOfHits(played);
    const Bpm bpm = m_caught.tempo ? m_caught.tempo->bpm : project().tempo;
    const Seconds one = m_caught.tempo ? m_caught.tempo->downbeat : phrase.front().when;
    for (auto& hit : phrase)
      hit.at = Beats(
          toNearest<std::int64_t>((hit.when - one).value * bpm.value / 60 * double(kTicksPerBeat)));
  }
  m_caught.rounds = inRounds(phrase, length);
  // The fullest of the last two: the one that goes on may have just begun.
  const std::size_t count = m_caught.rounds.size();
  std::size_t best = count - 1;
  if (count > 1 && m_caught.rounds[count - 2].size() > m_caught.rounds[best].size())
    best = count - 2;
  m_caught.round = best;
  ++m_takeNumber;
  layRound(best);
}

void Session::layRound(std::size_t round) {
  if (round >= m_caught.rounds.size()) return;
  const QString merge = QStringLiteral("caught %1").arg(m_takeNumber);
  // Another round takes the place of the one that lies there: its step is taken back first.
  if (round != m_caught.round && m_caughtStep && m_history.current() == m_caughtStep)
    goToStep(m_history.place() - 1);
  m_caught.round = round;
  const auto& hits = m_caught.rounds[round];
  edit(tr("Catch that"),
       withPatternChanged(
           project(), m_selection.pattern,
           [&](Pattern& pattern) { pattern = withTake(pattern, project(), hits, {}); }),
       merge);
  settle();
  m_caughtStep = projectPtr();
  if (const PatternPtr pattern = findPattern(project(), m_selection.pattern))
    m_timing = timingOf(project(), *pattern, hits);
  emit takeChanged();
  QString said = tr("Caught %1 hits.").arg(hits.size());
  if (m_caught.tempo)
    said += QLatin1Char(' ') +
            tr("They were played at %1 BPM.").arg(m_caught.tempo->bpm.value, 0, 'f', 1);
  emit message(said, false);
}

void Session::takeCaughtTempo(Bpm tempo) {
  Project next = project();
  next.tempo = Bpm(
      std::clamp(std::round(tempo.value * 100) / 100, kSlowestTempo.value, kFastestTempo.value));
  edit(tr("Take the tempo that was played"), std::move(next));
}

} // namespace tuvvo
