// The key deck: the computer keyboard as the instrument, drawn as it lies under the hands.
#pragma once

#include "audio/peaks.h"
#include "panel/panel.h"
#include "session/deck_hand.h"
#include "widgets/kept_picture.h"

#include <QWidget>
#include <optional>

class QKeyEvent;
class QMenu;

namespace tuvvo {

class ControllerService;
class PeaksCache;

/// A place on the deck.
struct DeckPlace {
  Row row;
  int column;
  auto operator<=>(const DeckPlace&) const = default;
};

/// By physical position: the scan code (evdev + 8, as X11 and Wayland give it); where there is
/// none, by the letter on a US layout.
[[nodiscard]] std::optional<DeckPlace> deckPlaceOf(const QKeyEvent& event);

/// What the two keys right of each row do to the hand.
enum class PerformanceKey { Softer, Harder, Spread, Page, Roll, Soft, Erase, Catch };
inline constexpr int kPerformanceKeys = 8;
[[nodiscard]] std::optional<PerformanceKey> performanceKeyOf(const QKeyEvent& event);

/// Everything that the picture of a cap is painted from.
struct CapLook {
  QString letter;
  QColor fill, rim, ink, tone; ///< no fill: nothing lies there
  double rimWidth = 1;
  QString spread; ///< what the key does while one sound lies over the deck; empty: its own picture
  QString name;
  bool stacked = false, silent = false, treated = false;
  int choke = 0;
  SoundPtr sound;
  PeaksPtr peaks;
  Frames start, end;
  bool operator==(const CapLook&) const = default;
};

/// The same of a key that does something to the hand.
struct PerformanceCapLook {
  QString letter, word; ///< no word: it would not fit
  QColor rim, fill, ink;
  double rimWidth = 1;
  bool operator==(const PerformanceCapLook&) const = default;
};

class Deck : public Panel {
  Q_OBJECT
public:
  struct Uses {
    DeckHand& hand;
    Recorder& recorder;
    Player& player;
    Transport& transport;
    PeaksCache& peaks;
    ControllerService& controllers;
  };
  Deck(Panel& host, const Uses& uses, QWidget* parent);

  /// Plays a key event if it is one of the deck's or the hand's. @returns whether it was
  bool keyEvent(const QKeyEvent& event, bool down);
  /// Lets every held key go (the window lost the keyboard).
  void letAllGo();
  [[nodiscard]] QSize sizeHint() const override;
  /// Folded it draws its first rows only; all of them are played all the same.
  void setRows(int rows);
  [[nodiscard]] int rows() const { return m_rows; }
  /// Where a cap is drawn; nowhere, in a row that is folded away.
  [[nodiscard]] QRectF capOf(DeckPlace place) const;
  [[nodiscard]] QRectF capOf(PerformanceKey key) const;

signals:
  /// A key was played whose row is folded away.
  void playedUnseen();

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  bool event(QEvent* event) override;

private:
  [[nodiscard]] std::optional<DeckPlace> placeAt(QPointF point) const;
  [[nodiscard]] std::optional<PerformanceKey> handKeyAt(QPointF point) const;
  bool handKey(PerformanceKey key, bool down);
  [[nodiscard]] CapLook lookOf(DeckPlace place) const;
  [[nodiscard]] bool sameBeside(const Key& key) const;
  void nameCap(CapLook& look, const QRectF& box, const Key& key) const;
  [[nodiscard]] PerformanceCapLook lookOf(PerformanceKey key, bool words) const;
  void drawRowLabel(QPainter& painter, Row row);
  void drawPerformanceCaps(QPainter& painter);
  [[nodiscard]] QString spreadText(SpreadBy by, DeckPlace place) const;
  void addMuteActions(QMenu& menu, const Key& key);
  void press(DeckPlace place, double velocity);
  void lift(DeckPlace place);
  [[nodiscard]] const Key* keyOn(DeckPlace place) const;
  [[nodiscard]] QString letterOf(DeckPlace place) const;
  [[nodiscard]] QString letterOf(PerformanceKey key) const;

  DeckHand& m_hand;
  Recorder& m_recorder;
  Player& m_player;
  PeaksCache& m_peaks;
  ControllerService& m_controllers;
  QSet<int> m_down;              ///< row * 8 + column
  QHash<int, QString> m_letters; ///< learnt from the person's own layout
  std::optional<DeckPlace> m_pointed;
  bool m_anySolo = false; ///< while it is painted
  int m_rows = kRowCount;
  std::array<KeptPicture<CapLook>, std::size_t(kRowCount* kColumns)> m_caps;
  std::array<KeptPicture<PerformanceCapLook>, kPerformanceKeys> m_performanceCaps;
};

} // namespace tuvvo
