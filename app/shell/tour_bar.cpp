#include "shell/tour_bar.h"

#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/label.h"

#include <QHBoxLayout>
#include <QSettings>

namespace tuvvo {

using theme::px;

namespace {

/// Over the window, and not in the way of the mouse.
class Frame : public QWidget {
public:
  explicit Frame(QWidget* parent) : QWidget(parent) {
    setAttribute(Qt::WA_TransparentForMouseEvents);
    setFocusPolicy(Qt::NoFocus);
    hide();
  }

protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(theme::colours().brass, px(2)));
    p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), px(8), px(8));
  }
};

struct Said {
  Stage stage;
  const char* where; ///< object name of what is framed
  QString ask, done;
};

Said saidOf(Tour::Step step) {
  switch (step) {
  case Tour::Step::HearSource:
    return {Stage::Crate, "hear",
            TourBar::tr("Choose a sound in the list and press “Play in the beat”. What lies near "
                        "the middle of the map fits the beat as it is."),
            TourBar::tr("You hear it at the beat's tempo and in its key. Press again to stop it.")};
  case Tour::Step::PlaySlices:
    return {Stage::Cut, "deck",
            TourBar::tr("This loop is cut. Press the keys 1 to 8: each plays a slice."),
            TourBar::tr("The keyboard is your instrument on every stage: four rows, eight keys.")};
  case Tour::Step::KeepPlayed:
    return {
        Stage::Keys, "deck",
        TourBar::tr("Press Space to start the beat, play along on A, S, D and F, then press the "
                    "key /: it keeps what you just played."),
        TourBar::tr("What you played is in the pattern. Nothing has to be armed before.")};
  case Tour::Step::SetHit:
    return {Stage::Beat, "ribbons",
            TourBar::tr("Each ribbon is a part, each pin a hit. Click between two pins to set one; "
                        "drag it up or down for its velocity."),
            TourBar::tr("Ctrl+Z takes it back, and every other step: nothing is ever lost.")};
  case Tour::Step::PlaySong:
    break;
  }
  return {Stage::Song, "song",
          TourBar::tr("Patterns stand in a row as sections. Press Space: a stage plays what it "
                      "shows, here the whole song."),
          TourBar::tr("That was the tour. The brass button of each stage is its next step.")};
}

} // namespace

TourBar::TourBar(Tour& tour, QWidget* window, QWidget* parent)
    : QWidget(parent), m_tour(tour), m_window(window), m_frame(new Frame(window)) {
  setAccessibleName(tr("Tour"));
  m_number = new Label(theme::Type::Small, theme::Ink::Brass, this);
  m_text = new Label(theme::Type::Body, theme::Ink::Text, this);
  m_text->setWraps(true);
  m_next = new Button(tr("Skip this step"), tr("Go on without doing it"), this);
  m_next->setObjectName(QStringLiteral("tourNext"));
  m_end = new Button(tr("End the tour"), tr("It comes back from the menu Help"), this);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(px(20), px(8), px(12), px(8));
  row->setSpacing(px(12));
  row->addWidget(m_number);
  row->addWidget(m_text, 1, Qt::AlignVCenter);
  row->addWidget(m_next);
  row->addWidget(m_end);
  connect(m_next, &QAbstractButton::clicked, &tour, &Tour::next);
  connect(m_end, &QAbstractButton::clicked, &tour, &Tour::end);
  connect(&tour, &Tour::changed, this, &TourBar::refresh);
  connect(&m_timer, &QTimer::timeout, this, &TourBar::placeFrame);
  refresh();
}

void TourBar::refresh() {
  const bool runs = m_tour.running();
  setVisible(runs);
  if (!runs) {
    m_timer.stop();
    m_frame->hide();
    if (m_ran) QSettings().setValue(QStringLiteral("tour taken"), true);
    m_ran = false;
    return;
  }
  const Said said = saidOf(m_tour.step());
  const bool last = int(m_tour.step()) + 1 == Tour::kSteps;
  m_number->setText(tr("%1 of %2").arg(int(m_tour.step()) + 1).arg(Tour::kSteps));
  m_text->setText(m_tour.done() ? said.done : said.ask);
  if (m_tour.done())
    m_next->setSaid(last ? tr("Finish") : tr("Go on"), tr("The next step of the tour"));
  else
    m_next->setSaid(tr("Skip this step"), tr("Go on without doing it"));
  m_next->setWeight(m_tour.done() ? Button::Weight::Next : Button::Weight::Plain);
  m_end->setVisible(!(last && m_tour.done()));
  if (!m_ran || m_shown != m_tour.step()) emit stageWanted(said.stage);
  m_ran = true;
  m_shown = m_tour.step();
  m_timer.start(150);
  placeFrame();
}

void TourBar::placeFrame() {
  const auto* target = m_window->findChild<QWidget*>(QLatin1String(saidOf(m_tour.step()).where));
  const bool shown = target && target->isVisible() && !m_tour.done();
  m_frame->setVisible(shown);
  if (!shown) return;
  const int around = px(4);
  m_frame->setGeometry(QRect(target->mapTo(m_window, QPoint(0, 0)), target->size())
                           .adjusted(-around, -around, around, around));
  m_frame->raise();
}

void TourBar::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.fillRect(rect(), c.raised);
  p.fillRect(QRect(0, 0, px(4), height()), c.brass);
}

} // namespace tuvvo
