// The engine: one for live and for print.
#pragma once

#include "base/spsc_queue.h"
#include "play/limiter.h"
#include "play/score.h"
#include "play/voice.h"

#include <array>
#include <atomic>

namespace tuvvo {

/// Turns a score and strikes into sound at 48 kHz.
///
/// Threads: one thread owns the score and sends commands (the interface thread, or the printing
/// job); one calls process() (the audio thread, or the same job). Between them are two queues, one
/// score pointer exchanged atomically, and single atomic figures.
/// Real time: process() does not allocate, lock, wait, log or touch a file.
/// The same commands at the same frames give the same samples whatever the block sizes are.
class Engine {
public:
  static constexpr int kVoices = 96;
  static constexpr int kMostPatches = 512; ///< whose levels are shown

  struct Command {
    enum class Kind { Play, Stop, Seek, Strike, Release, Silence, Metronome } kind;
    Id key = 0;             ///< Strike, Release
    float velocity = 0.8f;  ///< Strike
    float tune = 1;         ///< Strike: ratio on top of the key's own
    std::int64_t frame = 0; ///< Play, Seek: where from; Play: may be negative to count in
    bool on = false;        ///< Metronome
  };

  /// What happened, for recording a take.
  struct Report {
    enum class Kind { Struck, Released, Ended, AuditionEnded } kind;
    Id key = 0;
    float velocity = 0;
    std::int64_t frame = 0; ///< in the score, as heard inside the engine
    std::int64_t pass = 0;  ///< times the loop has gone round
    bool playing = false;
  };

  Engine();
  ~Engine();
  Engine(const Engine&) = delete;
  Engine& operator=(const Engine&) = delete;

  // ---- owner's thread ----
  /// Takes effect at the next block; the place in the music stays, in beats.
  void setScore(ScorePtr score);
  /// False when the queue is full (1023 commands in one block).
  bool send(const Command& command) { return m_commands.push(command); }
  bool nextReport(Report& report) { return m_reports.pop(report); }
  /// Frees scores that are no longer sounding. setScore() does it too.
  void collect();

  // ---- any thread ----
  [[nodiscard]] bool playing() const { return m_shownPlaying.load(std::memory_order_relaxed); }
  [[nodiscard]] std::int64_t position() const {
    return m_shownPosition.load(std::memory_order_relaxed);
  }
  /// The largest output since the last call, left and right.
  [[nodiscard]] std::array<float, 2> takePeaks();
  /// The largest level of a patch since the last call.
  [[nodiscard]] float takeLevel(int patch);
  [[nodiscard]] float limiterGain() const { return m_shownGain.load(std::memory_order_relaxed); }
  [[nodiscard]] int sounding() const { return m_shownVoices.load(std::memory_order_relaxed); }

  // ---- audio thread ----
  /// Writes frames of both channels. Output is Limiter::kLatency frames late.
  void process(float* left, float* right, int frames);
  /// Without the limiter, for stems that have to add up.
  void setLimiterOff() { m_limits = false; }

private:
  struct Box {
    ScorePtr score;
    int voices = 0; ///< audio thread's
  };
  static constexpr int kBoxes = 64;
  static constexpr int kSpareVoices = 12;

  void takeScore();
  void retireBoxes();
  void obey(const Command& command);
  void startAt(std::int64_t frame);
  void findNextEvent();
  void strike(const ScoreEvent& event, bool live, std::int64_t skip);
  void stopScored();
  int untilNext(int frames) const;
  void atPlace();
  void render(float* left, float* right, int frames);
  void click(float* left, float* right, int frames);
  void changeAudition();
  void phaseAudition();
  void keepAuditionInPhase();
  [[nodiscard]] double inBar() const;
  void renderAudition(float* left, float* right, int frames);

  const SincBank& m_bank;
  std::atomic<Box*> m_incoming{nullptr};
  SpscQueue<Command, 1024> m_commands;
  SpscQueue<Report, 4096> m_reports;
  SpscQueue<Box*, 256> m_retired;

  // Audio thread's own.
  std::array<Box*, kBoxes> m_boxes{};
  int m_current = -1;
  std::array<Voice, kVoices> m_voices;
  std::array<std::uint32_t, kVoices> m_ages{};
  std::uint32_t m_age = 0;
  Limiter m_limiter;
  bool m_limits = true, m_playing = false, m_metronome = false;
  std::int64_t m_position = 0, m_pass = 0;
  std::size_t m_nextEvent = 0;
  int m_clickFrame = -1;
  bool m_clickHigh = false;
  std::array<float, 1920> m_clickLow{}, m_clickHighSound{};
  /// The auditioned sound and the one before it, which fades. Each keeps its box alive.
  struct Auditioned {
    int box = -1;
    std::int64_t at = 0; ///< frame of the sound that comes next
    float level = 0;     ///< of its fade
    bool ends = false;
  };
  std::array<Auditioned, 2> m_auditions{};

  std::atomic<bool> m_shownPlaying{false};
  std::atomic<std::int64_t> m_shownPosition{0};
  std::atomic<float> m_peakLeft{0}, m_peakRight{0}, m_shownGain{1};
  std::atomic<int> m_shownVoices{0};
  std::array<std::atomic<float>, kMostPatches> m_levels{};
};

} // namespace tuvvo
