// The engine: one for live and for print.
#pragma once

#include "audio/prefetch.h"
#include "base/spsc_queue.h"
#include "mix/graph.h"
#include "mix/limiter.h"
#include "play/input_line.h"
#include "play/score.h"
#include "play/voice.h"

#include <array>
#include <atomic>

namespace tuvvo {

/// Turns a score and strikes into sound at 48 kHz.
///
/// Threads: one thread owns the score and sends commands (the interface thread, or the printing
/// job); one calls process() (the audio thread, or the same job). Between them are two queues, one
/// score pointer exchanged atomically, and single atomic figures. Up to kSources − 1 other threads
/// (controllers) may send commands of their own, each through a queue of its own.
/// Real time: process() does not allocate, lock, wait, log or touch a file.
/// It works in quanta of kQuantum frames, counted from its first one, and hands them out in blocks
/// of any size: a command takes effect at the first quantum that is not begun, so the same commands
/// at the same frames give the same samples whatever the block sizes are.
class Engine {
public:
  static constexpr int kVoices = 96;
  static constexpr int kMostPatches = 512; ///< whose levels are shown
  static constexpr int kSources = 12;      ///< threads that may send; 0 is the owner's

  /// How a held key repeats: on the lines of the beat while it plays, else from where it was
  /// struck.
  struct Roll {
    double beats = 0;          ///< from one hit to the next; 0: it does not repeat
    float velocityPerBeat = 0; ///< added as it goes on; what comes out stays within 0.02 and 1
    float tunePerBeat = 0;     ///< semitones
  };

  struct Command {
    enum class Kind {
      Play,
      Stop,
      Seek,
      Strike,
      Release,
      Press,
      Silence,
      Metronome,
      Erase,
      Probe ///< the probe wave goes out, to be found again in what comes in
    } kind;
    Id key = 0;              ///< Strike, Release, Erase
    float velocity = 0.8f;   ///< Strike; Press: what its roll goes on with
    float tune = 1;          ///< Strike: ratio on top of the key's own
    EngineFrames frame{};    ///< Play, Seek: where from; Play: may be negative to count in
    bool on = false;         ///< Metronome; Erase: the key's hits in the score are passed over;
                             ///< Strike: no finger stays on it
    std::uint32_t touch = 0; ///< Strike, Release, Press: which finger; 0: the key's own
    float from = 0;          ///< Strike: share of the sound where it begins
    float bright = 0;        ///< Strike: octaves by which the low-pass moves
    EngineFrames hold{};     ///< Strike: until it is let go by itself; 0: by Release
    Roll roll{};             ///< Strike
    Nanoseconds when{};      ///< Strike, Release; 0: as it is taken
    int sound = 0;           ///< Metronome: 0 to kClickSounds − 1
    float level = 1;         ///< Metronome: gain, 0 to 4
  };
  static constexpr int kClickSounds = 3; ///< a tick, a block of wood, a soft tone

  /// What happened, for recording a take.
  struct Report {
    enum class Kind { Struck, Released, Ended, AuditionEnded } kind;
    Id key = 0;
    float velocity = 0;
    EngineFrames frame{};  ///< in the score, where the engine was when it happened
    std::int64_t pass = 0; ///< times the loop has gone round
    bool playing = false;
    std::uint32_t touch = 0;
    float tune = 1, from = 0, bright = 0;
    EngineFrames hold{};
    Nanoseconds when{}; ///< 0 where no clock was given
  };

  /// @param prefetcher  reads long sounds ahead; must outlive it and serve nobody else. Null: they
  ///                    are read as they are played, which may wait for a disc (printing)
  /// @param sincs  AsNeeded only where nothing waits for process()
  explicit Engine(Prefetcher* prefetcher = nullptr, SincBank::Make sincs = SincBank::Make::Now);
  ~Engine();
  Engine(const Engine&) = delete;
  Engine& operator=(const Engine&) = delete;

  // ---- owner's thread ----
  /// Takes effect at the next block; the place in the music stays, in beats.
  void setScore(ScorePtr score);
  /// False when the queue is full (1023 commands in one block).
  bool send(const Command& command) { return m_commands[0].push(command); }
  bool nextReport(Report& report) { return m_reports.pop(report); }
  /// Frees scores that are no longer sounding. setScore() does it too.
  void collect();

  // ---- a source's own thread ----
  /// @param source  1 to kSources − 1; each may be used by one thread at a time
  bool sendFrom(int source, const Command& command) {
    return m_commands[std::size_t(source)].push(command);
  }

