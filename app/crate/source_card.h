// What was heard in one source, large.
#pragma once

#include "crate/subject.h"
#include "panel/picture_panel.h"
#include "session/auditions.h"
#include "session/peaks_cache.h"

namespace tuvvo {

class SourceCard : public PicturePanel {
  Q_OBJECT
public:
  SourceCard(Panel& host, PeaksCache& peaks, Auditions& auditions, QWidget* parent);
  [[nodiscard]] QSize sizeHint() const override;
  void setSubject(const Subject& subject);
  /// Sections that are as was asked for are marked.
  void setAsked(const PartWanted& asked) {
    m_asked = asked;
    drawAnew();
  }
  /// Shown under the figures until the next source is chosen.
  void setTapped(const QString& text) {
    m_tapped = text;
    drawAnew();
  }

protected:
  void draw(QPainter& p) override;
  bool event(QEvent* event) override;

private:
  void paintWave(QPainter& p, const QRectF& box);
  void paintFigures(QPainter& p, const QRectF& box);
  [[nodiscard]] QString lastLine(QColor& ink) const;

  PeaksCache& m_peaks;
  Auditions& m_auditions;
  Subject m_subject;
  PartWanted m_asked;
  QString m_tapped;
};

} // namespace tuvvo
