#include "cut/treat_panel.h"

#include "base/convert.h"

#include "cut/order_strip.h"
#include "model/edits.h"
#include "play/bounce.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/parameter_text.h"
#include "widgets/segments.h"
#include "widgets/slide.h"
#include "widgets/tick.h"

#include <QMenu>

namespace tuvvo {

namespace {

QString asQt(std::string_view text) {
  return QString::fromUtf8(text.data(), qsizetype(text.size()));
}
QString translated(std::string_view text) {
  return TreatPanel::tr(asQt(text).toUtf8().constData());
}

} // namespace

TreatPanel::TreatPanel(Panel& host, SourceService& sources, QWidget* parent)
    : Panel(host, parent), m_sources(sources) {
  m_row = ControlRow::in(this);
  m_subject = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_add = new Button(Sign::Add, tr("Treat"),
                     tr("Do something to it; it can be opened and changed at any time "
                        "(Ctrl+Shift+T)"),
                     this);
  m_add->setOpens(true);
  m_bounce = new Button(tr("Bounce"),
                        tr("Play it once with all that acts on it, and put the result "
                           "in its place (Ctrl+Shift+N)"),
                        this);
  m_row->add(m_subject, ControlRow::Stays::Always);
  m_row->add(m_add, ControlRow::Stays::Always);
  m_row->add(m_bounce, ControlRow::Stays::UnderMore);
  connect(m_add, &QAbstractButton::clicked, this, &TreatPanel::offerKinds);
  connect(m_bounce, &QAbstractButton::clicked, this,
          [this] { m_sources.bounceInPlace(chosenKeys()); });
  connect(&sources, &SourceService::recipesChanged, this, &TreatPanel::refresh);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &TreatPanel::refresh);
  refresh();
}

/// Of the chosen slice, or of the made source that is shown.
std::vector<Treatment> TreatPanel::shown() const {
  const auto keys = chosenKeys();
  if (!keys.empty()) return findKey(project(), keys.front())->treatments;
  const auto made = m_sources.recipeNow(selection().source);
  return made ? made->as.treatments : std::vector<Treatment>{};
}

void TreatPanel::change(const QString& name,
                        const std::function<void(std::vector<Treatment>&)>& what,
                        const QString& merge) {
  const auto keys = chosenKeys();
  if (keys.empty()) {
    const Id source = selection().source;
    const auto made = m_sources.recipeNow(source);
    if (!made) return;
    Recipe next = *made;
    what(next.as.treatments);
    for (auto& t : next.as.treatments) clamp(t);
    m_sources.remake(source, next, merge);
    return;
  }
  Project next = project();
  for (Id key : keys)
    next = withKeyChanged(std::move(next), key, [&](Key& k) { what(k.treatments); });
  edit(name, next, merge);
}

void TreatPanel::add(const TreatmentType& type) {
  const Treatment fresh{type.usual};
  if (chosenKeys().empty() && !m_sources.recipeNow(selection().source)) {
    m_sources.treatWhole(selection().source, fresh);
    return;
  }
  m_open = shown().size();
  change(tr("Treat: %1").arg(translated(type.name)), [&](std::vector<Treatment>& list) {
    if (list.size() < kMostTreatments) list.push_back(fresh);
  });
}

void TreatPanel::offerKinds() {
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->setToolTipsVisible(true);
  for (const TreatmentType& type : treatmentTypes()) {
    auto* action = menu->addAction(translated(type.name), this, [this, &type] { add(type); });
    action->setToolTip(translated(type.about));
  }
  menu->popup(m_add->mapToGlobal(QPoint(0, -menu->sizeHint().height())));
}

void TreatPanel::refresh() {
  const Project& project = this->project();
  const Source* s = findSource(project, selection().source);
  const auto keys = chosenKeys();
  const bool whole = keys.empty();
  QString subject;
  if (!s)
    subject = tr("nothing chosen");
  else if (keys.size() > 1)
    subject = tr("%1 slices:").arg(keys.size());
  else if (!whole)
    subject = tr("this slice:");
  else
    subject = s->recipe ? tr("all of it:") : tr("all of it, as a new source:");
  m_subject->setText(subject);
  m_add->setEnabled(s && s->sound);
  m_bounce->setVisible(!whole);
  const auto list = shown();
  const bool elsewhere = m_source != selection().source || m_cut != selection().cut;
  m_source = selection().source;
  m_cut = selection().cut;
  if (elsewhere) m_open = list.empty() ? 0 : list.size() - 1;
  m_open = std::min(m_open, list.empty() ? 0 : list.size() - 1);
  // The same treatments with other figures keep their widgets: one of them may be being dragged.
  const bool alike =
      !elsewhere && list.size() == m_list.size() &&
      std::equal(list.begin(), list.end(), m_list.begin(), [](const auto& a, const auto& b) {
        return a.what.index() == b.what.index() && a.on == b.on;
      });
  m_list = list;
  if (!alike)
    rebuild(list);
  else if (!list.empty())
    for (const auto& follow : m_follow) follow(list[m_open]);
}

void TreatPanel::put(QWidget* widget) {
  m_row->add(widget);
  m_made.push_back(widget);
}

