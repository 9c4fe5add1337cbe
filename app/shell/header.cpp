#include "shell/header.h"
#include "session/music_text.h"
#include "shell/output_meter.h"

#include "base/convert.h"
#include "base/tempo_map.h"
#include "song/timeline.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"

#include <QHBoxLayout>
#include <QHelpEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QToolTip>
#include <cmath>

namespace tuvvo {

using theme::px;

SignButton::SignButton(Sign sign, const QString& name, const QString& tip, QWidget* parent)
    : QAbstractButton(parent), m_sign(sign) {
  setAccessibleName(name);
  setToolTip(tip);
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

QSize SignButton::sizeHint() const { return {px(34), px(34)}; }

void SignButton::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const QPointF centre = QRectF(rect()).center();
  const double r = width() * 0.25;
  if (underMouse() || hasFocus() || isChecked()) {
    p.setPen(hasFocus() ? QPen(c.brass, 1.5) : QPen(Qt::NoPen));
    p.setBrush(c.raised);
    p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 7, 7);
  }
  switch (m_sign) {
  case Sign::Play: {
    p.setPen(Qt::NoPen);
    p.setBrush(c.brass);
    p.drawPolygon(QPolygonF({centre + QPointF(-r * 0.8, -r * 1.1), centre + QPointF(r * 1.2, 0),
                             centre + QPointF(-r * 0.8, r * 1.1)}));
    break;
  }
  case Sign::Stop:
    p.setPen(Qt::NoPen);
    p.setBrush(c.brass);
    p.drawRoundedRect(QRectF(centre.x() - r * 0.9, centre.y() - r * 0.9, r * 1.8, r * 1.8), 2, 2);
    break;
  case Sign::Record:
    p.setPen(QPen(c.coral, 2));
    p.setBrush(isChecked() ? QBrush(c.coral) : QBrush(Qt::NoBrush));
    p.drawEllipse(centre, r, r);
    break;
  case Sign::Click:
    // A plumb line swinging between two marks.
    p.setPen(QPen(isChecked() ? c.brass : c.quiet, 1.8, Qt::SolidLine, Qt::RoundCap));
    p.drawLine(centre + QPointF(0, -r), centre + QPointF(r * 0.7, r * 0.7));
    p.setBrush(isChecked() ? c.brass : c.quiet);
    p.drawEllipse(centre + QPointF(r * 0.75, r * 0.8), 2.2, 2.2);
    p.drawLine(centre + QPointF(-r, r * 1.15), centre + QPointF(r * 1.1, r * 1.15));
    break;
  }
}

SongRibbon::SongRibbon(Panel& host, Transport& transport, QWidget* parent)
    : Panel(host, parent), m_transport(transport) {
  setAccessibleName(tr("The song"));
  setToolTip(tr("The whole song. Click to play from there."));
  setCursor(Qt::PointingHandCursor);
  setMinimumWidth(px(90));
  connect(this, &Panel::changed, this, qOverload<>(&QWidget::update));
  connect(&transport, &Transport::tick, this, qOverload<>(&QWidget::update));
  connect(&transport, &Transport::changed, this, qOverload<>(&QWidget::update));
}

void SongRibbon::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Timeline timeline = timelineOf(project());
  if (timeline.bars == 0) {
    theme::drawText(p, rect(), Qt::AlignVCenter | Qt::AlignLeft, tr("No sections yet"),
                    theme::Type::Small, c.quiet);
    return;
  }
  const bool song = m_transport.plays() == Plays::Song;
  const double now = m_transport.positionBeats();
  const QFontMetricsF metrics(theme::font(theme::Type::Small));
  const double scale = width() / inBeats(timeline.length), h = px(18), top = (height() - h) / 2.0;
  for (const auto& placed : timeline.sections) {
    const QRectF box(inBeats(placed.start) * scale, top, inBeats(placed.length) * scale - 3, h);
    const bool here =
        song && now >= inBeats(placed.start) && now < inBeats(placed.start + placed.length);
    p.setPen(Qt::NoPen);
    p.setBrush(here ? theme::mixed(c.brass, c.raised, 0.35) : c.raised);
    p.drawRoundedRect(box, 3, 3);
    // A name that does not fit is left to the tip.
    const Section* section = findSection(project(), placed.section);
    const QString name = section ? QString::fromStdString(section->name) : QString();
    const QRectF room = box.adjusted(6, 0, -4, 0);
    if (metrics.horizontalAdvance(name) <= room.width())
      theme::drawText(p, room, Qt::AlignVCenter | Qt::AlignLeft, name, theme::Type::Small,
                      here ? c.text : c.quiet);
  }
  if (song && now >= 0) {
    p.setBrush(c.brass);
    p.drawRect(QRectF(now * scale - 1, top - 5, 2, h + 10));
  }
}

