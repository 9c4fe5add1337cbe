// The six stages, with where the work stands in each.
#pragma once

#include "session/session.h"

#include <QAbstractButton>
#include <QWidget>

namespace tuvvo {

[[nodiscard]] QString stageName(Stage stage);

class StageButton : public QAbstractButton {
  Q_OBJECT
public:
  StageButton(Stage stage, QWidget* parent);
  /// @param records  it says that something is recorded
  void setFigure(const QString& figure, bool records = false);
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  QString m_figure;
  bool m_records = false;
};

class Rail : public QWidget {
  Q_OBJECT
public:
  Rail(Session& session, QWidget* parent);
  void setStage(Stage stage);

signals:
  void chosen(Stage stage);
  void findWanted();

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();
  Session& m_session;
  std::array<StageButton*, 6> m_buttons{};
};

} // namespace tuvvo
