// What was heard in one source, large.
#pragma once

#include "crate/subject.h"
#include "session/session.h"

#include <QWidget>

namespace tuvvo {

class SourceCard : public QWidget {
  Q_OBJECT
public:
  SourceCard(Session& session, QWidget* parent);
  [[nodiscard]] QSize sizeHint() const override;
  void setSubject(const Subject& subject);
  /// Shown under the figures until the next source is chosen.
  void setTapped(const QString& text) {
    m_tapped = text;
    update();
  }

protected:
  void paintEvent(QPaintEvent*) override;
  bool event(QEvent* event) override;

private:
  void paintWave(QPainter& p, const QRectF& box);
  void paintFigures(QPainter& p, const QRectF& box);
  [[nodiscard]] QString lastLine(QColor& ink) const;

  Session& m_session;
  Subject m_subject;
  QString m_tapped;
};

} // namespace tuvvo
