// Play, stop, seek; the metronome; the tempo by tapping.
#pragma once

#include "listen/tap_tempo.h"
#include "session/player.h"

#include <QElapsedTimer>

namespace tuvvo {

class Transport : public Service {
  Q_OBJECT
public:
  Transport(Document& document, Player& player);

  [[nodiscard]] Plays plays() const { return m_player.plays(); }
  void setPlays(Plays plays);
  [[nodiscard]] bool playing() const { return m_playing; }
  /// In the pattern or the song, in beats; negative while counting in.
  [[nodiscard]] double positionBeats() const;
  /// Of what is played: the chosen pattern, or the song's first section.
  [[nodiscard]] Meter meter() const;
  void togglePlay();
  void play(double fromBeats = 0);
  void stop();
  void seek(double beats);

  // ---- what goes round ----
  /// Of the pattern that is chosen, or of the song, whichever is played; nothing: all of it.
  [[nodiscard]] std::optional<LoopSpan> loop() const { return m_loop; }
  /// Whole bars from one on; it lets go of it where there are none, and with another pattern.
  /// @param bars  0 for none
  void loopBars(int from, int bars);
  void loopAll() { setLoop(std::nullopt); }
  /// From the bar of a place to the end of the loop, or of all where it would end before.
  void loopFrom(double beats);
  /// From the start of the loop, or of all, to the end of the bar of a place.
  void loopTo(double beats);
  /// The bar that was heard last: that of a place, or the one before it where it has just begun.
  void loopLastBar(double beats);
  /// The bars of what is played, as beats from its start: every bar line, the end among them.
  [[nodiscard]] std::vector<Beats> barLines() const;
  /// The first and the last bar that go round, from 1; nothing where all do.
  [[nodiscard]] std::optional<std::pair<int, int>> loopedBars() const;
  /// The bar that a place lies in, from 0.
  [[nodiscard]] int barAt(double beats) const;

  /// How often the music was started, or went round another way.
  [[nodiscard]] std::int64_t starts() const { return m_starts; }

  [[nodiscard]] bool metronome() const { return m_metronome; }
  void setMetronome(bool on);
  struct Click {
    int sound = 0;     ///< 0 to Engine::kClickSounds − 1
    Decibels level{0}; ///< −30 to +9
    int countIn = 1;   ///< bars; 0 to 2
    bool operator==(const Click&) const = default;
  };
  [[nodiscard]] const Click& click() const { return m_click; }
  void setClick(const Click& click);

  /// One tap of the tempo key; with two and more the beat's tempo follows.
  void tapTempo();
  [[nodiscard]] std::optional<TappedTempo> tapped() const { return m_taps.tempo(); }

  /// Call it some thirty times a second, after the player was asked.
  /// @param sounds  whether anything does
  void poll(bool sounds);

signals:
  void changed();
  /// Something else is about to be played, pattern or song.
  void aboutToChangePlays();
  /// What counts on over the rounds is about to count another way.
  void loopChanging();
  void loopChanged();
  /// Before changed().
  void stopped();
  /// Some thirty times a second while something may move.
  void tick();

private:
  void setLoop(const std::optional<LoopSpan>& loop);
  void takeLoop(const std::optional<LoopSpan>& loop);
  void keepLoop();

  Document& m_document;
  Player& m_player;
  std::optional<LoopSpan> m_loop;
  Id m_loopOf = 0; ///< the pattern it belongs to; 0: the song
  bool m_playing = false, m_metronome = false;
  std::int64_t m_starts = 0;
  Click m_click;
  TapTempo m_taps;
  QElapsedTimer m_clock;
};

} // namespace tuvvo
