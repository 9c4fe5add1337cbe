// Semitones on one edge, the tempo and key they give on the other, good meetings flagged.
#pragma once

#include "cut/fit.h"
#include "session/session.h"

#include <QWidget>

namespace tuvvo {

class FitRuler : public QWidget {
  Q_OBJECT
public:
  FitRuler(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  [[nodiscard]] std::optional<FitQuestion> question() const;
  [[nodiscard]] std::optional<double> currentShift() const;
  [[nodiscard]] QRectF rowBox(int semitones) const;
  [[nodiscard]] QRectF bestBox() const;
  void apply(Semitones shift);

  Session& m_session;
};

} // namespace tuvvo
