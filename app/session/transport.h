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
  /// How often the music was started.
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
  /// Before changed().
  void stopped();
  /// Some thirty times a second while something may move.
  void tick();

private:
  Document& m_document;
  Player& m_player;
  bool m_playing = false, m_metronome = false;
  std::int64_t m_starts = 0;
  Click m_click;
  TapTempo m_taps;
  QElapsedTimer m_clock;
};

} // namespace tuvvo
