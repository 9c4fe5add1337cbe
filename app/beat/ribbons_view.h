// One ribbon a part. A hit is a pin: height is velocity, its lean is its true lead or lag.
#pragma once

#include "session/session.h"

#include <QWidget>

namespace tuvvo {

class RibbonsView : public QWidget {
  Q_OBJECT
public:
  RibbonsView(Session& session, QWidget* parent);

  /// Lines in a beat that pins are set on: 1, 2, 3, 4, 6 or 8.
  int grid = 4;
  [[nodiscard]] Id currentPart() const;
  [[nodiscard]] bool hasPinAtCursor() const;
  void togglePinAtCursor();
  void removeChosen();
  void changeChosen(const QString& name, const std::function<void(Pin&)>& change);
  void moveCursor(int steps, int ribbons);
  [[nodiscard]] int heightNeeded() const;
  [[nodiscard]] QSize sizeHint() const override { return {600, heightNeeded()}; }

signals:
  void chosenChanged();

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  struct Ribbon {
    Part part;
    QRectF box;
    bool tones; ///< pins are at pitches
  };
  [[nodiscard]] std::vector<Ribbon> ribbons() const;
  [[nodiscard]] PatternPtr pattern() const;
  [[nodiscard]] double beats() const;
  [[nodiscard]] double xOf(const Ribbon& ribbon, double beat) const;
  [[nodiscard]] double heardBeat(const Pin& pin, const Lane& lane) const;
  [[nodiscard]] QPointF tipOf(const Ribbon& ribbon, const Pin& pin, const Lane& lane) const;
  [[nodiscard]] Id keyForNew(const Part& part) const;
  void drawHead(QPainter& p, const Ribbon& ribbon);
  void drawLane(QPainter& p, const Ribbon& ribbon, const Lane& lane);
  void drawTones(QPainter& p, const Ribbon& ribbon, const Lane& lane);
  void addPin(const Ribbon& ribbon, Beats at, double velocity);

  Session& m_session;
  Id m_part = 0;
  std::int64_t m_cursor = 0; ///< ticks
  Pin m_chosen;
  Id m_chosenPart = 0;
  bool m_dragging = false;
  QPointF m_press;
  Pin m_pressed;
};

} // namespace tuvvo
