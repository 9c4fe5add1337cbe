#include "keys/take_panel.h"

#include "base/convert.h"
#include "parts/grids.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/tick.h"
#include "words/timing_words.h"

#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

RoundsView::RoundsView(Panel& host, Recorder& recorder, QWidget* parent)
    : Panel(host, parent), m_recorder(recorder) {
  setAccessibleName(tr("Rounds of practice"));
  setToolTip(tr("How far hits lay apart in each round: lower is more even"));
  connect(&recorder, &Recorder::takeChanged, this, [this] {
    setVisible(!m_recorder.rounds().empty());
    update();
  });
  hide();
}

QSize RoundsView::sizeHint() const { return {px(400), px(56)}; }

void RoundsView::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const auto& rounds = m_recorder.rounds();
  const std::size_t from = rounds.size() > 24 ? rounds.size() - 24 : 0;
  double most = 10;
  for (std::size_t i = from; i < rounds.size(); ++i)
    most = std::max(most, rounds[i].figures.spread.value);
  const double step = px(24);
  for (std::size_t i = from; i < rounds.size(); ++i) {
    const double tall = rounds[i].figures.spread.value / most * (height() - px(20));
    const QRectF bar(px(130) + step * double(i - from), height() - px(16) - tall, step - px(5),
                     tall);
    const bool last = i + 1 == rounds.size();
    p.setPen(Qt::NoPen);
    p.setBrush(last ? c.brass : theme::markOf(c.brass, c.panel, 0));
    p.drawRect(bar);
    theme::drawText(p, QRectF(bar.left(), height() - px(16), bar.width(), px(16)), Qt::AlignCenter,
                    QString::number(toNearest<int>(rounds[i].figures.spread.value)),
                    theme::Type::Small, last ? c.text : c.quiet);
  }
  theme::drawText(p, QRectF(0, 0, px(126), height()), Qt::AlignVCenter | Qt::AlignLeft,
                  tr("Spread by round, ms"), theme::Type::Small, c.quiet);
  if (rounds.size() >= 2) {
    // The last rounds against the first ones.
    const std::size_t part = std::max<std::size_t>(1, rounds.size() / 3);
    double before = 0, after = 0;
    for (std::size_t i = 0; i < part; ++i) {
      before += rounds[i].figures.spread.value / double(part);
      after += rounds[rounds.size() - 1 - i].figures.spread.value / double(part);
    }
    const QString said = after < before * 0.9   ? tr("More even: %1 to %2 ms")
                         : after > before * 1.1 ? tr("Looser: %1 to %2 ms")
                                                : tr("As even as before: %1 to %2 ms");
    theme::drawText(p, QRectF(px(140) + step * double(rounds.size() - from), 0, px(240), height()),
                    Qt::AlignVCenter | Qt::AlignLeft,
                    said.arg(before, 0, 'f', 1).arg(after, 0, 'f', 1), theme::Type::Body,
                    after < before * 0.9 ? c.mint : c.text);
  }
}

TakePanel::TakePanel(Panel& host, Recorder& recorder, Transport& transport, QWidget* parent)
    : Panel(host, parent), m_recorder(recorder), m_transport(transport) {
  auto* top = new ControlRow(this);
  makeTop(*top);
  m_timing = new TimingView(*this, recorder, this);
  m_rounds = new RoundsView(*this, recorder, this);
  m_sentence = new Label(theme::Type::Body, theme::Ink::Text, this);
  m_sentence->setWraps(true);
  auto* quantise = new ControlRow(this);
  makeQuantise(*quantise);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(8));
  column->addWidget(top);
  column->addWidget(m_timing, 1);
  column->addWidget(m_rounds);
  column->addWidget(m_sentence);
  column->addWidget(quantise);
  connect(this, &Panel::changed, this, &TakePanel::refresh);
  connect(&transport, &Transport::changed, this, &TakePanel::refresh);
  for (auto signal : {&Recorder::changed, &Recorder::takeChanged})
    connect(&recorder, signal, this, &TakePanel::refresh);
  connect(m_timing, &TimingView::chosen, this, [this] {
    // The grid that the part's takes are named on is where its pull begins.
    if (const Part* part = findPart(project(), m_timing->part()))
      m_grid->setCurrentIndex(gridIndex(part->perBeat));
    refresh();
  });
  refresh();
}

