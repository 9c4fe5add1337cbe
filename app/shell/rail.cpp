#include "shell/rail.h"

#include "base/tempo_map.h"
#include "session/clock_text.h"
#include "song/timeline.h"
#include "theme/theme.h"
#include "widgets/button.h"

#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

QString stageName(Stage stage) {
  switch (stage) {
  case Stage::Crate:
    return Rail::tr("Crate");
  case Stage::Cut:
    return Rail::tr("Cut");
  case Stage::Keys:
    return Rail::tr("Keys");
  case Stage::Beat:
    return Rail::tr("Beat");
  case Stage::Song:
    return Rail::tr("Song");
  case Stage::Print:
    break;
  }
  return Rail::tr("Print");
}

StageButton::StageButton(Stage stage, QWidget* parent) : QAbstractButton(parent) {
  setText(stageName(stage));
  setCheckable(true);
  setAutoExclusive(true);
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
  setAccessibleName(text());
  setToolTip(QStringLiteral("%1 (F%2)").arg(text()).arg(int(stage) + 1));
}

void StageButton::setFigure(const QString& figure, bool records) {
  m_figure = figure;
  m_records = records;
  setAccessibleDescription(figure);
  update();
}

QSize StageButton::sizeHint() const { return {px(92), px(60)}; }

void StageButton::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  if (isChecked()) {
    p.fillRect(rect(), c.raised);
    p.fillRect(QRect(0, 0, 3, height()), c.brass);
  } else if (underMouse()) {
    p.fillRect(rect(), theme::mixed(c.raised, c.panel, 0.5));
  }
  if (hasFocus()) {
    p.setPen(QPen(c.brass, 1));
    p.drawRect(rect().adjusted(0, 0, -1, -1));
  }
  const QRectF box = QRectF(rect()).adjusted(px(16), px(8), -4, -px(8));
  theme::drawText(p, QRectF(box.left(), box.top(), box.width(), box.height() * 0.55),
                  Qt::AlignLeft | Qt::AlignVCenter, text(), theme::Type::Title,
                  isChecked() ? c.text : c.quiet);
  theme::drawText(
      p, QRectF(box.left(), box.top() + box.height() * 0.55, box.width(), box.height() * 0.45),
      Qt::AlignLeft | Qt::AlignVCenter, m_figure, theme::Type::Small,
      m_records ? c.coral : c.quiet);
}

Rail::Rail(Panel& host, CatchService& catching, SongMeter& meter, QWidget* parent)
    : Panel(host, parent), m_catching(catching), m_meter(meter) {
  setFixedWidth(px(96));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, px(8), 0, px(8));
  column->setSpacing(px(6));
  for (int i = 0; i < 6; ++i) {
    auto* button = new StageButton(Stage(i), this);
    m_buttons[std::size_t(i)] = button;
    column->addWidget(button);
    connect(button, &QAbstractButton::clicked, this, [this, i] { emit chosen(Stage(i)); });
  }
  column->addStretch();
  auto* find = new Button(Sign::Find, tr("Find"), tr("Find any command (Ctrl+K)"), this);
  connect(find, &QAbstractButton::clicked, this, &Rail::findWanted);
  auto* row = new QHBoxLayout;
  row->setContentsMargins(px(10), 0, px(10), px(2));
  row->addWidget(find);
  column->addLayout(row);
  connect(this, &Panel::changed, this, &Rail::refresh);
  connect(&meter, &SongMeter::measured, this, &Rail::refresh);
  connect(&catching, &CatchService::changed, this, &Rail::refresh);
  refresh();
}

void Rail::setStage(Stage stage) { m_buttons[std::size_t(stage)]->setChecked(true); }

void Rail::refresh() {
  const Project& p = project();
  int sources = 0, cuts = 0;
  for (const auto& source : p.sources) {
    if (!source->kit) ++sources;
    cuts += int(source->cuts.size());
  }
  const Timeline timeline = timelineOf(p);
  const auto set = [&](Stage stage, const QString& figure, bool records = false) {
    m_buttons[std::size_t(stage)]->setFigure(figure, records);
  };
  set(Stage::Crate, sources == 1 ? tr("1 source") : tr("%1 sources").arg(sources));
  set(Stage::Cut, cuts == 1 ? tr("1 cut") : tr("%1 cuts").arg(cuts));
  set(Stage::Keys, m_catching.catching() ? tr("catching") : tr("%1 keys").arg(p.keys.size()),
      m_catching.catching());
  set(Stage::Beat,
      p.patterns.size() == 1 ? tr("1 pattern") : tr("%1 patterns").arg(p.patterns.size()));
  set(Stage::Song, tr("%1 bars %2")
                       .arg(timeline.bars)
                       .arg(clockText(songTempo(p).secondsAt(timeline.length), false)));
  const double lufs = m_meter.measure().loudness.integratedLufs;
  set(Stage::Print,
      std::isfinite(lufs) && lufs < 0
          ? QString::number(lufs, 'f', 1).replace(QLatin1Char('-'), QChar(0x2212)) + tr(" LUFS")
          : tr("not measured"));
}

void Rail::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.fillRect(rect(), c.panel);
  p.fillRect(QRect(width() - 1, 0, 1, height()), c.line);
}

} // namespace tuvvo
