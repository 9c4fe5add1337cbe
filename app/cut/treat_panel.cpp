#include "cut/treat_panel.h"

#include "cut/order_strip.h"
#include "model/edits.h"
#include "play/bounce.h"
#include "theme/theme.h"
#include "widgets/combo.h"
#include "widgets/flow_row.h"
#include "widgets/slide.h"

#include <QLabel>
#include <QMenu>

namespace tuvvo {

using theme::px;

TreatPanel::TreatPanel(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
  m_row = new FlowRow(px(6), this);
  m_subject = new QLabel(this);
  m_subject->setFont(theme::font(theme::Type::Small));
  m_subject->setMinimumHeight(px(25));
  m_add = new Chip(tr("+ Treat"),
                   tr("Do something to it; it can be opened and changed at any time "
                      "(Ctrl+Shift+T)"),
                   this);
  m_bounce = new Chip(tr("Bounce"),
                      tr("Play it once with all that acts on it, and put the result "
                         "in its place (Ctrl+Shift+N)"),
                      this);
  m_row->addWidget(m_subject);
  m_row->addWidget(m_add);
  m_row->addWidget(m_bounce);
  connect(m_add, &QAbstractButton::clicked, this, &TreatPanel::offerKinds);
  connect(m_bounce, &QAbstractButton::clicked, this,
          [this] { m_session.bounceInPlace(m_session.chosenKeys()); });
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, &TreatPanel::refresh);
  refresh();
}

/// Of the chosen slice, or of the made source that is shown.
std::vector<Treatment> TreatPanel::shown() const {
  const auto keys = m_session.chosenKeys();
  if (!keys.empty()) return findKey(m_session.project(), keys.front())->treatments;
  const auto made = m_session.recipeNow(m_session.selection().source);
  return made ? made->as.treatments : std::vector<Treatment>{};
}

void TreatPanel::change(const QString& name,
                        const std::function<void(std::vector<Treatment>&)>& what,
                        const QString& merge) {
  const auto keys = m_session.chosenKeys();
  if (keys.empty()) {
    const Id source = m_session.selection().source;
    const auto made = m_session.recipeNow(source);
    if (!made) return;
    Recipe next = *made;
    what(next.as.treatments);
    for (auto& t : next.as.treatments) clamp(t);
    m_session.remake(source, next, merge);
    return;
  }
  Project next = m_session.project();
  for (Id key : keys)
    next = withKeyChanged(std::move(next), key, [&](Key& k) { what(k.treatments); });
  m_session.edit(name, std::move(next), merge);
}

void TreatPanel::add(TreatmentKind kind) {
  const Treatment fresh = treatment(kind);
  if (m_session.chosenKeys().empty() && !m_session.recipeNow(m_session.selection().source)) {
    m_session.treatWhole(m_session.selection().source, fresh);
    return;
  }
  m_open = shown().size();
  change(tr("Treat: %1").arg(QString::fromUtf8(typeOf(kind).name)),
         [&](std::vector<Treatment>& list) {
           if (list.size() < kMostTreatments) list.push_back(fresh);
         });
}

void TreatPanel::offerKinds() {
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->setToolTipsVisible(true);
  for (std::size_t i = 0; i < kTreatments; ++i) {
    const auto& type = typeOf(TreatmentKind(i));
    auto* action = menu->addAction(tr(type.name), this, [this, i] { add(TreatmentKind(i)); });
    action->setToolTip(tr(type.about));
  }
  menu->popup(m_add->mapToGlobal(QPoint(0, -menu->sizeHint().height())));
}

void TreatPanel::refresh() {
  const Project& project = m_session.project();
  const Source* s = findSource(project, m_session.selection().source);
  const auto keys = m_session.chosenKeys();
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
  theme::style(m_subject, QStringLiteral("color:%1").arg(theme::colours().quiet.name()));
  m_add->setEnabled(s && s->sound);
  m_bounce->setVisible(!whole);
  const auto list = shown();
  const bool elsewhere =
      m_source != m_session.selection().source || m_cut != m_session.selection().cut;
  m_source = m_session.selection().source;
  m_cut = m_session.selection().cut;
  if (elsewhere) m_open = list.empty() ? 0 : list.size() - 1;
  m_open = std::min(m_open, list.empty() ? 0 : list.size() - 1);
  // The same treatments with other figures keep their widgets: one of them may be being dragged.
  const bool alike =
      !elsewhere && list.size() == m_list.size() &&
      std::equal(list.begin(), list.end(), m_list.begin(),
                 [](const auto& a, const auto& b) { return a.kind == b.kind && a.on == b.on; });
  m_list = list;
  if (!alike)
    rebuild(list);
  else if (!list.empty())
    for (const auto& follow : m_follow) follow(list[m_open]);
}

