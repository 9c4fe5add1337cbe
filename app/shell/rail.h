// The six stages, with where the work stands in each.
#pragma once

#include "notes/notes.h"
#include "panel/panel.h"
#include "session/catch_service.h"
#include "session/song_meter.h"

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

class Rail : public Panel {
  Q_OBJECT
public:
  Rail(Panel& host, CatchService& catching, SongMeter& meter, QWidget* parent);
  void setStage(Stage stage);

signals:
  void chosen(Stage stage);
  void findWanted();

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();
  CatchService& m_catching;
  SongMeter& m_meter;
  std::array<StageButton*, 6> m_buttons{};
};

} // namespace tuvvo
