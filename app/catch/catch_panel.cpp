#include "catch/catch_panel.h"
#include "session/music_text.h"
#include "session/player.h"
#include "session/transport.h"

#include "base/convert.h"
#include "catch/caught_strip.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/segments.h"
#include "widgets/tick.h"

#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

CatchPanel::CatchPanel(Panel& host, const Uses& uses, QWidget* parent)
    : Panel(host, parent), m_catching(uses.catching), m_player(uses.player),
      m_transport(uses.transport), m_sifter(uses.sifter) {
  auto* input = new ControlRow(this);
  makeInput(*input);
  m_strip = new InputStrip(*this, uses.catching, this);
  m_reel = new ReelRow(*this, uses.reel, uses.player, this);
  auto* ways = new ControlRow(this);
  makeWays(*ways);
  m_about = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_about->setWraps(true);
  m_phrases = new PhraseView(*this, uses.sifter, uses.auditions, this);
  m_caught = new CaughtStrip(*this, uses.catching, uses.peaks, uses.auditions, this);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(7));
  column->addWidget(input);
  column->addWidget(m_strip);
  column->addWidget(m_reel);
  column->addWidget(ways);
  column->addWidget(m_about);
  column->addWidget(m_phrases, 1);
  column->addWidget(m_caught, 1);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &CatchPanel::refresh);
  connect(&m_transport, &Transport::changed, this, &CatchPanel::refresh);
  connect(&m_catching, &CatchService::changed, this, &CatchPanel::refresh);
  connect(&m_sifter, &PhraseService::changed, this, &CatchPanel::refresh);
  connect(&m_catching, &CatchService::levelMoved, this, &CatchPanel::refreshState);
  refresh();
}

void CatchPanel::makeInput(ControlRow& row) {
  m_input = new Combo(tr("Input"), tr("What comes in; simulated ones need no hardware"), this);
  m_input->addItems({tr("No input"), tr("Input of the sound device"), tr("Simulated line input"),
                     tr("Simulated microphone"), tr("Simulated cable from the output")});
  m_devices = new Button(tr("Devices…"), tr("Device, rate, block, input pair, latency"), this);
  m_hear = new Combo(tr("Hear the input"),
                     tr("How you hear what comes in while you catch it. With a microphone use "
                        "headphones: what hears itself howls"),
                     this);
  m_hear->addItems({tr("input not heard"), tr("heard as it comes"), tr("heard through the key")});
  m_print =
      new Tick(tr("Print the effect"),
               tr("Record it as it is heard through the key; else the record stays dry"), this);
  m_measure =
      new Button(Sign::Measure, tr("Measure latency"),
                 tr("Send a short sound out and listen for it: turn speakers down, and connect "
                    "an output to the input with a cable"),
                 this);
  using Stays = ControlRow::Stays;
  row.add(m_input, Stays::Always);
  row.add(m_hear);
  row.add(m_print);
  row.addStretch();
  row.add(m_devices);
  row.add(m_measure, Stays::UnderMore);
  connect(m_input, &QComboBox::activated, this, [this](int which) {
    SoundChoice choice = m_player.liveSound().choice();
    choice.input = InputChoice(which);
    m_player.chooseSound(choice);
  });
  connect(m_devices, &QAbstractButton::clicked, this, &CatchPanel::devicesWanted);
  connect(m_hear, &QComboBox::activated, this, [this](int which) {
    change([which](CatchService::Settings& s) { s.hear = CatchService::Hear(which); });
  });
  connect(m_print, &QAbstractButton::clicked, this, [this] {
    change([this](CatchService::Settings& s) { s.prints = m_print->isChecked(); });
  });
  connect(m_measure, &QAbstractButton::clicked, this, [this] { m_catching.measureLatency(); });
}

void CatchPanel::change(const std::function<void(CatchService::Settings&)>& what) {
  auto settings = m_catching.settings();
  what(settings);
  m_catching.change(settings);
}

