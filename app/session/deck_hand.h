// Fingers on the deck: what they strike, how hard, and what a held one does.
#pragma once

#include "session/recorder.h"

#include <QHash>

namespace tuvvo {

/// How keys are played that have no velocity of their own, and what a held one does.
struct PerformanceSettings {
  double velocity = 0.8; ///< 0.05 to 1
  double soft = 0;       ///< spread of a soft hand; 0 to 0.3
  std::optional<SpreadBy> spread;
  Id spreadKey = 0;        ///< what lies under all keys while there is a spread
  bool roll = false;       ///< held keys repeat
  double rollBeats = 0.25; ///< 1/16 to 4
  double swell = 0;        ///< velocity a beat, −1 to 1
  double climb = 0;        ///< semitones a beat, −24 to 24
  bool erase = false;      ///< held keys take their hits out of the pattern as it passes
  bool operator==(const PerformanceSettings&) const = default;
};

class DeckHand : public Service {
  Q_OBJECT
public:
  DeckHand(Document& document, Player& player, Recorder& recorder)
      : m_document(document), m_player(player), m_recorder(recorder) {}

  [[nodiscard]] const PerformanceSettings& settings() const { return m_settings; }
  void set(const PerformanceSettings& settings);
  /// Lays one sound over the whole deck, or takes it off again. By length needs a held key: it is
  /// made one.
  void setSpread(std::optional<SpreadBy> by);
  /// The key that a place of the deck plays now; null for none.
  [[nodiscard]] const Key* keyUnder(Row row, int column) const;

  struct Press {
    Row row = Row::Body;
    int column = 0;
    std::uint32_t touch = 0; ///< which finger; not 0
    double velocity = 0;     ///< 0: the hand's own
  };
  /// A finger comes down on the deck. @returns the key it plays; 0 for none
  Id press(const Press& press);
  void lift(std::uint32_t touch);
  /// A key by its name alone, held until it is let go.
  void strike(Id key, double velocity);
  void release(Id key);

signals:
  void changed();

private:
  void sendStrike(Id key, const PerformanceHit& hit, std::uint32_t touch);

  Document& m_document;
  Player& m_player;
  Recorder& m_recorder;
  PerformanceSettings m_settings;
  SoftHand m_soft{1};
  QHash<std::uint32_t, Id> m_touched; ///< finger: the key it erases or plays
};

} // namespace tuvvo
