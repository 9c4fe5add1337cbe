// Song: sections as cards in a row, as wide as they are long; parts as lines through them.
#pragma once

#include "parts/stage_view.h"
#include "widgets/slide.h"

class QComboBox;
class QLineEdit;

namespace tuvvo {

class SongMeter;
class Transport;
class Button;
class SongView;
class StageHead;

class SongStage : public StageView {
  Q_OBJECT
public:
  SongStage(Panel& host, Transport& transport, SongMeter& meter, QWidget* parent);

  /// The start of the chosen section.
  [[nodiscard]] double cursorBeats() const override;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  struct Acts {
    QAbstractButton *add, *remove, *earlier, *later, *from;
  };
  void refreshNext();
  void doNext();
  void connectSection();
  void addCommands(const Acts& acts);
  void refresh();
  void changeSection(const QString& name, const std::function<void(Section&)>& change);
  void step(int steps);

  SongView* m_view;
  StageHead* m_head;
  Button* m_next;
  QLineEdit* m_name;
  QComboBox* m_pattern;
  Slide* m_bars;

  Transport& m_transport;
  SongMeter& m_meter;
};

} // namespace tuvvo
