// The key deck: the computer keyboard as the instrument, drawn as it lies under the hands.
#pragma once

#include "session/session.h"

#include <QWidget>
#include <optional>

class QKeyEvent;
class QMenu;

namespace tuvvo {

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
enum class HandKey { Softer, Harder, Spread, Page, Roll, Soft, Erase, Catch };
inline constexpr int kHandKeys = 8;
[[nodiscard]] std::optional<HandKey> handKeyOf(const QKeyEvent& event);

class Deck : public QWidget {
  Q_OBJECT
public:
  Deck(Session& session, QWidget* parent);

  /// Plays a key event if it is one of the deck's or the hand's. @returns whether it was
  bool keyEvent(const QKeyEvent& event, bool down);
  /// Lets every held key go (the window lost the keyboard).
  void letAllGo();
  [[nodiscard]] QSize sizeHint() const override;
  /// Where a cap is drawn.
  [[nodiscard]] QRectF capOf(DeckPlace place) const;
  [[nodiscard]] QRectF capOf(HandKey key) const;

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  bool event(QEvent* event) override;

private:
  [[nodiscard]] std::optional<DeckPlace> placeAt(QPointF point) const;
  [[nodiscard]] std::optional<HandKey> handKeyAt(QPointF point) const;
  bool handKey(HandKey key, bool down);
  void drawHandCap(QPainter& painter, HandKey key);
  [[nodiscard]] QString spreadText(SpreadBy by, DeckPlace place) const;
  void addMuteActions(QMenu& menu, const Key& key);
  void press(DeckPlace place, double velocity);
  void lift(DeckPlace place);
  [[nodiscard]] const Key* keyOn(DeckPlace place) const;
  void drawCap(QPainter& painter, DeckPlace place);
  void drawSound(QPainter& painter, const QRectF& box, const Key& key, QColor colour);
  [[nodiscard]] QString letterOf(DeckPlace place) const;
  [[nodiscard]] QString letterOf(HandKey key) const;

  Session& m_session;
  QSet<int> m_down;              ///< row * 8 + column
  QHash<int, QString> m_letters; ///< learnt from the person's own layout
  std::optional<DeckPlace> m_pointed;
  bool m_anySolo = false; ///< while it is painted
};

} // namespace tuvvo