bool SongRibbon::event(QEvent* event) {
  if (event->type() != QEvent::ToolTip) return Panel::event(event);
  const auto* help = static_cast<QHelpEvent*>(event);
  const Timeline timeline = timelineOf(project());
  QString tip = toolTip();
  for (const auto& placed : timeline.sections) {
    const double from = inBeats(placed.start), to = inBeats(placed.start + placed.length),
                 at = help->pos().x() * inBeats(timeline.length) / std::max(1, width());
    if (const Section* section = findSection(project(), placed.section);
        section && at >= from && at < to)
      tip = tr("%1, %2. %3")
                .arg(QString::fromStdString(section->name),
                     counted(section->bars, tr("bar"), tr("bars")), tip);
  }
  QToolTip::showText(help->globalPos(), tip, this);
  return true;
}

void SongRibbon::mousePressEvent(QMouseEvent* event) {
  const Timeline timeline = timelineOf(project());
  if (timeline.bars == 0) return;
  const Beats at(
      toWhole<std::int64_t>(event->position().x() / width() * double(timeline.length.value)));
  m_transport.setPlays(Plays::Song);
  m_transport.play(inBeats(barAt(timeline, barPlaceOf(timeline, at).bar)));
}

Header::Header(Panel& host, Transport& transport, Recorder& recorder, Player& player,
               QWidget* parent)
    : Panel(host, parent), m_transport(transport), m_recorder(recorder), m_player(player) {
  setFixedHeight(px(58));
  m_play = new SignButton(SignButton::Sign::Play, tr("Play"), tr("Play or stop (Space)"), this);
  m_record = new SignButton(
      SignButton::Sign::Record, tr("Record"),
      tr("Record what the deck plays into the pattern, after one bar of count-in (Ctrl+R)"), this);
  m_record->setCheckable(true);
  m_click =
      new SignButton(SignButton::Sign::Click, tr("Metronome"), tr("Metronome (Ctrl+M)"), this);
  m_click->setCheckable(true);
  m_tempo = new Slide(QString(), {20, 400, 90, 0.5, 2}, tr("BPM"), this);
  m_tempo->setId(QStringLiteral("project.tempo"));
  m_tempo->setAccessibleName(tr("Tempo"));
  m_tempo->setFixedWidth(px(104));
  m_tempo->setTone(theme::Ink::Brass);
  m_tap = new Button(tr("Tap"), tr("Tap the tempo (Ctrl+T, or press it in time)"), this);
  m_key = new Button(tr("Key"), tr("The beat's key (Ctrl+Y)"), this);
  m_key->setOpens(true);
  m_ribbon = new SongRibbon(*this, transport, this);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(px(14), 0, px(16), 0);
  row->setSpacing(px(6));
  row->addWidget(m_play);
  row->addWidget(m_record);
  row->addWidget(m_click);
  row->addSpacing(px(126)); // the place is painted here
  row->addSpacing(px(10));
  row->addWidget(m_tempo);
  row->addWidget(m_tap);
  row->addSpacing(px(10));
  row->addWidget(m_key);
  row->addSpacing(px(14));
  row->addWidget(m_ribbon, 1);
  row->addStretch(); // where the ribbon gives way
  row->addSpacing(px(14));
  m_meter = new OutputMeter(*this, player, transport, this);
  row->addWidget(m_meter);
  m_ribbon->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);

  connect(m_play, &QAbstractButton::clicked, this, [this] { m_transport.togglePlay(); });
  connect(m_record, &QAbstractButton::clicked, this, [this] {
    m_recorder.toggleRecord();
    refresh();
  });
  connect(m_click, &QAbstractButton::clicked, this,
          [this](bool on) { m_transport.setMetronome(on); });
  connect(m_tap, &QAbstractButton::pressed, this, [this] { m_transport.tapTempo(); });
  connect(m_tempo, &Slide::changed, this, [this](double value, bool settled) {
    Project next = project();
    next.tempo = Bpm(value);
    edit(tr("Set the tempo"), next, QStringLiteral("tempo"));
    if (settled) settle();
  });
  connect(m_key, &QAbstractButton::clicked, this, [this] {
    QMenu menu(this);
    menu.addAction(tr("No key"))->setData(QString());
    for (bool minor : {false, true}) {
      QMenu* sub = menu.addMenu(minor ? tr("Minor") : tr("Major"));
      for (int tonic = 0; tonic < 12; ++tonic) {
        const QString name = musicText(nameOf(KeyName{tonic, minor}));
        sub->addAction(name)->setData(name);
      }
    }
    if (QAction* chosen = menu.exec(m_key->mapToGlobal(QPoint(0, m_key->height())))) {
      Project next = project();
      next.key = keyFromName(chosen->data().toString().toStdString());
      edit(tr("Set the key"), next);
    }
  });
  connect(this, &Panel::changed, this, &Header::refresh);
  connect(&recorder, &Recorder::changed, this, &Header::refresh);
  for (auto signal : {&Transport::changed, &Transport::tick, &Transport::loopChanged})
    connect(&transport, signal, this, &Header::refresh);
  refresh();
}

