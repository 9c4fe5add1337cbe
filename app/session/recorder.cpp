#include "session/recorder.h"

#include "base/convert.h"
#include "base/tempo_map.h"
#include "model/edits.h"
#include "words/timing_words.h"

#include <cmath>

namespace tuvvo {

namespace {

constexpr double kMemoryS = 600;         ///< how much of what was played is always kept
constexpr double kEarlyRound = 1 / 64.0; ///< of a round: a hit so near before it belongs to it
constexpr double kEarlyS = 0.12;         ///< a hand that comes in so much early is not lost
constexpr std::size_t kMostKept = 50'000;
constexpr EngineFrames kMostApart(48'000);

Beats beatsAt(const Score& score, EngineFrames at) {
  return Beats(toNearest<std::int64_t>(score.ticksAt(at)));
}

} // namespace

Recorder::Recorder(Document& document, Player& player, Transport& transport,
                   std::function<EngineFrames()> toTheEar)
    : m_document(document), m_player(player), m_transport(transport),
      m_toTheEar(std::move(toTheEar)) {
  connect(&player, &Player::struck, this, &Recorder::struck);
  connect(&player, &Player::lifted, this, &Recorder::lifted);
  connect(&transport, &Transport::aboutToChangePlays, this, [this] {
    if (m_recording) toggleRecord();
  });
  connect(&transport, &Transport::loopChanging, this, [this] {
    m_player.takeReports();
    layPending(true); // they were counted the way that ends
    for (auto& hit : m_memory) hit.touch = 0;
  });
  connect(&transport, &Transport::stopped, this, [this] {
    if (m_recording) finishTake();
    if (m_practising) finishPractice();
  });
}

PatternPtr Recorder::pattern() const {
  return findPattern(m_document.project(), m_document.selection().pattern);
}

void Recorder::poll() {
  layPending(false);
  const ScorePtr score = m_player.score();
  if (m_practising && m_transport.playing() && score && score->length.value > 0)
    beginRound(score->roundOf(heardNow()));
  eraseOn();
}

/// Where the music that is heard stands, counting on over the passes.
EngineFrames Recorder::heardNow() const {
  return m_player.engine().absolutePosition() - m_toTheEar();
}

void Recorder::toggleRecord() {
  if (m_recording) {
    m_player.takeReports();
    finishTake();
    emit changed();
    return;
  }
  if (m_practising) togglePractice();
  m_transport.setPlays(Plays::Pattern);
  m_pending.clear();
  m_take.clear();
  m_replaced.clear();
  ++m_takeNumber;
  m_recording = true;
  if (!m_transport.playing())
    m_transport.play(-m_transport.click().countIn * quartersOf(m_transport.meter()));
  emit changed();
}

void Recorder::setReplaces(bool on) {
  m_replaces = on;
  emit changed();
}

// ---- what comes from the engine -----------------------------------------------------------------

/// Where the music was that a person heard, counting on over the passes.
EngineFrames Recorder::heardAt(const Engine::Report& report, const Score& score) const {
  const EngineFrames late = report.playing ? m_toTheEar() : EngineFrames(0);
  return report.frame + score.round() * report.pass - late;
}

void Recorder::struck(const Engine::Report& report) {
  const ScorePtr score = m_player.score();
  if (!score || score->length.value <= 0) return;
  const EngineFrames heard = heardAt(report, *score);
  RecordedHit hit;
  hit.key = report.key;
  hit.velocity = double(report.velocity);
  hit.tune = semitonesOf(double(report.tune));
  hit.start = double(report.from);
  hit.bright = double(report.bright);
  hit.at = beatsAt(*score, heard);
  hit.length = beatsAt(*score, heard + report.hold) - hit.at;
  if (hit.at < Beats(0) && loopsPart()) hit.at += m_transport.loop()->from; // in the count-in
  hit.when = toSeconds(report.when);
  m_memory.push_back({hit, report.playing && m_transport.plays() == Plays::Pattern, report.touch,
                      m_transport.starts()});
  while (m_memory.size() > kMostKept ||
         m_memory.back().hit.when.value - m_memory.front().hit.when.value > kMemoryS)
    m_memory.pop_front();
  const bool inTime = report.playing && double(heard.value) >= -kEarlyS * kEngineRate.value;
  if (!inTime || (!m_recording && !m_practising)) return;
  if (m_practising) {
    const double early = kEarlyRound * double(score->round().value);
    beginRound(score->roundOf(heard + EngineFrames(toWhole<std::int64_t>(early))));
    m_take.push_back(placed(hit));
    return;
  }
  m_pending.push_back({hit, hit.length.value > 0 ? 0 : report.touch});
}

void Recorder::lifted(const Engine::Report& report) {
  const ScorePtr score = m_player.score();
  if (!score) return;
  const EngineFrames heard = heardAt(report, *score);
  const Beats until = beatsAt(*score, heard);
  const auto end = [&](RecordedHit& hit, std::uint32_t& touch) {
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

bool Recorder::loopsPart() const {
  return m_transport.loop() && m_transport.plays() == Plays::Pattern;
}

/// Where a hit that counts on over the rounds stands in the pattern. Just before the end of what
/// goes round it is early on what comes first there.
RecordedHit Recorder::placed(RecordedHit hit) const {
  if (!loopsPart()) return hit;
  const LoopSpan loop = *m_transport.loop();
  const std::int64_t round = (loop.until - loop.from).value, early = kTicksPerBeat / 8;
  if (hit.at >= loop.until - Beats(early))
    hit.at = loop.from + Beats(wrapped(hit.at.value - loop.from.value + early, round) - early);
  return hit;
}

// ---- laying -------------------------------------------------------------------------------------

/// Lays the hits whose place has gone by, so that none sounds twice: struck, and from the pattern a
/// moment later. @param all  the take is over
void Recorder::layPending(bool all) {
  if (!m_player.score() || m_pending.empty()) return;
  const PatternPtr pattern = this->pattern();
  if (!pattern) return;
  const EngineFrames now = m_player.engine().absolutePosition();
  const TempoMap map(m_document.project().tempo);
  std::map<std::int64_t, std::vector<RecordedHit>> passes;
  std::erase_if(m_pending, [&](const Pending& pending) {
    const Key* key = findKey(m_document.project(), pending.hit.key);
    if (!key) return true;
    const bool held = key->gate || key->loop.on;
    if (!all && held && pending.touch != 0) return false; // its length is not known yet
    const RecordedHit laid = placed(pending.hit);
    const auto hit = hitOf(laid, *pattern, m_document.project(), {});
    if (!hit) return true;
    const double at = double(pending.hit.at.value);
    const double round = double(
        (loopsPart() ? m_transport.loop()->until - m_transport.loop()->from : lengthOf(*pattern))
            .value);
    const auto pass = toWhole<std::int64_t>(std::floor(std::max(0.0, at) / round));
    const double length = loopsPart() ? round : double(laneLength(*pattern, key->part).value);
    double sounds = ResolvedTiming(m_document.project(), *pattern, key->part).heardAt(*hit);
    sounds +=
        length * std::round((at - sounds) / length); // the time nearest to where it was struck
    const Beats over(toNearest<std::int64_t>(std::max(at, sounds)));
    if (!all && now.value <= map.frameAt(over, kEngineRate).value) return false;
    passes[pass].push_back(laid);
    m_take.push_back(laid);
    return true;
  });
  for (const auto& [pass, hits] : passes) layHits(hits, pass);
}

void Recorder::layHits(const std::vector<RecordedHit>& hits, std::int64_t pass) {
  Project next = m_document.project();
  next = withPatternChanged(std::move(next), m_document.selection().pattern, [&](Pattern& pattern) {
    if (m_replaces)
      for (const auto& hit : hits)
        if (const Key* key = findKey(m_document.project(), hit.key);
            key && m_replaced.insert(key->part).second)
          laneOf(pattern, key->part).hits.clear();
    pattern = withTake(pattern, m_document.project(), hits, {});
  });
  m_document.edit(tr("Record a pass"), std::move(next),
                  QStringLiteral("take %1 pass %2").arg(m_takeNumber).arg(pass));
}

/// While a key is held with the erasing hand, its hits go as the music passes them.
void Recorder::eraseOn() {
  const ScorePtr score = m_player.score();
  if (m_erasing.isEmpty() || !m_transport.playing() || !score || score->length.value <= 0) return;
  const EngineFrames now = heardNow();
  for (auto erased = m_erasing.begin(); erased != m_erasing.end(); ++erased) {
    if (now <= erased.value()) {
      if (erased.value() - now > kMostApart) erased.value() = now;
      continue;
    }
    const Id key = erased.key();
    std::vector<std::pair<Beats, Beats>> gone;
    // Between two looks at it lies a moment; more, and it was counted another way.
    const EngineFrames from = std::max(erased.value(), now - kMostApart);
    if (!loopsPart() || score->roundOf(from) == score->roundOf(now)) {
      const EngineFrames shift = loopsPart() ? now - score->placeOf(now) : EngineFrames(0);
      gone.emplace_back(beatsAt(*score, from - shift), beatsAt(*score, now - shift));
    } else { // over the end of what goes round
      gone.emplace_back(beatsAt(*score, score->placeOf(from)), m_transport.loop()->until);
      gone.emplace_back(m_transport.loop()->from, beatsAt(*score, score->placeOf(now)));
    }
    erased.value() = now;
    m_document.edit(tr("Erase while held"),
                    withPatternChanged(m_document.project(), m_document.selection().pattern,
                                       [&](Pattern& pattern) {
                                         for (const auto& [begin, end] : gone)
                                           pattern = withoutHeard(pattern, m_document.project(),
                                                                  key, begin, end);
                                       }),
                    QStringLiteral("erase %1").arg(key));
  }
}

void Recorder::beginErasing(Id key) { m_erasing[key] = heardNow(); }

void Recorder::endErasing(Id key) {
  eraseOn();
  m_erasing.remove(key);
  m_document.settle();
}

void Recorder::finishTake() {
  m_recording = false;
  layPending(true);
  m_pending.clear();
  m_document.settle();
  if (m_take.empty()) return;
  const auto take = std::move(m_take);
  m_take.clear();
  if (const PatternPtr pattern = this->pattern())
    m_timing = timingOf(m_document.project(), *pattern, take);
  emit takeChanged();
  const QString count =
      take.size() == 1 ? tr("1 hit recorded.") : tr("%1 hits recorded.").arg(take.size());
  emit message(count + QLatin1Char(' ') +
                   QString::fromStdString(sentenceOf(m_document.project(), m_timing)),
               false);
}

void Recorder::quantise(const QuantiseOptions& options) {
  m_document.edit(tr("Quantise"),
                  withPatternChanged(
                      m_document.project(), m_document.selection().pattern, [&](Pattern& pattern) {
                        pattern = withQuantised(pattern, m_document.project(), options);
                      }));
}

} // namespace tuvvo
