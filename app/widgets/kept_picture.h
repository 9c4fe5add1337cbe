// A picture that is painted again only when what it shows has changed.
#pragma once

#include "theme/theme.h"

#include <QPaintEngine>
#include <QPainter>
#include <QPixmap>

namespace tuvvo {

/// @tparam Look  everything that the picture is painted from, compared with ==; colours and type
///               of the theme and the place need not be in it
template <class Look> class KeptPicture {
public:
  /// @param box     where the picture lies, in the coordinates of `to`
  /// @param ground  what lies under it
  /// @param paint   called as paint(QPainter&) in the same coordinates, if anything has changed
  template <class Paint>
  void draw(QPainter& to, const QRectF& box, QColor ground, const Look& look, const Paint& paint) {
    const QRect area = box.toAlignedRect();
    if (area.isEmpty()) return;
    if (to.paintEngine()->type() == QPaintEngine::User)
      return paint(to); // it wants more than pixels
    const qreal ratio = to.device()->devicePixelRatioF();
    const Surroundings here{box, ground, ratio, theme::generation()};
    if (m_picture.isNull() || !(m_here == here) || !(m_look == look)) {
      m_here = here;
      m_look = look;
      m_picture = QPixmap(area.size() * ratio);
      m_picture.setDevicePixelRatio(ratio);
      m_picture.fill(ground);
      QPainter p(&m_picture);
      p.setRenderHints(to.renderHints());
      p.translate(-area.topLeft());
      paint(p);
    }
    to.drawPixmap(area.topLeft(), m_picture);
  }

private:
  struct Surroundings {
    QRectF box;
    QColor ground;
    qreal ratio = 1;
    int generation = 0;
    bool operator==(const Surroundings&) const = default;
  };

  Look m_look;
  Surroundings m_here;
  QPixmap m_picture;
};

} // namespace tuvvo
