// What sounds: the engine, its devices, and the score that is compiled from the document.
#pragma once

#include "beat/hand.h"
#include "devices/live_sound.h"
#include "play/score.h"
#include "session/document.h"
#include "session/job_service.h"
#include "session/sound_memory.h"
#include "shape/bake_cache.h"

#include <QHash>
#include <QTimer>

namespace tuvvo {

enum class Plays { Pattern, Song };

class Player : public Service {
  Q_OBJECT
public:
  Player(Document& document, JobService& jobs);
  ~Player() override;

  [[nodiscard]] Engine& engine() { return m_engine; }
  [[nodiscard]] LiveSound& liveSound() { return m_liveSound; }
  [[nodiscard]] SoundMemory& soundMemory() { return m_soundMemory; }
  void openSound(const SoundChoice& choice);
  /// Opens it, and the next start does too.
  void chooseSound(const SoundChoice& choice);

  // ---- the score: the document, and what is laid over it ----
  [[nodiscard]] Plays plays() const { return m_plays; }
  void setPlays(Plays plays);
  /// Only this goes round, of the pattern or of the song; nothing: all of it.
  void setLoop(const std::optional<LoopSpan>& loop);
  void setAudition(const Audition& audition);
  /// Another project is played in place of the document's; null: the document's again.
  void setTrial(ProjectPtr trial);
  /// Asked at every score for how what comes in is heard.
  void setMonitor(std::function<Monitor()> monitor) { m_monitor = std::move(monitor); }
  /// Compiles anew.
  void refresh();
  /// What the engine plays now; null before the first beat was made or opened.
  [[nodiscard]] ScorePtr score() const { return m_score; }

  // ---- bakes ----
  [[nodiscard]] BakeCache& bakeCache() { return m_bakeCache; }
  [[nodiscard]] BakeCache::Progress baking() const { return m_bakeCache.progress(); }
  void stopBaking();
  void resumeBaking();
  /// Until everything that sounds now is baked and in the score.
  void waitForBakes();

  // ---- keys ----
  /// Plays a key once, as heard in passing: no take keeps it. A held key is let go after a second.
  void playKey(Id key, double velocity, Semitones tune = Semitones(0));
  /// Frames that a hit of a key is held by itself; 0 for as long as a finger is down.
  [[nodiscard]] EngineFrames holdOf(const Key& key, const PerformanceHit& hit) const;

  // ---- what the engine tells ----
  /// Passes on what has happened.
  void takeReports();
  /// Takes levels; call it some thirty times a second. @returns whether anything sounds
  bool poll();
  [[nodiscard]] std::array<float, 2> peaks() const { return m_peaks; }
  /// How far the limiter turns the output down, 0 or more; it falls back slowly.
  [[nodiscard]] Decibels limited() const { return m_limited; }
  [[nodiscard]] float levelOf(Id key) const { return m_levels.value(key, 0.0f); }
  /// Says what devices have to say; call it a few times a second.
  void watch();

signals:
  void aboutToOpenSound();
  void soundOpened();
  /// Something was baked, or is about to be.
  void bakeMoved();
  void struck(const tuvvo::Engine::Report& report);
  void lifted(const tuvvo::Engine::Report& report);
  /// The music came to its end.
  void ended();
  void auditionEnded();

private:
  Document& m_document;
  Prefetcher m_prefetcher;
  Engine m_engine{&m_prefetcher};
  LiveSound m_liveSound{m_engine};
  SoundMemory m_soundMemory;
  ScorePtr m_score;
  Plays m_plays = Plays::Pattern;
  std::optional<LoopSpan> m_loop;
  Id m_pattern = 0; ///< of the score
  Audition m_audition;
  ProjectPtr m_trial; ///< null: the document is played
  std::function<Monitor()> m_monitor;
  std::array<float, 2> m_peaks{};
  Decibels m_limited{0};
  QHash<Id, float> m_levels;
  QTimer m_bakeTimer;
  BakeCache m_bakeCache; ///< last: ends first
};

} // namespace tuvvo
