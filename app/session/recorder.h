// Takes: what is struck is laid into the pattern where it was heard, pass by pass.
#pragma once

#include "beat/played_tempo.h"
#include "beat/timing.h"
#include "session/transport.h"

#include <deque>

namespace tuvvo {

class Recorder : public Service {
  Q_OBJECT
public:
  /// @param toTheEar  asked for how long sound goes from the engine to the ear
  Recorder(Document& document, Player& player, Transport& transport,
           std::function<EngineFrames()> toTheEar);

  // ---- takes (recorder.cpp) ----
  [[nodiscard]] bool recording() const { return m_recording; }
  /// Counts in and writes what is struck; again, or stop, ends the take.
  void toggleRecord();
  /// The first hit on a part takes out what the part had in the pattern.
  [[nodiscard]] bool replaces() const { return m_replaces; }
  void setReplaces(bool on);
  /// From now until it ends, the hits of a key go as the music passes them.
  void beginErasing(Id key);
  void endErasing(Id key);
  [[nodiscard]] bool erases(Id key) const { return m_erasing.contains(key); }
  /// Quantises hits of the pattern.
  void quantise(const QuantiseOptions& options);

  // ---- practice (recorder_practice.cpp) ----
  static constexpr int kPracticeBars = 2;
  /// Repeats the bars that are looped, or the first two of the pattern, and watches how they are
  /// played; writes nothing.
  void togglePractice();
  [[nodiscard]] bool practising() const { return m_practising; }
  struct Round {
    TimingFigures figures;
    std::vector<RecordedHit> hits;
  };
  [[nodiscard]] const std::vector<Round>& rounds() const { return m_rounds; }
  /// How the last take was played.
  [[nodiscard]] const TimingPicture& timing() const { return m_timing; }

  // ---- the last minutes played, recorded or not, can be laid into the pattern ----
  struct Caught {
    std::vector<std::vector<RecordedHit>> rounds; ///< as long as the pattern each, oldest first
    std::size_t round = 0;                        ///< the one that is laid
    std::optional<PlayedTempo> tempo;             ///< where nothing was playing
  };
  void catchThat();
  [[nodiscard]] const Caught& caught() const { return m_caught; }
  /// Lays another round of what was caught in place of the one that is laid.
  void layRound(std::size_t round);
  /// Brings the beat to the tempo that was played.
  void takeCaughtTempo(Bpm tempo);

  /// Lays what was struck and is over; call it some thirty times a second.
  void poll();

signals:
  /// It records, or no longer; it replaces, or no longer.
  void changed();
  /// A take ended, a round of practice did, or something was caught.
  void takeChanged();

private:
  struct Pending {
    RecordedHit hit;         ///< `at` counts on over the passes
    std::uint32_t touch = 0; ///< 0: let go
  };
  struct Remembered {
    RecordedHit hit; ///< `at` counts on over the passes where the music played
    bool playing = false;
    std::uint32_t touch = 0;
    std::int64_t play = 0; ///< how often the music had been started
  };

  void struck(const Engine::Report& report);
  void lifted(const Engine::Report& report);
  void layPending(bool all);
  void layHits(const std::vector<RecordedHit>& hits, std::int64_t pass);
  void eraseOn();
  void finishTake();
  void finishPractice();
  void beginRound(std::int64_t round);
  void finishRound();
  [[nodiscard]] EngineFrames heardNow() const;
  [[nodiscard]] EngineFrames heardAt(const Engine::Report& report, const Score& score) const;
  [[nodiscard]] RecordedHit placed(RecordedHit hit) const;
  [[nodiscard]] bool loopsPart() const;
  [[nodiscard]] PatternPtr pattern() const;
  [[nodiscard]] std::vector<RecordedHit> lastPhrase() const;

  Document& m_document;
  Player& m_player;
  Transport& m_transport;
  std::function<EngineFrames()> m_toTheEar;
  bool m_recording = false, m_replaces = false, m_practising = false;
  bool m_ownLoop = false;          ///< practice has chosen the bars
  std::vector<Pending> m_pending;  ///< struck, not laid yet
  std::vector<RecordedHit> m_take; ///< all of a take or of a round of practice
  std::set<Id> m_replaced;         ///< parts that this take has emptied
  int m_takeNumber = 0;
  std::vector<Round> m_rounds;
  std::int64_t m_round = 0;
  TimingPicture m_timing;
  std::deque<Remembered> m_memory;
  Caught m_caught;
  ProjectPtr m_caughtStep;           ///< as it was once the chosen round was laid
  QHash<Id, EngineFrames> m_erasing; ///< key: up to where its hits are out already
};

} // namespace tuvvo
