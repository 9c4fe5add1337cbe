// Song: sections as cards in a row, as wide as they are long; parts as lines through them.
#pragma once

#include "panel/panel.h"
#include "parts/stage_view.h"
#include "session/song_meter.h"
#include "session/transport.h"
#include "widgets/slide.h"

class QComboBox;
class QLineEdit;

namespace tuvvo {

class Button;
class StageHead;

/// Click chooses a section, a part's line in it rests or plays; double-click plays from there.
class SongView : public Panel {
  Q_OBJECT
public:
  SongView(Panel& host, Transport& transport, SongMeter& meter, QWidget* parent);
  [[nodiscard]] Id part() const;
  void stepPart(int steps);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  struct Card {
    Section section;
    QRectF box;
    double startBeat, beats;
  };
  [[nodiscard]] std::vector<Card> cards() const;
  [[nodiscard]] std::vector<Part> parts() const;
  [[nodiscard]] QRectF lineOf(const Card& card, std::size_t part) const;
  void drawEnergy(QPainter& p, const std::vector<Card>& cards);

  Transport& m_transport;
  SongMeter& m_meter;
  Id m_part = 0;
};

class SongStage : public StageView {
  Q_OBJECT
public:
  SongStage(Panel& host, Transport& transport, SongMeter& meter, QWidget* parent);

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
