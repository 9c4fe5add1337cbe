// Catching sound: what comes in, how it is heard, and what becomes of it.
#pragma once

#include "catch/catcher.h"
#include "catch/level_advice.h"
#include "model/project.h"
#include "play/score.h"
#include "session/crate_service.h"
#include "session/transport.h"

namespace tuvvo {

/// Lives on the interface thread; what is caught is told to it through the event loop.
class CatchService : public Service {
  Q_OBJECT
public:
  enum class Mode { Bars, Hits, Long };
  enum class Hear { Not, Direct, Through };
  struct Settings {
    Mode mode = Mode::Bars;
    int bars = 4; ///< 1 to 64
    HitSettings hits;
    Hear hear = Hear::Not;
    bool prints = false; ///< the sound of the key that it is heard through is recorded with it
    bool operator==(const Settings&) const = default;
  };

  CatchService(Document& document, JobService& jobs, Player& player, Transport& transport,
               CrateService& crate);
  ~CatchService() override;

  [[nodiscard]] const Settings& settings() const { return m_settings; }
  void change(const Settings& settings);
  /// How what comes in is to be heard; it goes into every score.
  [[nodiscard]] Monitor monitor() const;

  // ---- level ----
  struct Level {
    std::array<float, 2> peak{}; ///< falling
    std::array<float, 2> held{}; ///< the highest of the last seconds
    std::array<float, 2> rms{};
    std::uint32_t clips = 0; ///< since they were last forgotten
    LevelAdvice advice;
  };
  [[nodiscard]] const Level& level() const { return m_level; }
  void forgetPeaks();
  /// Something comes in, be it silence.
  [[nodiscard]] bool listens() const;

  // ---- catching ----
  void begin();
  void stop();
  void toggle();
  /// Ends what is caught and waits until all of it is in the beat; when the window closes.
  void finish();
  [[nodiscard]] bool catching() const { return m_catching; }
  [[nodiscard]] Catcher::Now now() const { return m_catcher->now(); }
  /// What it does now, for a person.
  [[nodiscard]] QString state() const;
  /// Of the bars that are caught, 0 to 1.
  [[nodiscard]] double done() const;
  /// How long a take may become; nothing where that is unknown.
  [[nodiscard]] std::optional<Seconds> room() const;

  // ---- the way there and back ----
  /// Sends a short sound out and listens for it. What comes in is not heard meanwhile.
  void measureLatency();
  [[nodiscard]] bool measuring() const { return m_measuring; }
  /// Frames from the engine to its input, as measured with what is in use.
  [[nodiscard]] std::optional<std::int64_t> measured() const;
  /// Measured, or as devices usually are: two blocks and the limiter.
  [[nodiscard]] std::int64_t roundTrip() const;
  /// Frames from the engine to the ear: the round trip without the block that comes in; one block
  /// and the limiter where nothing was measured.
  [[nodiscard]] EngineFrames toTheEar() const;

  /// Call it some thirty times a second, and the other a few times.
  void poll();
  void watch();

  /// Where caught sounds lie; watched by the crate.
  [[nodiscard]] std::filesystem::path caughtFolder() const;
  /// Where long takes lie until their phrases are found.
  [[nodiscard]] std::filesystem::path takesFolder() const;
  /// Writes a sound among the caught ones, has it heard, and adds it to the beat in a step of its
  /// own. In the order of the calls.
  struct Caught {
    SoundPtr sound;
    std::string name; ///< of the file and the source; a number is added where there is one
    Provenance provenance;
    Corrections corrections;
    bool onKey = false; ///< and it is put on a key of the deck
  };
  void add(const Caught& caught);
  void waitForAdded() { m_pool.waitIdle(); }

signals:
  void changed();
  void levelMoved();
  /// A long take lies on disc.
  void tookLong(const QString& path);

private:
  [[nodiscard]] std::int64_t processorsLate() const;
  void told(CatchEvent told);
  void caughtBars(BarsCaught caught);
  void caughtHit(CaughtHit hit);
  void caughtLong(const LongCaught& caught);
  void foundLatency(const LatencyFound& found);
  void beginBars();
  void addToBeat(const Source& source, bool onKey);
  [[nodiscard]] Provenance provenanceFor(const QString& settings) const;
  [[nodiscard]] QString settingsText() const;

  Document& m_document;
  Player& m_player;
  Transport& m_transport;
  CrateService& m_crate;
  Settings m_settings;
  Level m_level;
  std::uint32_t m_clipsBefore = 0;
  qint64 m_heldSince = 0, m_adviceSince = 0;
  float m_loudest = 0; ///< of the last ten seconds
  bool m_catching = false, m_measuring = false;
  std::int64_t m_barFrames = 0; ///< of the bars that are caught
  double m_tempo = 90;          ///< of the beat when they began
  std::unique_ptr<Catcher> m_catcher;
  JobPool m_pool; ///< in order; last: ends first
};

} // namespace tuvvo