  // ---- any thread ----
  [[nodiscard]] bool playing() const { return m_shownPlaying.load(std::memory_order_relaxed); }
  [[nodiscard]] EngineFrames position() const {
    return m_shownPosition.load(std::memory_order_relaxed);
  }
  /// The same in beats.
  [[nodiscard]] double positionBeats() const {
    return m_shownBeats.load(std::memory_order_relaxed);
  }
  /// Counting on where the loop goes round: Score::placeOf() says where that is.
  [[nodiscard]] EngineFrames absolutePosition() const {
    return m_shownAbsolute.load(std::memory_order_relaxed);
  }
  /// The largest output since the last call, left and right.
  [[nodiscard]] std::array<float, 2> takePeaks();
  /// The largest level of a patch since the last call.
  [[nodiscard]] float takeLevel(int patch);
  /// The limiter's smallest gain since the last call; 1: it did nothing.
  [[nodiscard]] float takeLimiterGain() {
    return m_shownGain.exchange(1, std::memory_order_relaxed);
  }
  /// What comes in. Read by one thread.
  [[nodiscard]] InputLine& input() { return m_input; }
  /// Frames by which what is heard is behind what is played: processors that look ahead, and the
  /// limiter.
  [[nodiscard]] int latency() const { return m_shownLatency.load(std::memory_order_relaxed); }
  [[nodiscard]] int sounding() const { return m_shownVoices.load(std::memory_order_relaxed); }

  // ---- audio thread ----
  /// Writes frames of both channels, latency() frames late.
  /// @param now  strikes are reported where the music was when they were
  ///             made, not where the block began. 0: as if made at the block's first frame.
  /// @param inLeft, inRight  what comes in at the same time; null where nothing does
  void process(float* left, float* right, int frames, Nanoseconds now = {},
               const float* inLeft = nullptr, const float* inRight = nullptr);
  /// Without the limiter, for stems that have to add up.
  void setLimiterOff() { m_limits = false; }

private:
  struct ScoreSlot {
    ScorePtr score;
    std::unique_ptr<Graph> graph;          ///< of the score
    std::vector<PrefetchedPtr> prefetched; ///< by patch; empty where no sound is long
    PrefetchedPtr audition;
    int voices = 0; ///< audio thread's
  };
  /// A key held down by hand.
  struct HeldNote {
    Command struck{Command::Kind::Strike};
    bool held = false;
    std::uint32_t order = 0; ///< the larger, the later
    EngineFrames began{};    ///< by m_clock
    std::int64_t line = 0;   ///< of the beat, in its roll's steps: its next hit while it plays
    EngineFrames next{};     ///< by m_clock: its next hit while nothing plays
    double beats = 0;        ///< that had gone by at its anchor
    double anchorBeats = 0;  ///< by beatsGoneBy()
    EngineFrames anchorClock{};
  };
  static constexpr int kHeldNotes = 32;
  static constexpr int kSlots = 64;
  static constexpr int kSpareVoices = 12;

  void prefetch(ScoreSlot& slot);
  void tellWhatIsRead();
  void takeScore();
  void retireSlots();
  void handle(const Command& command);
  void handleHeldNotes(const Command& command);
  void startAt(EngineFrames place);
  void aimVoices(const Graph& last);
  void holdInLoop(const Score& score);
  void findNextEvent();
  void strike(const ScoreEvent& event, std::uint32_t touch, std::uint32_t turn, EngineFrames skip);
  bool bendsOrEnds(const ScoreEvent& event, std::uint32_t touch, Voice::Start& start);
  void startVoice(const Voice::Start& start);
  void play(const HeldNote& note);
  void rollOn();
  [[nodiscard]] double beatsHeld(const HeldNote& note) const;
  [[nodiscard]] double beatsGoneBy() const;
  void anchorRoll(HeldNote& note);
  void settleRolls();
  void anchorRolls();
  void alignRoll(HeldNote& note, double margin);
  void alignRolls();
  [[nodiscard]] EngineFrames framesOfStep(const HeldNote& note) const;
  [[nodiscard]] EngineFrames untilHit(const HeldNote& note) const;
  [[nodiscard]] EngineFrames agoOf(Nanoseconds when) const;
  [[nodiscard]] Report reportOf(Report::Kind kind, Id key) const;
  void letGo(const Command& command);
  [[nodiscard]] EngineFrames untilRoll() const;
  void stopScored();
  int untilNext(int frames) const;
  void atPlace();
  void render(int frames);
  void renderQuantum();
  void giveOut(float* left, float* right, int frames);
  void show(const float* left, const float* right, int frames);
  [[nodiscard]] Graph& graph() { return *m_slots[std::size_t(m_current)]->graph; }
  [[nodiscard]] int lateness() const;
  [[nodiscard]] bool countsIn() const { return m_position.value < 0; }
  [[nodiscard]] InputLine::Place placeNow() const;
  void takeInput(const float* inLeft, const float* inRight, float* left, float* right, int frames,
                 InputLine::Place place);
  void monitor(const Monitor& how, float* wetLeft, float* wetRight, int frames);
  void sendProbe(float* left, float* right, int frames);
  void click(float* left, float* right, int frames);
  void changeAudition();
  void phaseAudition();
  void keepAuditionInPhase();
  [[nodiscard]] double inBar(Bpm tempo) const;
  void renderAudition(float* left, float* right, int frames);

