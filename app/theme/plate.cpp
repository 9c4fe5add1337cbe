#include "theme/plate.h"

#include <QPaintEngine>
#include <QPixmapCache>
#include <cmath>

namespace tuvvo::theme {

namespace {
constexpr double kLargest = 700; ///< pixels wide or high; larger ones are few, and cost room
} // namespace

void drawPlate(QPainter& painter, const QRectF& box, double radius, QColor fill, QColor rim,
               double rimWidth) {
  const auto draw = [&](QPainter& p) {
    p.setPen(rim.isValid() ? QPen(rim, rimWidth) : QPen(Qt::NoPen));
    p.setBrush(fill);
    p.drawRoundedRect(box, radius, radius);
  };
  // Its place in a pixel is a part of what it looks like.
  const QPointF in(box.left() - std::floor(box.left()), box.top() - std::floor(box.top()));
  const bool keeps = painter.paintEngine()->type() != QPaintEngine::User &&
                     painter.transform().type() <= QTransform::TxTranslate &&
                     painter.testRenderHint(QPainter::Antialiasing) && box.width() > 0 &&
                     std::max(box.width(), box.height()) < kLargest;
  if (!keeps) return draw(painter);
  const double around = rim.isValid() ? rimWidth / 2 + 1 : 1;
  const QRect area = box.adjusted(-around, -around, around, around).toAlignedRect();
  const qreal ratio = painter.device()->devicePixelRatioF();
  const QString name = QString::asprintf(
      "plate %.3f %.3f %.3f %.3f %.2f %08x %08x %.2f %.2f", in.x(), in.y(), box.width(),
      box.height(), radius, fill.rgba(), rim.isValid() ? rim.rgba() : 0u, rimWidth, ratio);
  QPixmap picture;
  if (!QPixmapCache::find(name, &picture)) {
    picture = QPixmap(area.size() * ratio);
    picture.setDevicePixelRatio(ratio);
    picture.fill(Qt::transparent);
    QPainter p(&picture);
    p.setRenderHint(QPainter::Antialiasing);
    p.translate(-area.topLeft());
    draw(p);
    p.end();
    QPixmapCache::insert(name, picture);
  }
  painter.drawPixmap(area.topLeft(), picture);
}

} // namespace tuvvo::theme
