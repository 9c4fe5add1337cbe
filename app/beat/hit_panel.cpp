#include "beat/hit_panel.h"
#include "session/music_text.h"

#include "beat/ribbons_view.h"
#include "song/timeline.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/parameter_text.h"
#include "widgets/tick.h"

#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

namespace {
/// Hits of a roll to a beat.
constexpr std::array kRollSteps{2, 3, 4, 6, 8, 12, 16, 24, 32};
} // namespace

HitPanel::HitPanel(Panel& host, HitChoice& choice, RibbonsView& ribbons, QWidget* parent)
    : Panel(host, parent), m_choice(choice), m_ribbons(ribbons) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(4));
  column->addWidget(chooseRow());
  column->addWidget(m_figures = figureRow());
  column->addStretch(1);
  connect(&choice, &HitChoice::changed, this, &HitPanel::refresh);
  refresh();
}

Slide* HitPanel::addSlide(std::string_view id) {
  const HitParameter& figure = *findHitParameter(id);
  auto* slide = slideFor(figure.parameter, this);
  slide->setFixedWidth(px(88));
  connect(slide, &Slide::changed, this, [this, &figure](double v, bool settled) {
    m_choice.change(nameOf(figure.parameter), [&](Hit& hit) { figure.set(hit, v); });
    if (settled) settle();
  });
  m_slides.emplace_back(slide, &figure);
  m_needHits.push_back(slide);
  return slide;
}

QWidget* HitPanel::chooseRow() {
  auto* row = new ControlRow(this);
  using Stays = ControlRow::Stays;
  m_what = new Label(theme::Type::Strong, theme::Ink::Text, this);
  m_what->setLeast(140);
  row->add(m_what, Stays::Always);
  m_class =
      new Combo(tr("Choose hits"), tr("Chooses hits of the current part by their place"), this);
  m_class->addItems({tr("choose…"), tr("all of the part"), tr("the ones"), tr("on the beats"),
                     tr("two and four"), tr("off-beats"), tr("all between")});
  connect(m_class, &QComboBox::activated, this, [this](int at) {
    m_class->setCurrentIndex(0);
    if (at == 1) m_choice.chooseAll(m_ribbons.currentPart());
    if (at > 1) m_choice.chooseClass(m_ribbons.currentPart(), BeatClass(at - 2));
  });
  row->add(m_class, Stays::Always);
  const auto button = [&](const QString& text, const QString& tip, bool needsHits,
                          std::function<void()> act, Stays stays = Stays::IfThereIsRoom) {
    auto* made = new Button(text, tip, this);
    connect(made, &QAbstractButton::clicked, this, std::move(act));
    row->add(made, stays);
    if (needsHits) m_needHits.push_back(made);
    return made;
  };
  button(tr("Copy"), tr("Copy what is chosen (Ctrl+C)"), true, [this] { m_choice.copy(); });
  m_paste = button(tr("Paste"), tr("Lay what was copied at the cursor (Ctrl+V)"), false,
                   [this] { m_choice.paste(m_ribbons.cursor()); });
  const auto hardest = [this] {
    double most = 0;
    for (const auto& each : m_choice.hits()) most = std::max(most, each.hit.velocity);
    return most;
  };
  m_repeat = button(
      tr("Paste to the end"),
      tr("Lay what was copied over and over, up to the pattern's end (Ctrl+Shift+V)"), false,
      [this] { m_choice.pasteRepeated(m_ribbons.cursor()); }, Stays::UnderMore);
  button(
      tr("Twice as fast"), tr("Half the distances, about the first hit"), true,
      [this] { m_choice.stretch(0.5); }, Stays::UnderMore);
  button(
      tr("Half as fast"), tr("Twice the distances, about the first hit"), true,
      [this] { m_choice.stretch(2); }, Stays::UnderMore);
  button(
      tr("Ramp up"), tr("Velocities rise evenly to the hardest of them"), true,
      [this, hardest] { m_choice.ramp(hardest() * 0.3, hardest()); }, Stays::UnderMore);
  button(
      tr("Ramp down"), tr("Velocities fall evenly from the hardest of them"), true,
      [this, hardest] { m_choice.ramp(hardest(), hardest() * 0.3); }, Stays::UnderMore);
  return row;
}

