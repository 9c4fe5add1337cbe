#include "beat/hit_panel.h"
#include "session/music_text.h"

#include "beat/hit_shaping.h"
#include "beat/ribbons_view.h"
#include "play/bounce.h"
#include "song/timeline.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/parameter_text.h"
#include "widgets/tick.h"

#include <QMenu>
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
  column->addWidget(m_treated = treatmentRow());
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
  m_send =
      button(tr("Send to"), tr("On another key or part; tones keep their pitches (Ctrl+Shift+K)"),
             true, [this] { offerKeys(); });
  m_send->setOpens(true);
  new HitShaping(*this, m_choice,
                 button(tr("Shape"),
                        tr("Strum, velocities, humanise, order: all chosen hits together"), true,
                        [] {}));
  button(tr("Copy"), tr("Copy what is chosen (Ctrl+C)"), true, [this] { m_choice.copy(); });
  m_paste = button(tr("Paste"), tr("Lay what was copied at the cursor (Ctrl+V)"), false,
                   [this] { m_choice.paste(m_ribbons.cursor()); });
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
  const auto step = [&](const QString& text, const QString& tip, int steps) {
    button(
        text, tip, true, [this, steps] { m_choice.step(steps); }, Stays::UnderMore);
  };
  step(tr("Step up"), tr("A step of the scale higher (Ctrl+Shift+Up)"), 1);
  step(tr("Step down"), tr("A step of the scale lower (Ctrl+Shift+Down)"), -1);
  step(tr("Octave up"), tr("An octave higher (Alt+Shift+Up)"), 7);
  step(tr("Octave down"), tr("An octave lower (Alt+Shift+Down)"), -7);
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
  m_treat = new Button(Sign::Add, tr("Treat"),
                       tr("Stutter, slow-down, chop and the like, for these hits alone "
                          "(Ctrl+Shift+Y)"),
                       this);
  m_treat->setOpens(true);
  connect(m_treat, &QAbstractButton::clicked, this, &HitPanel::offerTreatments);
  row->add(m_treat, Stays::IfThereIsRoom);
  m_needHits.push_back(m_treat);
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
  add("hit.glide")->setFormat([](double v) {
    return v < 0 ? tr("as its key") : tr("%1 ms").arg(v, 0, 'f', 0);
  });
  add("hit.glide-from");
  return row;
}

/// What is done to the chosen hits alone, and how often.
QWidget* HitPanel::treatmentRow() {
  auto* row = new ControlRow(this);
  row->add(addSlide("hit.treated-every"), ControlRow::Stays::Always);
  m_slides.back().first->setFormat(
      [](double v) { return v <= 1 ? tr("each round") : tr("%1 rounds").arg(v); });
  m_turn = addSlide("hit.treated-on-round");
  m_turn->setFormat([](double v) { return tr("round %1").arg(v); });
  row->add(m_turn);
  m_treatments = new TreatmentRow(
      *row, [this](std::size_t at) { return piecesOf(at); }, this);
  connect(m_treatments, &TreatmentRow::addWanted, this, [this](const TreatmentType& type) {
    m_treatments->openLast();
    changeTreatments(tr("Treat hits: %1").arg(TreatmentRow::nameOfType(type)),
                     [&](std::vector<Treatment>& list) {
                       if (list.size() < kMostTreatments) list.push_back({type.usual});
                     },
                     {});
  });
  connect(m_treatments, &TreatmentRow::changeWanted, this, &HitPanel::changeTreatments);
  connect(m_treatments, &TreatmentRow::settleWanted, this, &Panel::settleWanted);
  return row;
}

void HitPanel::changeTreatments(const QString& name, const TreatmentRow::Change& what,
                                const QString& merge) {
  m_choice.change(name, [&](Hit& hit) {
    HitTreatments::List list = hit.treatments.list();
    what(list.treatments);
    hit.treatments = HitTreatments(std::move(list));
  });
  if (merge.isEmpty()) settle();
}

std::vector<int> HitPanel::piecesOf(std::size_t treatment) const {
  const Hit hit = m_choice.first();
  const Key* key = findKey(project(), hit.key);
  if (!key) return {};
  Key treated = *key;
  if (hit.reversed) treated.treatments.push_back({treat::Reverse{}});
  const std::size_t before = treated.treatments.size();
  const auto& own = hit.treatments.list().treatments;
  treated.treatments.insert(treated.treatments.end(), own.begin(), own.end());
  return tuvvo::piecesOf(project(), std::move(treated), before + treatment);
}

void HitPanel::offerTreatments() {
  if (!m_choice.empty()) return m_treatments->offerKinds(m_treat);
  emit message(tr("Choose the hits that are to be treated first."), false);
}

void HitPanel::offerKeys() {
  if (m_choice.empty()) {
    emit message(tr("Choose the hits that are to go first."), false);
    return;
  }
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  const auto keysInto = [this](QMenu* list, SendAs way) {
    for (const auto& key : project().keys)
      if (key.part != 0)
        list->addAction(tr("%1 · %2").arg(rowText(key.row), nameText(project(), key)), this,
                        [this, id = key.id, way] { m_choice.send(id, way); });
  };
  keysInto(menu->addMenu(tr("Copy to")), SendAs::Copy);
  keysInto(menu->addMenu(tr("Move to")), SendAs::Move);
  menu->popup(m_send->mapToGlobal(QPoint(0, m_send->height())));
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
  const HitOf shown = any ? m_choice.hits().front() : HitOf{};
  const bool elsewhere = shown.part != m_shown.part || shown.hit.key != m_shown.hit.key ||
                         shown.hit.at != m_shown.hit.at;
  m_shown = shown;
  const auto& treatments = hit.treatments.list().treatments;
  m_treatments->show(treatments, elsewhere);
  for (int i = 0; i < m_step->count(); ++i)
    if (kTicksPerBeat / kRollSteps[std::size_t(i)] == hit.roll.step.value)
      m_step->setCurrentIndex(i);
  for (QWidget* widget : m_needHits) widget->setVisible(any);
  m_figures->setVisible(any);
  m_treated->setVisible(!treatments.empty());
  m_turn->setVisible(hit.treatments.list().every > 1);
  m_paste->setEnabled(m_choice.canPaste());
  m_repeat->setEnabled(m_choice.canPaste());
}

} // namespace tuvvo