void TreatPanel::rebuild(const std::vector<Treatment>& list) {
  for (QWidget* widget : m_made) {
    widget->hide();
    widget->deleteLater(); // it may be what was just pressed
  }
  m_made.clear();
  m_follow.clear();
  if (list.empty()) return;
  auto* all = new Segments(tr("Treatments, first to last"), Segments::Picks::One, this);
  for (std::size_t i = 0; i < list.size(); ++i) {
    QString text = translated(typeOf(list[i]).name);
    if (!list[i].on) text += tr(" (off)");
    all->add(QStringLiteral("%1 %2").arg(i + 1).arg(text), translated(typeOf(list[i]).about));
  }
  all->choose(int(m_open));
  connect(all, &Segments::wanted, this, [this](int i) {
    m_open = std::size_t(i);
    rebuild(m_list);
  });
  put(all);
  const Treatment& open = list[m_open];
  addFigures(open);
  if (open.is<treat::Chop>()) addOrder();
  addActs(open);
}

void TreatPanel::addActs(const Treatment& open) {
  const std::size_t at = m_open;
  auto* on = new Tick(tr("On"), tr("Off: hear it without, and keep it"), this);
  on->setChecked(open.on);
  auto* sooner = new Button(tr("Earlier"), tr("Before the one before it"), this);
  auto* drop =
      new Button(Sign::Remove, tr("Remove"), tr("Take this treatment away; can be undone"), this);
  drop->setWeight(Button::Weight::Danger);
  sooner->setEnabled(at > 0);
  connect(on, &QAbstractButton::clicked, this, [this, at] {
    change(tr("Treatment on or off"), [at](auto& all) {
      if (at < all.size()) all[at].on = !all[at].on;
    });
  });
  connect(sooner, &QAbstractButton::clicked, this, [this, at] {
    --m_open;
    change(tr("Treatment earlier"), [at](auto& all) {
      if (at < all.size()) std::swap(all[at - 1], all[at]);
    });
  });
  connect(drop, &QAbstractButton::clicked, this, [this, at] {
    change(tr("Remove a treatment"), [at](auto& all) {
      if (at < all.size()) all.erase(all.begin() + std::ptrdiff_t(at));
    });
  });
  for (QWidget* widget : std::initializer_list<QWidget*>{on, sooner, drop}) put(widget);
}

void TreatPanel::addFigures(const Treatment& open) {
  const TreatmentType& type = typeOf(open);
  const std::size_t at = m_open;
  const auto set = [this, at, &type](const TreatmentParameter& one, double v,
                                     const QString& merge) {
    change(
        tr("Treat: %1").arg(translated(type.name)),
        [&](auto& all) {
          if (at >= all.size() || &typeOf(all[at]) != &type) return;
          one.set(all[at], v);
          // Other pieces, or another shuffle: it begins anew.
          if (auto* chop = all[at].template as<treat::Chop>()) chop->order.clear();
        },
        merge);
  };
  for (const TreatmentParameter& one : type.parameters) {
    const Parameter& p = one.parameter;
    if (!p.words.empty()) {
      auto* combo = new Combo(nameOf(p), QString(), this);
      combo->addItems(wordsOf(p));
      const auto follow = [combo, &one](const Treatment& t) {
        combo->setCurrentIndex(toNearest<int>(one.get(t)));
      };
      follow(open);
      m_follow.emplace_back(follow);
      connect(combo, &QComboBox::activated, this, [set, &one](int v) { set(one, v, {}); });
      put(combo);
      continue;
    }
    auto* slide = new Slide(nameOf(p), rangeOf(p), QString(), this);
    slide->setId(QStringLiteral("treatment.%1.%2").arg(asQt(type.id), asQt(p.id)));
    slide->setFormat([&p](double v) { return QString::fromStdString(written(p, v)); });
    slide->setValue(one.get(open));
    connect(slide, &Slide::changed, this, [this, set, &one](double v, bool settled) {
      set(one, v, asQt(one.parameter.id));
      if (settled) settle();
    });
    m_follow.emplace_back([slide, &one](const Treatment& t) { slide->setValue(one.get(t)); });
    put(slide);
  }
}

/// What is heard piece by piece where the treatments before have done their part.
std::vector<int> TreatPanel::orderAt(std::size_t at) const {
  const auto orderIn = [&](const Project& beat, Key key) -> std::vector<int> {
    if (at >= key.treatments.size()) return {};
    key.treatments[at].on = true; // shown as it would be
    const auto bake = bakeOf(beat, key);
    if (!bake) return {};
    auto frames = std::size_t(framesOf(bake->recipe).value);
    for (std::size_t i = 0; i < at; ++i)
      frames = framesAfter(frames, key.treatments[i], bake->frame);
    const auto* chop = key.treatments[at].as<treat::Chop>();
    return chop ? chopOrder(*chop, frames, bake->frame) : std::vector<int>();
  };
  const Project& project = this->project();
  const auto keys = chosenKeys();
  if (!keys.empty()) return orderIn(project, *findKey(project, keys.front()));
  const auto made = m_sources.recipeNow(selection().source);
  const Source* from = made ? findSource(project, made->as.sound.source) : nullptr;
  if (!from) return {};
  const Project beat = beatOf(project.sources, *made);
  return orderIn(beat, beat.keys.front());
}

void TreatPanel::addOrder() {
  auto* order = new OrderStrip(this);
  const std::size_t at = m_open;
  order->setOrder(orderAt(at));
  connect(order, &OrderStrip::reordered, this, [this, at](const std::vector<int>& pieces) {
    change(tr("Order by hand"), [&](auto& all) {
      if (at >= all.size()) return;
      if (auto* chop = all[at].template as<treat::Chop>()) chop->order = pieces;
    });
  });
  m_follow.push_back([this, order, at](const Treatment&) { order->setOrder(orderAt(at)); });
  put(order);
}

} // namespace tuvvo
