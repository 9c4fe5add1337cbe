#include "widgets/control_row.h"

#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/more_panel.h"

#include <QEvent>
#include <QScopedValueRollback>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

namespace {
int gap() { return px(8); }
} // namespace

ControlRow::ControlRow(QWidget* parent)
    : QWidget(parent), m_more(new Button(tr("More"), tr("What is seldom wanted"), this)),
      m_panel(new MorePanel(m_more)) {
  m_more->setOpens(true);
  m_more->hide();
  connect(m_more, &QAbstractButton::clicked, m_panel, &MorePanel::toggle);
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

ControlRow::~ControlRow() {
  // Its widgets go after this, and have nothing to say to it any more.
  for (const auto& item : std::as_const(m_items)) {
    if (!item.widget) continue;
    item.widget->removeEventFilter(this);
    item.widget->disconnect(this);
  }
  delete m_panel; // it may lie in the window by now
}

ControlRow* ControlRow::in(QWidget* panel) {
  auto* row = new ControlRow(panel);
  auto* column = new QVBoxLayout(panel);
  column->setContentsMargins(0, 0, 0, 0);
  column->addWidget(row);
  return row;
}

void ControlRow::add(QWidget* widget, Stays stays) {
  widget->setParent(this);
  widget->show();
  widget->installEventFilter(this);
  connect(widget, &QObject::destroyed, this, [this, widget] {
    m_items.removeIf([&](const Item& item) { return item.widget == widget; });
    updateGeometry();
  });
  m_items << Item{widget, stays, false, false};
  updateGeometry();
  lay();
}

void ControlRow::addStretch() { m_items << Item{nullptr, Stays::Always, true, false}; }
void ControlRow::addGap() { m_items << Item{}; }

bool ControlRow::wanted(const Item& item) const { return !item.widget || !item.widget->isHidden(); }

int ControlRow::widthOf(const Item& item, bool least) const {
  if (!item.widget) return item.stretch ? 0 : px(8);
  const int hint = item.widget->sizeHint().width();
  const int narrow = least ? std::min(hint, item.widget->minimumSizeHint().width()) : hint;
  return std::clamp(narrow, item.widget->minimumWidth(), item.widget->maximumWidth());
}

int ControlRow::need(bool least) const {
  int width = 0, count = 0;
  for (const auto& item : m_items) {
    if (!wanted(item) || item.under) continue;
    width += widthOf(item, least);
    count += item.widget ? 1 : 0;
  }
  if (anyUnder()) {
    width += m_more->sizeHint().width();
    ++count;
  }
  return width + std::max(0, count - 1) * gap();
}

bool ControlRow::anyUnder() const {
  return std::any_of(m_items.begin(), m_items.end(),
                     [&](const Item& item) { return item.under && wanted(item); });
}

/// Into the row or into the panel, hidden or shown as it was.
void ControlRow::put(Item& item) {
  QWidget* at = item.under ? static_cast<QWidget*>(m_panel) : this;
  if (item.widget->parentWidget() == at) return;
  const bool hidden = item.widget->isHidden();
  if (item.under)
    m_panel->add(item.widget);
  else
    item.widget->setParent(this);
  item.widget->setVisible(!hidden);
}

void ControlRow::lay() {
  if (m_laying) return;
  const QScopedValueRollback<bool> laying(m_laying, true);
  for (auto& item : m_items) item.under = item.stays == Stays::UnderMore;
  for (qsizetype i = m_items.size(); i-- > 0 && width() > 0 && need(true) > width();)
    if (m_items[i].widget && m_items[i].stays == Stays::IfThereIsRoom && wanted(m_items[i]))
      m_items[i].under = true;
  for (auto& item : m_items)
    if (item.widget) put(item);
  m_more->setVisible(anyUnder());
  // From what they want towards the least, all by the same share of what they can give.
  const int whole = need(false), least = need(true), room = width();
  const double kept =
      whole <= room || whole == least ? 1.0 : std::max(0.0, double(room - least) / (whole - least));
  bool stretched = false;
  double x = 0;
  const auto put = [&](QWidget* widget, int wide) {
    // Figures with their names over them and plain controls stand on one foot; words in a line with
    // those of the controls.
    const int tall = std::min(height(), widget->sizeHint().height()),
              lift = std::max(0, std::min(height(), px(28)) - tall) / 2;
    widget->setGeometry(int(x), height() - tall - lift, wide, tall);
    x += wide + gap();
  };
  // More stands where the last of those is that went, or at the end.
  const int over = std::max(0, room - std::min(room, whole));
  for (const auto& item : m_items) {
    if (item.stretch && !stretched) {
      stretched = true;
      if (anyUnder()) put(m_more, m_more->sizeHint().width());
      x += over;
    }
    if (!wanted(item) || item.under) continue;
    const int wide = widthOf(item, true) + int((widthOf(item, false) - widthOf(item, true)) * kept);
    if (item.widget)
      put(item.widget, wide);
    else
      x += wide;
  }
  if (!stretched && anyUnder()) put(m_more, m_more->sizeHint().width());
}

QSize ControlRow::sizeHint() const {
  int tallest = px(28), width = 0;
  for (const auto& item : m_items) {
    if (!wanted(item) || item.stays == Stays::UnderMore) continue;
    width += widthOf(item, false) + gap();
    if (item.widget) tallest = std::max(tallest, item.widget->sizeHint().height());
  }
  return {width, tallest};
}

QSize ControlRow::minimumSizeHint() const {
  int width = 0;
  bool goes = false; // something may lie under More
  for (const auto& item : m_items) {
    if (!wanted(item)) continue;
    goes = goes || item.stays != Stays::Always;
    if (item.stays == Stays::Always)
      width += widthOf(item, true) + (item.widget && width > 0 ? gap() : 0);
  }
  if (goes) width += m_more->sizeHint().width() + gap();
  return {width, sizeHint().height()};
}

bool ControlRow::event(QEvent* event) {
  if (event->type() == QEvent::LayoutRequest && !m_laying) {
    lay();
    updateGeometry();
  }
  return QWidget::event(event);
}

bool ControlRow::eventFilter(QObject* watched, QEvent* event) {
  const bool shown = event->type() == QEvent::ShowToParent || event->type() == QEvent::HideToParent;
  if (shown && !m_laying) {
    lay();
    updateGeometry();
  }
  return QWidget::eventFilter(watched, event);
}

} // namespace tuvvo