void TreatPanel::rebuild(const std::vector<Treatment>& list) {
  for (QWidget* widget : m_made) {
    m_row->removeWidget(widget);
    widget->hide();
    widget->deleteLater(); // it may be what was just pressed
  }
  m_made.clear();
  m_follow.clear();
  const auto put = [this](QWidget* widget) {
    m_row->addWidget(widget);
    m_made.push_back(widget);
    widget->show();
  };
  for (std::size_t i = 0; i < list.size(); ++i) {
    QString text = tr(typeOf(list[i].kind).name);
    if (!list[i].on) text += tr(" (off)");
    auto* chip = new Chip(QStringLiteral("%1 %2").arg(i + 1).arg(text),
                          tr(typeOf(list[i].kind).about), this);
    chip->setCheckable(true);
    chip->setChecked(i == m_open);
    connect(chip, &QAbstractButton::clicked, this, [this, i] {
      m_open = i;
      rebuild(m_list);
    });
    put(chip);
  }
  if (list.empty()) return;
  const Treatment& open = list[m_open];
  addFigures(open);
  if (open.kind == TreatmentKind::Chop) addOrder();
  const std::size_t at = m_open;
  auto* on = new Chip(open.on ? tr("Off") : tr("On"), tr("Hear it without, and keep it"), this);
  auto* sooner = new Chip(tr("Sooner"), tr("Before the one before it"), this);
  auto* drop = new Chip(tr("Drop"), tr("Take this treatment away; can be undone"), this);
  sooner->setEnabled(at > 0);
  connect(on, &QAbstractButton::clicked, this, [this, at] {
    change(tr("Treatment on or off"), [at](auto& all) {
      if (at < all.size()) all[at].on = !all[at].on;
    });
  });
  connect(sooner, &QAbstractButton::clicked, this, [this, at] {
    --m_open;
    change(tr("Treatment sooner"), [at](auto& all) {
      if (at < all.size()) std::swap(all[at - 1], all[at]);
    });
  });
  connect(drop, &QAbstractButton::clicked, this, [this, at] {
    change(tr("Drop a treatment"), [at](auto& all) {
      if (at < all.size()) all.erase(all.begin() + std::ptrdiff_t(at));
    });
  });
  for (Chip* chip : {on, sooner, drop}) put(chip);
}

void TreatPanel::addFigures(const Treatment& open) {
  const auto& type = typeOf(open.kind);
  const std::size_t at = m_open;
  const auto set = [this, at, kind = open.kind](std::size_t place, double v, const QString& merge) {
    change(
        tr("Treat: %1").arg(tr(typeOf(kind).name)),
        [&](auto& all) {
          if (at >= all.size() || all[at].kind != kind) return;
          all[at].figures[place] = v;
          all[at].order.clear(); // other pieces, or another shuffle: it begins anew
        },
        merge);
  };
  for (std::size_t i = 0; i < type.figures.size(); ++i) {
    const auto& figure = type.figures[i];
    const QString name = tr(figure.name);
    if (!figure.words.empty()) {
      auto* combo = new Combo(name, QString(), this);
      for (const char* word : figure.words) combo->addItem(tr(word));
      combo->setCurrentIndex(open.choice(i));
      connect(combo, &QComboBox::activated, this, [set, i](int v) { set(i, v, {}); });
      m_follow.push_back([combo, i](const Treatment& t) { combo->setCurrentIndex(t.choice(i)); });
      m_row->addWidget(combo);
      m_made.push_back(combo);
      combo->show();
      continue;
    }
    const bool octaves = figure.most / std::max(1e-9, figure.least) > 40 && figure.least > 0 &&
                         QLatin1String(figure.unit) == QLatin1String("Hz");
    auto* slide = new Slide(
        QString(),
        {figure.least, figure.most, figure.standard, figure.step, figure.decimals, octaves},
        QString(), this);
    slide->setId(
        QStringLiteral("treatment.%1.%2").arg(QLatin1String(type.id), QLatin1String(figure.id)));
    slide->setAccessibleName(name);
    slide->setToolTip(name);
    slide->setFixedWidth(px(118));
    const QString unit = tr(figure.unit);
    const int decimals = figure.decimals;
    slide->setFormat([name, unit, decimals](double v) {
      QString text = QString::number(v, 'f', decimals);
      if (text.contains(QLatin1Char('.'))) {
        while (text.endsWith(QLatin1Char('0'))) text.chop(1);
        if (text.endsWith(QLatin1Char('.'))) text.chop(1);
      }
      text.replace(QLatin1Char('-'), QChar(0x2212));
      return unit.isEmpty() ? name + QLatin1Char(' ') + text
                            : name + QLatin1Char(' ') + text + QLatin1Char(' ') + unit;
    });
    slide->setValue(open.figures[i]);
    connect(slide, &Slide::changed, this, [this, set, i](double v, bool settled) {
      set(i, v, QStringLiteral("figure%1").arg(i));
      if (settled) m_session.settle();
    });
    m_follow.push_back([slide, i](const Treatment& t) { slide->setValue(t.figures[i]); });
    m_row->addWidget(slide);
    m_made.push_back(slide);
    slide->show();
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
    return chopOrder(key.treatments[at], frames, bake->frame);
  };
  const Project& project = m_session.project();
  const auto keys = m_session.chosenKeys();
  if (!keys.empty()) return orderIn(project, *findKey(project, keys.front()));
  const auto made = m_session.recipeNow(m_session.selection().source);
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
      if (at < all.size() && all[at].kind == TreatmentKind::Chop) all[at].order = pieces;
    });
  });
  m_follow.push_back([this, order, at](const Treatment&) { order->setOrder(orderAt(at)); });
  m_row->addWidget(order);
  m_made.push_back(order);
  order->show();
}

} // namespace tuvvo
