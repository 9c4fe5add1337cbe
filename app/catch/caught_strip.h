// What was caught lately: a card for each sound, the newest first; a click plays it as it is.
#pragma once

#include "panel/panel.h"

#include <QTimer>

namespace tuvvo {

class Auditions;
class CatchService;
class PeaksCache;

class CaughtStrip : public Panel {
  Q_OBJECT
public:
  CaughtStrip(Panel& host, CatchService& catching, PeaksCache& peaks, Auditions& auditions,
              QWidget* parent);
  /// Sounds that are shown, the newest first.
  [[nodiscard]] std::vector<SourcePtr> shown() const;
  [[nodiscard]] QRectF cardOf(std::size_t place) const;

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;

private:
  void notice();
  void hear(std::size_t place);
  void drawCard(QPainter& p, std::size_t place, const Source& source, bool fresh);

  CatchService& m_catching;
  PeaksCache& m_peaks;
  Auditions& m_auditions;
  std::size_t m_chosen = 0;
  Id m_newest = 0;
  QTimer m_lit; ///< runs while the newest has just come
};

} // namespace tuvvo
