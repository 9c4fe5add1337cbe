#include "widgets/small_wave.h"

#include "base/convert.h"

#include <QPainter>
#include <algorithm>

namespace tuvvo {

void drawSmallWave(QPainter& p, const QRectF& box, const Sound& sound, const PeaksPtr& peaks,
                   const Stretch& stretch, const QColor& colour, double apart) {
  if (!peaks) return;
  const int lines = std::max(1, toWhole<int>(box.width() / apart));
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

void drawSmallWave(QPainter& p, const QRectF& box, std::span<const std::uint8_t> columns,
                   const QColor& colour) {
  const int lines = std::max(1, toWhole<int>(box.width()));
  p.setPen(QPen(colour, 1));
  for (int i = 0; i < lines && !columns.empty(); ++i) {
    const std::size_t from = columns.size() * std::size_t(i) / std::size_t(lines),
                      to = std::max(from + 1,
                                    columns.size() * std::size_t(i + 1) / std::size_t(lines));
    const auto loudest =
        *std::max_element(columns.begin() + std::ptrdiff_t(from),
                          columns.begin() + std::ptrdiff_t(std::min(to, columns.size())));
    const double half = std::max(0.5, double(loudest) / 255 * box.height() / 2);
    const double x = box.left() + i + 0.5;
    p.drawLine(QPointF(x, box.center().y() - half), QPointF(x, box.center().y() + half));
  }
}

} // namespace tuvvo
