// How a take was played, part by part.
#pragma once

#include "panel/panel.h"
#include "session/recorder.h"

#include <QWidget>

namespace tuvvo {

/// One band a part: time goes to the right, over the bars of the take; late is below the line,
/// early above it. The full line is the grid, the shade behind it the part's feel (its swing and
/// micro-timing on the average); a dot is a hit, larger when it was harder. The broken line is the
/// trend.
class TimingView : public Panel {
  Q_OBJECT
public:
  TimingView(Panel& host, Recorder& recorder, QWidget* parent);

  /// The part whose band is chosen; 0 for none.
  [[nodiscard]] Id part() const { return m_part; }
  void choose(Id part);
  [[nodiscard]] QRectF bandOf(std::size_t index) const;
  [[nodiscard]] QSize sizeHint() const override;

signals:
  void chosen(Id part);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;

private:
  struct Axis {
    double bars = 1, firstBar = 0, mostMs = 30;
  };
  [[nodiscard]] Axis axis() const;
  [[nodiscard]] QRectF fieldOf(const QRectF& band) const;
  [[nodiscard]] QPointF placeOf(const TimedHit& hit, const QRectF& field, const Axis& axis) const;
  void drawBand(QPainter& p, const PartTiming& part, const QRectF& band, const Axis& axis);

  Recorder& m_recorder;
  Id m_part = 0;
};

} // namespace tuvvo
