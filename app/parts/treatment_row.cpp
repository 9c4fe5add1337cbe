#include "parts/treatment_row.h"

#include "base/convert.h"
#include "parts/order_strip.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/control_row.h"
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
  return TreatmentRow::tr(asQt(text).toUtf8().constData());
}

} // namespace

QString TreatmentRow::nameOfType(const TreatmentType& type) { return translated(type.name); }

TreatmentRow::TreatmentRow(ControlRow& row, std::function<std::vector<int>(std::size_t)> orderAt,
                           QObject* parent)
    : QObject(parent), m_row(row), m_orderAt(std::move(orderAt)) {}

void TreatmentRow::offerKinds(QWidget* button) {
  auto* menu = new QMenu(button);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->setToolTipsVisible(true);
  for (const TreatmentType& type : treatmentTypes()) {
    auto* action =
        menu->addAction(translated(type.name), this, [this, &type] { emit addWanted(type); });
    action->setToolTip(translated(type.about));
  }
  menu->popup(button->mapToGlobal(QPoint(0, -menu->sizeHint().height())));
}

void TreatmentRow::show(const std::vector<Treatment>& list, bool elsewhere) {
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

void TreatmentRow::put(QWidget* widget) {
  m_row.add(widget);
  m_made.push_back(widget);
}

void TreatmentRow::rebuild(const std::vector<Treatment>& list) {
  for (QWidget* widget : m_made) {
    widget->hide();
    widget->deleteLater(); // it may be what was just pressed
  }
  m_made.clear();
  m_follow.clear();
  if (list.empty()) return;
  auto* all = new Segments(tr("Treatments, first to last"), Segments::Picks::One, &m_row);
  for (std::size_t i = 0; i < list.size(); ++i) {
    QString text = nameOfType(typeOf(list[i]));
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

void TreatmentRow::addActs(const Treatment& open) {
  const std::size_t at = m_open;
  auto* on = new Tick(tr("On"), tr("Off: hear it without, and keep it"), &m_row);
  on->setChecked(open.on);
  auto* sooner = new Button(tr("Earlier"), tr("Before the one before it"), &m_row);
  auto* drop =
      new Button(Sign::Remove, tr("Remove"), tr("Take this treatment away; can be undone"), &m_row);
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

void TreatmentRow::addFigures(const Treatment& open) {
  const TreatmentType& type = typeOf(open);
  const std::size_t at = m_open;
  const auto set = [this, at, &type](const TreatmentParameter& one, double v,
                                     const QString& merge) {
    change(
        tr("Treat: %1").arg(nameOfType(type)),
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
      auto* combo = new Combo(nameOf(p), QString(), &m_row);
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
    auto* slide = new Slide(nameOf(p), rangeOf(p), QString(), &m_row);
    slide->setId(QStringLiteral("treatment.%1.%2").arg(asQt(type.id), asQt(p.id)));
    slide->setTypedUnit(p.unit);
    slide->setFormat([&p](double v) { return QString::fromStdString(written(p, v)); });
    slide->setValue(one.get(open));
    connect(slide, &Slide::changed, this, [this, set, &one](double v, bool settled) {
      set(one, v, asQt(one.parameter.id));
      if (settled) emit settleWanted();
    });
    m_follow.emplace_back([slide, &one](const Treatment& t) { slide->setValue(one.get(t)); });
    put(slide);
  }
}

void TreatmentRow::addOrder() {
  auto* order = new OrderStrip(&m_row);
  const std::size_t at = m_open;
  order->setOrder(m_orderAt(at));
  connect(order, &OrderStrip::reordered, this, [this, at](const std::vector<int>& pieces) {
    change(tr("Order by hand"), [&](auto& all) {
      if (at >= all.size()) return;
      if (auto* chop = all[at].template as<treat::Chop>()) chop->order = pieces;
    });
  });
  m_follow.push_back([this, order, at](const Treatment&) { order->setOrder(m_orderAt(at)); });
  put(order);
}

} // namespace tuvvo
