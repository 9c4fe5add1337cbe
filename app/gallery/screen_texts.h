// Every text that a window draws: what it says, in which ink, and where.
#pragma once

#include <QPaintEngine>
#include <QWidget>

namespace tuvvo {

struct ScreenText {
  QString text;
  QColor ink;
  QRectF box; ///< in the window's coordinates
};

/// Draws nothing and keeps texts.
class TextEngine : public QPaintEngine {
public:
  TextEngine() : QPaintEngine(AllFeatures) {}
  bool begin(QPaintDevice*) override { return true; }
  bool end() override { return true; }
  void updateState(const QPaintEngineState&) override {}
  void drawPixmap(const QRectF&, const QPixmap&, const QRectF&) override {}
  void drawPath(const QPainterPath&) override {}
  void drawPolygon(const QPointF*, int, PolygonDrawMode) override {}
  void drawTextItem(const QPointF& at, const QTextItem& item) override {
    const QRectF box(at.x(), at.y() - item.ascent(), item.width(), item.ascent() + item.descent());
    const QTransform place = painter()->deviceTransform();
    if (painter()->hasClipping() && !painter()->clipBoundingRect().intersects(box)) return;
    texts.push_back({item.text(), painter()->pen().color(), place.mapRect(box)});
  }
  [[nodiscard]] Type type() const override { return User; }

  std::vector<ScreenText> texts;
};

class TextSheet : public QPaintDevice {
public:
  explicit TextSheet(QSize size) : m_size(size) {}
  [[nodiscard]] QPaintEngine* paintEngine() const override { return &m_engine; }
  [[nodiscard]] const std::vector<ScreenText>& texts() const { return m_engine.texts; }

protected:
  [[nodiscard]] int metric(PaintDeviceMetric metric) const override {
    switch (metric) {
    case PdmWidth:
      return m_size.width();
    case PdmHeight:
      return m_size.height();
    case PdmDpiX:
    case PdmDpiY:
    case PdmPhysicalDpiX:
    case PdmPhysicalDpiY:
      return 96;
    case PdmDevicePixelRatio:
      return 1;
    case PdmDevicePixelRatioScaled:
      return int(devicePixelRatioFScale());
    default:
      return QPaintDevice::metric(metric);
    }
  }

private:
  QSize m_size;
  mutable TextEngine m_engine;
};

inline std::vector<ScreenText> textsOf(QWidget& window) {
  TextSheet sheet(window.size());
  window.render(&sheet);
  std::vector<ScreenText> seen;
  for (const auto& text : sheet.texts())
    if (QRectF(window.rect()).contains(text.box.center())) seen.push_back(text);
  return seen;
}

} // namespace tuvvo