void TakePanel::makeTop(ControlRow& row) {
  m_record =
      new Button(Sign::Record, tr("Record"), tr("Count in and write what you play (Ctrl+R)"), this);
  m_replace = new Tick(tr("Replace"),
                       tr("The first hit you play on a part takes out what it had; else a take is "
                          "laid over what is there"),
                       this);
  m_practise = new Button(Sign::Again, tr("Practise"),
                          tr("Two bars go round, nothing is written, and you see whether you get "
                             "more even (Ctrl+Shift+P)"),
                          this);
  m_catch =
      new Button(Sign::Catch, tr("Keep what I just played"),
                 tr("Lay what you have just played into the pattern, recorded or not (/)"), this);
  for (Button* button : {m_record, m_practise}) button->setCheckable(true);
  m_record->setWeight(Button::Weight::Danger);
  m_countIn = new Combo(tr("Count-in"), tr("Bars that are counted before a take"), this);
  m_countIn->addItems({tr("no count-in"), tr("1 bar in"), tr("2 bars in")});
  m_clickSound = new Combo(tr("Metronome's sound"), tr("What the metronome sounds like"), this);
  m_clickSound->addItems({tr("tick"), tr("wood"), tr("tone")});
  m_clickLevel = new Slide(QString(), {-30, 9, 0, 1, 0}, tr("dB"), this);
  m_clickLevel->setId(QStringLiteral("click.level"));
  m_clickLevel->setAccessibleName(tr("Metronome's level"));
  m_clickLevel->setToolTip(tr("Level of the metronome, apart from the music"));
  m_clickLevel->setFixedWidth(px(90));
  using Stays = ControlRow::Stays;
  for (QWidget* w : std::initializer_list<QWidget*>{m_record, m_catch, m_practise})
    row.add(w, Stays::Always);
  row.add(m_replace);
  row.add(m_countIn);
  row.add(m_clickSound, Stays::UnderMore);
  row.add(m_clickLevel, Stays::UnderMore);
  connect(m_record, &QAbstractButton::clicked, this, [this] { m_recorder.toggleRecord(); });
  connect(m_replace, &QAbstractButton::clicked, this,
          [this] { m_recorder.setReplaces(m_replace->isChecked()); });
  connect(m_practise, &QAbstractButton::clicked, this, [this] { m_recorder.togglePractice(); });
  connect(m_catch, &QAbstractButton::clicked, this, [this] { m_recorder.catchThat(); });
  const auto changeClick = [this](auto change) {
    auto click = m_transport.click();
    change(click);
    m_transport.setClick(click);
  };
  connect(m_countIn, &QComboBox::activated, this, [changeClick](int bars) {
    changeClick([bars](Transport::Click& click) { click.countIn = bars; });
  });
  connect(m_clickSound, &QComboBox::activated, this, [changeClick](int sound) {
    changeClick([sound](Transport::Click& click) { click.sound = sound; });
  });
  connect(m_clickLevel, &Slide::changed, this, [changeClick](double v, bool) {
    changeClick([v](Transport::Click& click) { click.level = Decibels(v); });
  });
}