  const SincBank m_bank;
  GraphMaker m_maker{kEngineRate}; ///< the owner's
  Prefetcher* m_prefetcher;
  std::atomic<ScoreSlot*> m_incoming{nullptr};
  std::array<SpscQueue<Command, 1024>, kSources> m_commands;
  SpscQueue<Report, 4096> m_reports;
  SpscQueue<ScoreSlot*, 256> m_retired;

  // Audio thread's own.
  std::array<ScoreSlot*, kSlots> m_slots{};
  int m_current = -1;
  std::array<Voice, kVoices> m_voices;
  std::array<std::uint32_t, kVoices> m_ages{};
  std::uint32_t m_age = 0;
  Limiter m_limiter;
  bool m_limits = true, m_playing = false, m_metronome = false;
  EngineFrames m_position;
  std::int64_t m_pass = 0; ///< times the loop has gone round
  std::size_t m_nextEvent = 0;
  std::array<int, kVoices> m_busOf{}; ///< of the graph in use
  using Channel = std::array<float, kQuantum>;
  Channel m_outLeft{}, m_outRight{};     ///< of the last quantum
  Channel m_asideLeft{}, m_asideRight{}; ///< what is heard beside the music: audition and clicks
  DelayLine m_asideWaits{8192};
  int m_offset = 0; ///< of the quantum: frames that are rendered
  int m_ready = 0;  ///< of the last quantum: frames that are not given out yet
  int m_ahead = 0;  ///< the same, while commands are taken
  int m_clickFrame = -1, m_clickSound = 0;
  bool m_clickHigh = false;
  float m_clickLevel = 1;
  static constexpr int kClickFrames = 2880; ///< 60 ms
  using ClickWave = std::array<float, kClickFrames>;
  std::array<std::array<ClickWave, 2>, kClickSounds> m_clicks{}; ///< low, high
  std::array<HeldNote, kHeldNotes> m_heldNotes;
  std::uint32_t m_heldOrder = 0;
  std::array<Id, kHeldNotes> m_erased{};                 ///< 0: free
  std::array<std::uint32_t, kMostPatches> m_liveTurns{}; ///< hits by hand, by first patch
  EngineFrames m_clock;                                  ///< ever played
  Nanoseconds m_now;                                     ///< of the block
  /// The auditioned sound and the one before it, which fades. Each keeps its slot alive.
  struct Auditioned {
    int slot = -1;
    Frames at{};     ///< of the sound: what comes next
    float level = 0; ///< of its fade
    bool ends = false;
  };
  std::array<Auditioned, 2> m_auditions{};
  InputLine m_input;
  std::uint32_t m_startCount = 0;
  int m_probeFrame = -1; ///< of the wave; below 0 none goes out
  static constexpr int kInputRun = 512;
  std::array<float, kInputRun> m_cleanLeft{}, m_cleanRight{}, m_wetLeft{}, m_wetRight{},
      m_fadeLeft{}, m_fadeRight{};
  std::array<float, 2> m_monitorGain{}; ///< as it stands; it moves in steps too small to hear
  std::array<VoiceFilter, 2> m_monitorFilters; ///< the one in use and the one that fades
  PatchFilters m_monitorShape;
  int m_monitorFade = 0; ///< frames left of it

  std::atomic<bool> m_shownPlaying{false};
  std::atomic<EngineFrames> m_shownPosition{}, m_shownAbsolute{};
  std::atomic<double> m_shownBeats{0};
  std::atomic<float> m_peakLeft{0}, m_peakRight{0}, m_shownGain{1};
  std::atomic<int> m_shownVoices{0}, m_shownLatency{Limiter::kLatency};
  std::array<std::atomic<float>, kMostPatches> m_levels{};
};

} // namespace tuvvo
