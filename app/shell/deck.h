// The key deck: the computer keyboard as the instrument, drawn as it lies under the hands.
#pragma once

#include "session/session.h"

#include <QWidget>
#include <optional>

class QKeyEvent;

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

class Deck : public QWidget {
  Q_OBJECT
public:
  Deck(Session& session, QWidget* parent);

  /// Plays a key event if it is one of the deck's. @returns whether it was
  bool keyEvent(const QKeyEvent& event, bool down);
  /// Lets every held key go (the window lost the keyboard).
  void letAllGo();
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  bool event(QEvent* event) override;

private:
  [[nodiscard]] QRectF capOf(DeckPlace place) const;
  [[nodiscard]] std::optional<DeckPlace> placeAt(QPointF point) const;
  [[nodiscard]] const Key* keyOn(DeckPlace place) const;
  void drawCap(QPainter& painter, DeckPlace place);
  void drawSound(QPainter& painter, const QRectF& box, const Key& key, QColor colour);
  [[nodiscard]] QString letterOf(DeckPlace place) const;

  Session& m_session;
  QHash<int, Id> m_down;         ///< row * 8 + column: what it struck
  QHash<int, QString> m_letters; ///< learnt from the person's own layout
  int m_pointed = -1;
};

} // namespace tuvvo