/// What is turned most, and the rest under More.
QWidget* HitPanel::figureRow() {
  auto* row = new ControlRow(this);
  using Stays = ControlRow::Stays;
  const auto add = [&](std::string_view id, Stays stays = Stays::UnderMore) {
    auto* slide = addSlide(id);
    row->add(slide, stays);
    return slide;
  };
  for (const char* id : {"hit.velocity", "hit.micro-timing", "hit.tune"})
    add(id, Stays::IfThereIsRoom);
  add("hit.length", Stays::IfThereIsRoom)->setFormat([](double v) {
    return v <= 0 ? tr("its own") : tr("%1 beats").arg(v, 0, 'g', 3);
  });
  add("hit.roll", Stays::IfThereIsRoom)->setFormat([](double v) {
    return v <= 1 ? tr("once") : tr("%1 hits").arg(v);
  });
  add("hit.chance", Stays::IfThereIsRoom);
  m_step = new Combo(tr("Roll division"), tr("How quickly a roll repeats"), this);
  for (int step : kRollSteps) m_step->addItem(tr("%1 to a beat").arg(step), step);
  connect(m_step, &QComboBox::activated, this, [this](int at) {
    m_choice.change(tr("Roll division"), [step = kRollSteps[std::size_t(at)]](Hit& p) {
      p.roll.step = Beats(kTicksPerBeat / step);
    });
    settle();
  });
  m_reversed = new Tick(tr("Reverse"), tr("Its sound is played from its end"), this);
  connect(m_reversed, &QAbstractButton::clicked, this, [this] {
    m_choice.change(tr("Reverse"), [on = m_reversed->isChecked()](Hit& p) { p.reversed = on; });
    settle();
  });
  row->add(m_step, Stays::UnderMore);
  row->add(m_reversed, Stays::UnderMore);
  for (QWidget* widget : std::initializer_list<QWidget*>{m_step, m_reversed})
    m_needHits.push_back(widget);
  for (const char* id : {"hit.roll-ends-at", "hit.roll-tune", "hit.pan", "hit.start",
                         "hit.brightness", "hit.flam-level", "hit.on-round"})
    add(id);
  add("hit.flam")->setFormat([](double v) { return v <= 0 ? tr("none") : tr("%1 ms").arg(v); });
  add("hit.every")->setFormat([](double v) {
    return v <= 1 ? tr("each round") : tr("%1 rounds").arg(v);
  });
  return row;
}

void HitPanel::refresh() {
  const PatternPtr pattern = findPattern(project(), selection().pattern);
  const bool any = !m_choice.empty();
  const Hit hit = m_choice.first();
  if (m_choice.hits().size() == 1 && pattern) {
    const Key* key = findKey(project(), hit.key);
    const BarPlace place = barPlaceOf(pattern->meter, hit.at);
    m_what->setText(tr("%1 at %2·%3")
                        .arg(key ? nameText(project(), *key) : tr("Hit"))
                        .arg(place.bar + 1)
                        .arg(place.beat + 1));
  } else {
    m_what->setText(any ? tr("%1 hits chosen").arg(m_choice.hits().size())
                        : tr("Choose a hit, or many"));
  }
  for (const auto& [slide, figure] : m_slides) slide->setValue(figure->get(hit));
  m_reversed->setChecked(hit.reversed);
  for (int i = 0; i < m_step->count(); ++i)
    if (kTicksPerBeat / kRollSteps[std::size_t(i)] == hit.roll.step.value)
      m_step->setCurrentIndex(i);
  for (QWidget* widget : m_needHits) widget->setVisible(any);
  m_figures->setVisible(any);
  m_paste->setEnabled(m_choice.canPaste());
  m_repeat->setEnabled(m_choice.canPaste());
}

} // namespace tuvvo