void CatchPanel::makeWays(ControlRow& row) {
  m_begin = new Button(Sign::Catch, tr("Catch"), tr("Begin or end catching (Ctrl+Alt+R)"), this);
  m_begin->setCheckable(true);
  row.add(m_begin, ControlRow::Stays::Always);
  m_modes = new Segments(tr("What is caught"), Segments::Picks::One, this);
  m_modes->add(tr("Bars"), tr("So many bars in time with the beat, cut to the frame"));
  m_modes->add(tr("Single sounds"),
               tr("Every hit over the noise is a sound of its own, on a key at once"));
  m_modes->add(tr("Long take"), tr("Everything, to disc while you play; sift it afterwards"));
  row.add(m_modes, ControlRow::Stays::Always);
  connect(m_modes, &Segments::wanted, this, [this](int mode) {
    change([mode](CatchService::Settings& s) { s.mode = CatchService::Mode(mode); });
    refresh();
  });
  m_bars = new Slide(QString(), {1, 64, 4, 1, 0}, {}, this);
  m_bars->setId(QStringLiteral("catch.bars"));
  m_bars->setAccessibleName(tr("Bars to catch"));
  m_bars->setToolTip(tr("How many bars are caught"));
  m_bars->setFormat([](double v) { return counted(qint64(v), tr("bar"), tr("bars")); });
  m_over = new Slide(QString(), {4, 40, 9, 1, 0}, {}, this);
  m_over->setId(QStringLiteral("catch.over-the-noise"));
  m_over->setAccessibleName(tr("Over the noise"));
  m_over->setFormat([](double v) { return tr("%1 dB over noise").arg(v); });
  m_over->setToolTip(tr("How far a hit has to rise over the noise that is always there"));
  m_preRoll = new Slide(QString(), {0, 100, 5, 1, 0}, {}, this);
  m_preRoll->setId(QStringLiteral("catch.pre-roll"));
  m_preRoll->setAccessibleName(tr("Before the attack"));
  m_preRoll->setFormat([](double v) { return tr("%1 ms before").arg(v); });
  m_preRoll->setToolTip(tr("What is kept before the attack"));
  m_silence = new Slide(QString(), {20, 2000, 80, 10, 0}, {}, this);
  m_silence->setId(QStringLiteral("catch.rest"));
  m_silence->setAccessibleName(tr("Rest that ends a hit"));
  m_silence->setFormat([](double v) { return tr("ends after %1 ms").arg(v); });
  m_silence->setToolTip(tr("So long a silence ends a hit"));
  for (Slide* slide : {m_bars, m_over, m_preRoll, m_silence}) {
    slide->setFixedWidth(px(slide == m_bars ? 110 : 140));
    row.add(slide);
  }
  m_state = new Label(theme::Type::Strong, theme::Ink::Coral, this);
  m_state->setLeast(120);
  row.add(m_state, ControlRow::Stays::Always);
  connect(m_begin, &QAbstractButton::clicked, this, [this] {
    m_catching.toggle();
    refresh();
  });
  connect(m_bars, &Slide::changed, this, [this](double v, bool) {
    change([v](CatchService::Settings& s) { s.bars = toNearest<int>(v); });
  });
  connect(m_over, &Slide::changed, this, [this](double v, bool) {
    change([v](CatchService::Settings& s) { s.hits.over = Decibels(v); });
  });
  connect(m_preRoll, &Slide::changed, this, [this](double v, bool) {
    change([v](CatchService::Settings& s) { s.hits.preRoll = Milliseconds(v); });
  });
  connect(m_silence, &Slide::changed, this, [this](double v, bool) {
    change([v](CatchService::Settings& s) { s.hits.silence = Milliseconds(v); });
  });
}

void CatchPanel::refresh() {
  const auto& service = m_catching;
  const auto& settings = service.settings();
  m_input->setCurrentIndex(int(m_player.liveSound().choice().input));
  m_hear->setCurrentIndex(int(settings.hear));
  m_hear->setEnabled(m_player.liveSound().choice().input != InputChoice::Cable); // it would howl
  const Key* key = findKey(project(), selection().key);
  m_hear->setItemText(2, key ? tr("heard through %1").arg(nameText(project(), *key))
                             : tr("heard through the key"));
  m_print->setVisible(settings.hear == CatchService::Hear::Through);
  m_print->setChecked(settings.prints);
  m_measure->setEnabled(service.listens() && !service.catching() && !service.measuring());
  using Mode = CatchService::Mode;
  m_modes->choose(int(settings.mode));
  m_modes->setEnabled(!service.catching());
  m_begin->setChecked(service.catching());
  // Of a long take that is sifted the next step is to keep something.
  const bool sifts = settings.mode == Mode::Long && !m_sifter.rows().empty();
  m_begin->setWeight(service.catching() || sifts ? Button::Weight::Danger : Button::Weight::Next);
  m_begin->setSaid(service.catching() ? tr("End catching") : tr("Catch"), m_begin->toolTip());
  m_bars->setVisible(settings.mode == Mode::Bars);
  m_phrases->setVisible(settings.mode == Mode::Long);
  m_caught->setVisible(settings.mode != Mode::Long);
  m_bars->setValue(settings.bars);
  for (Slide* slide : {m_over, m_preRoll, m_silence})
    slide->setVisible(settings.mode == Mode::Hits);
  m_over->setValue(settings.hits.over.value);
  m_preRoll->setValue(settings.hits.preRoll.value);
  m_silence->setValue(settings.hits.silence.value);
  QString about;
  if (settings.mode == Mode::Bars) {
    const double ms = double(service.roundTrip()) / kEngineRate.value * 1000;
    about = service.measured()
                ? tr("Latency of %1 ms is measured and taken off.").arg(ms, 0, 'f', 1)
                : tr("Latency is taken to be %1 ms; measure it, and bars are cut to the frame.")
                      .arg(ms, 0, 'f', 1);
    about +=
        QLatin1Char(' ') + tr("Count-in as in Takes: %1.")
                               .arg(counted(m_transport.click().countIn, tr("bar"), tr("bars")));
  } else if (settings.mode == Mode::Hits) {
    about = tr("Leave it silent for a moment first: the noise is measured then.");
  } else if (const auto room = service.room()) {
    about = tr("There is room for %1 h %2 min.")
                .arg(int(room->value / 3600))
                .arg(int(room->value / 60) % 60);
  }
  m_about->setText(about);
  refreshState();
}

void CatchPanel::refreshState() {
  if (!isVisible()) return;
  const auto& service = m_catching;
  m_state->setText(service.state());
}

} // namespace tuvvo
