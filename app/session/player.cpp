#include "session/player.h"

#include "base/convert.h"

namespace tuvvo {

namespace {
constexpr int kBakesTogetherMs = 20; // slices that come out of the oven together are taken together
constexpr double kLimitedFalls = 0.1;                    // dB a poll
constexpr float kPeakFalls = 0.86f, kLevelFalls = 0.75f; // a poll
} // namespace

Player::Player(Document& document, JobService& jobs)
    : m_document(document),
      m_bakeCache(2, [this, &jobs] { jobs.later([this] { m_bakeTimer.start(); }); }) {
  m_bakeTimer.setSingleShot(true);
  m_bakeTimer.setInterval(kBakesTogetherMs);
  connect(&m_bakeTimer, &QTimer::timeout, this, [this] {
    refresh();
    emit bakeMoved();
  });
  connect(&document, &Document::changed, this, &Player::refresh);
  connect(&document, &Document::selectionChanged, this, [this] {
    if (m_plays == Plays::Pattern && m_document.selection().pattern != m_pattern) refresh();
  });
}

Player::~Player() { m_liveSound.close(); } // no more calls into the engine

void Player::openSound(const SoundChoice& choice) {
  emit aboutToOpenSound();
  const std::string said = m_liveSound.open(choice);
  if (!said.empty()) emit message(QString::fromStdString(said), true);
  emit soundOpened();
  refresh();
}

void Player::chooseSound(const SoundChoice& choice) {
  openSound(choice);
  m_soundMemory.keepChoice(choice);
}

void Player::watch() {
  const std::string said = m_liveSound.watch();
  if (!said.empty()) emit message(QString::fromStdString(said), true);
  const std::string trouble = m_soundMemory.takeTrouble();
  if (!trouble.empty()) emit message(QString::fromStdString(trouble), true);
}

// ---- the score ----------------------------------------------------------------------------------

void Player::setPlays(Plays plays) {
  m_plays = plays;
  refresh();
}

void Player::setLoop(const std::optional<LoopSpan>& loop) {
  if (loop == m_loop) return;
  m_loop = loop;
  refresh();
}

void Player::setAudition(const Audition& audition) {
  m_audition = audition;
  refresh();
}

void Player::setTrial(ProjectPtr trial) {
  m_trial = std::move(trial);
  refresh();
}

void Player::refresh() {
  const Project& played = m_trial ? *m_trial : m_document.project();
  std::vector<BakeOrder> wanted;
  CompileOptions options;
  options.audition = m_audition;
  options.loop = m_loop;
  if (m_monitor) options.monitor = m_monitor();
  options.baked = [&](const BakeOrder& order) {
    wanted.push_back(order);
    return m_bakeCache.find(order.name);
  };
  m_pattern = m_document.selection().pattern;
  m_score =
      std::make_shared<Score>(m_plays == Plays::Song ? compileSong(played, options)
                                                     : compilePattern(played, m_pattern, options));
  m_bakeCache.want(std::move(wanted));
  m_engine.setScore(m_score);
}

// ---- bakes --------------------------------------------------------------------------------------

void Player::waitForBakes() {
  m_bakeCache.wait();
  refresh();
  emit bakeMoved();
}

void Player::stopBaking() {
  m_bakeCache.stop();
  refresh();
  emit bakeMoved();
}

void Player::resumeBaking() {
  m_bakeCache.resume();
  emit bakeMoved();
}

// ---- keys ---------------------------------------------------------------------------------------

void Player::playKey(Id key, double velocity, Semitones tune) {
  Engine::Command c{Engine::Command::Kind::Strike};
  c.key = key;
  c.on = true;
  c.velocity = float(std::clamp(velocity, 0.02, 1.0));
  c.tune = float(ratioOf(tune));
  c.hold = EngineFrames(toWhole<std::int64_t>(kEngineRate.value));
  m_engine.send(c);
}

EngineFrames Player::holdOf(const Key& key, const PerformanceHit& hit) const {
  const int at = hit.length > 0 && m_score ? m_score->patchOf(key.id) : -1;
  if (at < 0) return {};
  const Patch& patch = m_score->patches[std::size_t(at)];
  const double frames = hit.length * double((patch.end - patch.start).value) / patch.step;
  return EngineFrames(std::max<std::int64_t>(240, toWhole<std::int64_t>(frames)));
}

// ---- what the engine tells ----------------------------------------------------------------------

void Player::takeReports() {
  Engine::Report report{};
  while (m_engine.nextReport(report)) {
    switch (report.kind) {
    case Engine::Report::Kind::AuditionEnded:
      emit auditionEnded();
      break;
    case Engine::Report::Kind::Ended:
      emit ended();
      break;
    case Engine::Report::Kind::Struck:
      emit struck(report);
      break;
    case Engine::Report::Kind::Released:
      emit lifted(report);
      break;
    }
  }
}

bool Player::poll() {
  const auto peaks = m_engine.takePeaks();
  bool sounds = false;
  for (std::size_t i = 0; i < 2; ++i) {
    m_peaks[i] = std::max(peaks[i], m_peaks[i] * kPeakFalls);
    sounds = sounds || m_peaks[i] > 1e-4f;
  }
  const double limited = -decibelsOf(double(m_engine.takeLimiterGain())).value;
  m_limited = Decibels(std::max({0.0, limited, m_limited.value - kLimitedFalls}));
  QHash<Id, float> levels; // of a key's loudest patch; what sounded falls away
  for (auto level = m_levels.cbegin(); level != m_levels.cend(); ++level)
    levels[level.key()] = level.value() * kLevelFalls;
  if (m_score)
    for (std::size_t i = 0; i < m_score->patches.size(); ++i) {
      float& level = levels[m_score->patches[i].key];
      level = std::max(level, m_engine.takeLevel(int(i)));
    }
  levels.removeIf([](const auto& level) { return level.value() <= 1e-3f; });
  m_levels = std::move(levels);
  m_engine.collect();
  return sounds || !m_levels.isEmpty();
}

} // namespace tuvvo
