// What was heard in one source, large.
#pragma once

#include "session/session.h"

#include <QWidget>

namespace tuvvo {

class SourceCard : public QWidget {
  Q_OBJECT
public:
  SourceCard(Session& session, QWidget* parent);
  [[nodiscard]] QSize sizeHint() const override;
  /// Shown under the figures until the next source is chosen.
  void setTapped(const QString& text) {
    m_tapped = text;
    update();
  }

protected:
  void paintEvent(QPaintEvent*) override;

private:
  Session& m_session;
  QString m_tapped;
};

/// "92.10 BPM", "no tempo"; marked when a person corrected it.
[[nodiscard]] QString tempoText(const Source& source);
[[nodiscard]] QString keyText(const Source& source);
[[nodiscard]] QString lengthText(const Source& source);

} // namespace tuvvo
