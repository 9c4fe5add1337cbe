// Sources as dots: across how far the tempo must move to meet the beat, up how far the key is.
#pragma once

#include "crate/subject.h"
#include "session/session.h"

#include <QWidget>

namespace tuvvo {

class ReachMap : public QWidget {
  Q_OBJECT
public:
  ReachMap(Session& session, QWidget* parent);
  /// At most a few hundred, nearest first; names are written as far as there is room.
  void setDots(std::vector<ReachDot> dots);
  void setChosen(std::optional<RowId> row);

signals:
  /// A dot was clicked, or walked to with the arrow keys.
  void picked(RowId row);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;

private:
  struct Placed {
    const ReachDot* dot;
    QPointF at;
    double cost;
    FitMethod method; ///< the method that reaches it for least
  };
  [[nodiscard]] std::vector<Placed> placed() const;
  [[nodiscard]] QRectF field() const;
  static void drawDot(QPainter& p, QPointF at, double r, FitMethod method);
  void paintGround(QPainter& p);
  void paintDots(QPainter& p);

  Session& m_session;
  std::vector<ReachDot> m_dots;
  std::optional<RowId> m_chosen;
};

} // namespace tuvvo
