// What the tour asks for now, in one row under the stage; and a frame around where it is done.
#pragma once

#include "notes/notes.h"
#include "shell/tour.h"

#include <QTimer>
#include <QWidget>

namespace tuvvo {

class Button;
class Label;

/// Hidden while there is no tour.
class TourBar : public QWidget {
  Q_OBJECT
public:
  /// @param window  what is asked for lies in it, known by its object name
  TourBar(Tour& tour, QWidget* window, QWidget* parent);

signals:
  /// The step is done there.
  void stageWanted(Stage stage);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();
  void placeFrame();

  Tour& m_tour;
  QWidget* m_window;
  QWidget* m_frame;
  Label *m_number, *m_text;
  Button *m_next, *m_end;
  QTimer m_timer; ///< what is framed may move with the window
  bool m_ran = false;
  Tour::Step m_shown = Tour::Step::HearSource;
};

} // namespace tuvvo
