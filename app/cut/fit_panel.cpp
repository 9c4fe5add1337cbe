#include "cut/fit_panel.h"
#include "session/music_text.h"

#include "model/edits.h"
#include "theme/plate.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/segments.h"
#include "words/fit_words.h"

#include <QPainter>
#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

QString signedText(double value, int decimals) {
  QString text = QString::number(std::abs(value), 'f', decimals);
  if (text.toDouble() == 0) return text;
  return (value > 0 ? QStringLiteral("+") : QStringLiteral("−")) + text;
}

QString methodText(FitMethod method) {
  return method == FitMethod::Repitch   ? FitPanel::tr("Repitch")
         : method == FitMethod::Stretch ? FitPanel::tr("Stretch")
                                        : FitPanel::tr("Re-space");
}

} // namespace

FitWay::FitWay(QWidget* parent) : QAbstractButton(parent) {
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void FitWay::show(const QString& first, const QString& second, bool chosen) {
  setText(first);
  setAccessibleName(first);
  setAccessibleDescription(second);
  setToolTip(first + QStringLiteral("\n") + second);
  m_second = second;
  m_chosen = chosen;
  update();
}

QSize FitWay::sizeHint() const { return {px(160), px(44)}; }

void FitWay::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  theme::drawPlate(p, QRectF(rect()).adjusted(1, 1, -1, -1), 6,
                   m_chosen       ? theme::mixed(c.mint, c.panel, 0.12)
                   : underMouse() ? theme::mixed(c.line, c.raised, 0.5)
                                  : c.raised,
                   hasFocus() ? c.text
                   : m_chosen ? c.mint
                              : c.line,
                   m_chosen || hasFocus() ? 2 : 1);
  const QRectF text = QRectF(rect()).adjusted(px(9), px(3), -px(6), -px(3));
  theme::drawText(p, QRectF(text.left(), text.top(), text.width(), text.height() / 2),
                  Qt::AlignLeft | Qt::AlignVCenter, this->text(), theme::Type::Body, c.text);
  theme::drawText(p, QRectF(text.left(), text.center().y(), text.width(), text.height() / 2),
                  Qt::AlignLeft | Qt::AlignVCenter, m_second, theme::Type::Small, c.quiet);
}

FitPanel::FitPanel(Panel& host, QWidget* parent) : Panel(host, parent) {
  setFixedWidth(px(248));
  auto* head = new ControlRow(this);
  auto* title = new Label(theme::Type::Strong, theme::Ink::Text, head);
  title->setText(tr("Fit to the beat"));
  head->add(title, ControlRow::Stays::Always);
  head->addStretch();
  head->more()->setSaid(tr("Method"), tr("How it comes to the beat, at the same shift"));
  const std::array<QString, 3> tips{
      tr("Speed and pitch together, as a disc does: no artefacts, another key"),
      tr("Length without pitch: attacks may soften"),
      tr("Every slice as it is, only moved; gaps are filled from its own tail")};
  m_methods = new Segments(tr("How it comes to the beat"), Segments::Picks::One, this);
  for (std::size_t i = 0; i < tips.size(); ++i) m_methods->add(methodText(FitMethod(i)), tips[i]);
  connect(m_methods, &Segments::wanted, this, [this](int method) {
    if (const Source* s = findSource(project(), selection().source))
      FitRuler::apply(*this, FitMethod(method), semitonesOf(s->shape.pitch()));
    refresh();
  });
  head->add(m_methods, ControlRow::Stays::UnderMore);
  auto* ruler = new FitRuler(*this, this);
  setFocusProxy(ruler);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(10), px(8), px(10), px(10));
  column->setSpacing(px(6));
  column->addWidget(head);
  for (std::size_t i = 0; i < kWays; ++i) {
    m_ways[i] = new FitWay(this);
    column->addWidget(m_ways[i]);
    connect(m_ways[i], &QAbstractButton::clicked, this, [this, i] { takeWay(i); });
  }
  column->addSpacing(px(4));
  column->addWidget(ruler, 1);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &FitPanel::refresh);
  refresh();
}

void FitPanel::takeWay(std::size_t place) {
  if (place < m_takes.size()) m_takes[place]();
}

void FitPanel::refresh() {
  const Project& project = this->project();
  const Source* s = findSource(project, selection().source);
  m_methods->setEnabled(s && s->sound);
  m_methods->choose(s ? int(s->shape.method) : -1);
  m_takes.clear();
  std::size_t place = 0;
  const auto offer = [&](const QString& first, const QString& second, bool chosen,
                         std::function<void()> take) {
    if (place >= kWays) return;
    m_ways[place++]->show(first, second, chosen);
    m_takes.push_back(std::move(take));
  };
  const auto q = FitRuler::question(*this);
  if (s && q) {
    // The best of each method that meets the beat, cheapest first, then the beat that would meet
    // it.
    std::array<bool, 3> shown{};
    for (const auto& row : planFit(*q)) {
      auto& seen = shown[std::size_t(row.method)];
      if (seen || std::abs(row.bpmErrorPercent) > 0.05) continue;
      seen = true;
      const double shift = row.semitones.value + row.cents.value / 100;
      QString first = methodText(row.method);
      if (std::abs(shift) > 0.004)
        first += QStringLiteral(" %1 st").arg(
            signedText(shift, std::abs(row.cents.value) < 0.5 ? 0 : 2));
      if (row.method == FitMethod::Stretch && std::abs(row.stretchPercent) > 0.05)
        first += QStringLiteral(" · %1 %").arg(signedText(row.stretchPercent, 1));
      if (row.resultKey) first += QStringLiteral(" · ") + musicText(nameOf(*row.resultKey));
      const bool chosen = s->shape.method == row.method &&
                          std::abs(semitonesOf(s->shape.pitch()).value - shift) < 0.006;
      offer(
          first, QString::fromStdString(soundOf(row)), chosen,
          [this, method = row.method, shift] { FitRuler::apply(*this, method, Semitones(shift)); });
    }
    for (const auto& move : planBeat(*q)) {
      if (std::abs(move.percent) < 0.01) continue;
      const QString how =
          move.row.semitones.value == 0
              ? tr("it comes in as it is")
              : tr("it comes in at %1 st").arg(signedText(move.row.semitones.value, 0));
      offer(tr("Beat to %1 BPM (%2 %)")
                .arg(move.tempo.value, 0, 'f', 2)
                .arg(signedText(move.percent, std::abs(move.percent) < 0.1 ? 2 : 1)),
            how, false, [this, tempo = move.tempo, shift = move.row.semitones] {
              Project next = this->project();
              next.tempo = tempo;
              next = withSourceChanged(std::move(next), selection().source, [&](Source& x) {
                x.shape.method = FitMethod::Repitch;
                x.shape.semitones = shift;
                x.shape.cents = Cents(0);
              });
              edit(tr("Beat to %1 BPM").arg(tempo.value, 0, 'f', 2), next);
            });
      break;
    }
  }
  showWays();
}

void FitPanel::showWays() {
  const int room = height() - px(60 + 18 + 15 * 9); // head, a ruler of nine lines
  const int most = std::max(1, room / px(50));
  for (std::size_t i = 0; i < kWays; ++i)
    m_ways[i]->setVisible(i < m_takes.size() && int(i) < most);
}

void FitPanel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  theme::drawPlate(p, QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 8, theme::colours().panel);
}

} // namespace tuvvo