/// Where it is narrow, what stands elsewhere too gives way.
void Header::resizeEvent(QResizeEvent*) {
  m_ribbon->setVisible(width() >= px(870));
  m_tap->setVisible(width() >= px(760));
  m_meter->setFixedWidth(px(width() >= px(760) ? 194 : 134));
}

void Header::refresh() {
  const Project& p = project();
  m_play->setSign(m_transport.playing() ? SignButton::Sign::Stop : SignButton::Sign::Play);
  m_record->setChecked(m_recorder.recording());
  m_click->setChecked(m_transport.metronome());
  if (m_tempo->value() != p.tempo.value) m_tempo->setValue(p.tempo.value);
  const QString key = p.key ? musicText(nameOf(*p.key)) : tr("No key");
  m_key->setSaid(key, m_key->toolTip());
  update();
}

void Header::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.fillRect(rect(), c.panel);
  p.fillRect(QRect(0, height() - 1, width(), 1), c.line);
  const double beats = m_transport.positionBeats();
  const Beats at(toNearest<std::int64_t>(beats * double(kTicksPerBeat)));
  const BarPlace said = m_transport.plays() == Plays::Song ? barPlaceOf(timelineOf(project()), at)
                                                           : barPlaceOf(m_transport.meter(), at);
  const QString place = beats < 0 ? QStringLiteral("−%1").arg(m_transport.meter().beats - said.beat)
                                  : QStringLiteral("%1·%2").arg(said.bar + 1).arg(said.beat + 1);
  const int x = m_click->geometry().right() + px(10);
  theme::drawText(p, QRectF(x, 0, px(64), height() - 2), Qt::AlignVCenter | Qt::AlignLeft, place,
                  theme::Type::Figure, m_recorder.recording() ? c.coral : c.text);
  // What Space plays: the stage says, or the menu Sound.
  const QRectF beside(x + px(60), height() / 2.0 - px(17), px(64), px(17));
  QString what = m_transport.plays() == Plays::Song ? tr("Song") : tr("Pattern");
  if (const auto bars = m_transport.loopedBars())
    what = bars->first == bars->second ? tr("bar %1").arg(bars->first)
                                       : tr("bars %1–%2").arg(bars->first).arg(bars->second);
  theme::drawText(p, beside, Qt::AlignVCenter | Qt::AlignLeft, what, theme::Type::Small,
                  m_transport.loop() ? c.brass : c.text);
  theme::drawText(p, beside.translated(0, px(16)), Qt::AlignVCenter | Qt::AlignLeft,
                  beats < 0 ? tr("count-in") : tr("bar·beat"), theme::Type::Small, c.quiet);
}

} // namespace tuvvo
