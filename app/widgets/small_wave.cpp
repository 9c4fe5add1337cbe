#include "widgets/small_wave.h"

#include <QPainter>
#include <algorithm>

namespace tuvvo {

void drawSmallWave(QPainter& p, const QRectF& box, const Sound& sound, const PeaksPtr& peaks,
                   const Stretch& stretch, const QColor& colour, double apart) {
  if (!peaks) return;
  const int lines = std::max(1, int(box.width() / apart));
  const double step = double((stretch.end - stretch.start).value) / lines;
  std::vector<Extremes> all;
  float loudest = 1e-4f;
  for (int i = 0; i < lines; ++i) {
    all.push_back(peaks->over(sound, stretch.start + Frames(std::int64_t(i * step)),
                              stretch.start + Frames(std::int64_t((i + 1) * step) + 1)));
    loudest = std::max({loudest, all.back().high, -all.back().low});
  }
  p.setPen(QPen(colour, apart * 0.7 + 0.3));
  const double middle = box.center().y(), half = box.height() / 2;
  for (int i = 0; i < lines; ++i) {
    const double x = box.left() + i * apart + 0.5;
    const auto& e = all[std::size_t(i)];
    p.drawLine(QPointF(x, middle - std::max(0.5, double(e.high / loudest) * half)),
               QPointF(x, middle + std::max(0.5, double(-e.low / loudest) * half)));
  }
}

} // namespace tuvvo
