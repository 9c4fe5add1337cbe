#include "widgets/sign.h"

#include "base/convert.h"
#include "formats/shipped.h"

#include <QFile>
#include <QHash>
#include <QPainter>
#include <QPixmapCache>
#include <QSvgRenderer>
#include <array>

namespace tuvvo {

namespace {

constexpr std::array<const char*, std::size_t(Sign::Count)> kFiles{
    "",        "add",     "again", "break", "catch", "cut",   "export",  "find",   "hear",
    "keep",    "measure", "mute",  "pin",   "play",  "print", "propose", "record", "remove",
    "reverse", "right",   "solo",  "star",  "stop",  "tap",   "tune",    "undo"};

/// The drawing as it is in the file: black, which stands for any ink.
QByteArray drawingOf(Sign sign) {
  QFile file(QString::fromStdString(
      (dataFolder() / "icons" / "signs" / (std::string(fileOf(sign)) + ".svg")).string()));
  return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

} // namespace

const char* fileOf(Sign sign) { return kFiles[std::size_t(sign)]; }

void drawSign(QPainter& painter, Sign sign, const QRectF& box, QColor ink) {
  if (sign == Sign::None) return;
  const double side = std::min(box.width(), box.height());
  const qreal ratio = painter.device()->devicePixelRatioF();
  const int pixels = toNearest<int>(side * ratio);
  if (pixels < 1) return;
  const QString key =
      QStringLiteral("sign %1 %2 %3").arg(QLatin1String(fileOf(sign)), ink.name()).arg(pixels);
  QPixmap picture;
  if (!QPixmapCache::find(key, &picture)) {
    picture = QPixmap(pixels, pixels);
    picture.fill(Qt::transparent);
    QSvgRenderer drawing(drawingOf(sign).replace("#000", ink.name().toLatin1()));
    QPainter p(&picture);
    p.setRenderHint(QPainter::Antialiasing);
    drawing.render(&p);
    p.end();
    QPixmapCache::insert(key, picture);
  }
  const QPointF corner = box.center() - QPointF(side, side) / 2;
  painter.drawPixmap(QRectF(corner, QSizeF(side, side)), picture, QRectF(picture.rect()));
}

} // namespace tuvvo