void TakePanel::makeQuantise(ControlRow& row) {
  m_quantiseTitle = new Label(theme::Type::Strong, theme::Ink::Text, this);
  m_grid = new Combo(tr("Grid"), tr("The lines that hits go to"), this);
  m_grid->addItems(gridNames());
  m_grid->setCurrentIndex(gridIndex(4));
  m_strength = new Slide(QString(), {0, 100, 100, 5, 0}, {}, this);
  m_strength->setId(QStringLiteral("take.quantise-strength"));
  m_strength->setAccessibleName(tr("How far"));
  m_strength->setToolTip(tr("How far hits go: 100 is onto the line"));
  m_strength->setFormat([](double v) { return tr("by %1 %").arg(v); });
  m_ghosts = new Slide(QString(), {0, 90, 0, 5, 0}, {}, this);
  m_ghosts->setId(QStringLiteral("take.ghosts"));
  m_ghosts->setAccessibleName(tr("Leave softer than"));
  m_ghosts->setToolTip(tr("Hits softer than this stay where they were played: the ghosts"));
  m_ghosts->setFormat(
      [](double v) { return v == 0 ? tr("all hits") : tr("leave under %1").arg(v); });
  for (Slide* slide : {m_strength, m_ghosts}) slide->setFixedWidth(px(116));
  m_quantise = new Button(tr("Quantise"),
                          tr("Quantise the chosen part of the pattern; can be undone"), this);
  m_round = new Slide(QString(), {1, 2, 1, 1, 0}, {}, this);
  m_round->setId(QStringLiteral("take.round"));
  m_round->setAccessibleName(tr("Which round"));
  m_round->setToolTip(tr("Which round of what was caught lies in the pattern"));
  m_round->setFixedWidth(px(116));
  m_followTempo =
      new Button(tr("Take the tempo"), tr("Bring the beat to the tempo you played"), this);
  m_otherTempo = new Combo(tr("Other tempo"), tr("The same playing, felt otherwise"), this);
  for (QWidget* w :
       std::initializer_list<QWidget*>{m_quantiseTitle, m_grid, m_strength, m_ghosts, m_quantise,
                                       m_round, m_followTempo, m_otherTempo})
    row.add(w);
  connect(m_quantise, &QAbstractButton::clicked, this, [this] {
    QuantiseOptions options;
    options.part = m_timing->part();
    options.perBeat = kGrids[std::size_t(m_grid->currentIndex())];
    options.strength = m_strength->value() / 100;
    options.quietest = m_ghosts->value() / 100;
    m_recorder.quantise(options);
  });
  connect(m_round, &Slide::changed, this,
          [this](double v, bool) { m_recorder.layRound(toNearest<std::size_t>(v) - 1); });
  connect(m_followTempo, &QAbstractButton::clicked, this, [this] {
    if (m_recorder.caught().tempo) m_recorder.takeCaughtTempo(m_recorder.caught().tempo->bpm);
  });
  connect(m_otherTempo, &QComboBox::activated, this, [this](int which) {
    const auto& tempo = m_recorder.caught().tempo;
    if (tempo && which > 0 && std::size_t(which) <= tempo->otherwise.size())
      m_recorder.takeCaughtTempo(tempo->otherwise[std::size_t(which) - 1]);
    m_otherTempo->setCurrentIndex(0);
  });
}

void TakePanel::refresh() {
  m_record->setChecked(m_recorder.recording());
  m_record->setSaid(m_recorder.recording() ? tr("End the take") : tr("Record"),
                    m_record->toolTip());
  m_replace->setChecked(m_recorder.replaces());
  m_practise->setChecked(m_recorder.practising());
  m_practise->setSaid(m_recorder.practising() ? tr("End practice") : tr("Practise"),
                      m_practise->toolTip());
  const auto& click = m_transport.click();
  m_countIn->setCurrentIndex(click.countIn);
  m_clickSound->setCurrentIndex(click.sound);
  m_clickLevel->setValue(click.level.value);
  const std::string sentence = sentenceOf(project(), m_recorder.timing());
  m_sentence->setText(QString::fromStdString(sentence));
  m_sentence->setVisible(!sentence.empty());
  const Part* part = findPart(project(), m_timing->part());
  m_quantiseTitle->setText(part ? QString::fromStdString(part->name) : tr("No part"));
  for (QWidget* w : std::initializer_list<QWidget*>{m_grid, m_strength, m_ghosts, m_quantise})
    w->setEnabled(part);
  const auto& caught = m_recorder.caught();
  m_round->setVisible(caught.rounds.size() > 1);
  if (caught.rounds.size() > 1) {
    m_round->setRange({1, double(caught.rounds.size()), double(caught.round + 1), 1, 0});
    m_round->setFormat([count = caught.rounds.size()](double v) {
      return tr("round %1 of %2").arg(v).arg(count);
    });
    m_round->setValue(double(caught.round + 1));
  }
  m_followTempo->setVisible(caught.tempo.has_value());
  m_otherTempo->setVisible(caught.tempo && !caught.tempo->otherwise.empty());
  if (!caught.tempo) return;
  m_followTempo->setSaid(tr("Take %1 BPM").arg(caught.tempo->bpm.value, 0, 'f', 1),
                         m_followTempo->toolTip());
  m_otherTempo->clear();
  m_otherTempo->addItem(tr("or"));
  for (Bpm other : caught.tempo->otherwise)
    m_otherTempo->addItem(tr("%1 BPM").arg(other.value, 0, 'f', 1));
}

} // namespace tuvvo
