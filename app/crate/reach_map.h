// Sources as dots: across how far the tempo must move to meet the beat, up how far the key is.
#pragma once

#include "crate/subject.h"
#include "panel/picture_panel.h"

namespace tuvvo {

class ReachMap : public PicturePanel {
  Q_OBJECT
public:
  ReachMap(Panel& host, QWidget* parent);
  /// At most a few hundred, nearest first; names are written as far as there is room.
  void setDots(std::vector<ReachDot> dots);
  void setChosen(std::optional<RowId> row);

signals:
  /// A dot was clicked, or walked to with the arrow keys.
  void picked(RowId row);

protected:
  void draw(QPainter& p) override;
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
  /// Up: how far keys are apart; else, without a key of the beat or of any source, what it costs.
  [[nodiscard]] bool upTellsKeys() const;
  static void drawDot(QPainter& p, QPointF at, double r, FitMethod method);
  void paintGround(QPainter& p);
  void paintDots(QPainter& p);

  std::vector<ReachDot> m_dots;
  std::optional<RowId> m_chosen;
};

} // namespace tuvvo
