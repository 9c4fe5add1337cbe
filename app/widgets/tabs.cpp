#include "widgets/tabs.h"

#include <QHBoxLayout>
#include <QKeyEvent>

namespace tuvvo {

using theme::px;

namespace {

class Tab : public Press {
public:
  using Press::Press;

protected:
  int padding() const override { return px(16); }
  void paintEvent(QPaintEvent*) override {
    const auto& c = theme::colours();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(rect()).adjusted(1, 1, -1, -1);
    const QColor ink = !isEnabled()             ? theme::mixed(c.quiet, c.panel, 0.55)
                       : isChecked() || under() ? c.text
                                                : c.quiet;
    drawFace(painter, box.adjusted(0, 0, 0, -px(2)), ink);
    if (isChecked()) {
      painter.setPen(Qt::NoPen);
      painter.setBrush(c.brass);
      painter.drawRoundedRect(
          QRectF(box.left() + px(7), box.bottom() - px(2), box.width() - px(14), px(2)), 1, 1);
    }
    drawFocus(painter, box, px(4));
  }
};

} // namespace

Tabs::Tabs(const QString& name, QWidget* parent) : QWidget(parent) {
  setAccessibleName(name);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(px(4));
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

int Tabs::add(const QString& text, const QString& tip) {
  auto* tab = new Tab(text, tip, this);
  tab->setCheckable(true);
  const int place = int(m_tabs.size());
  tab->setChecked(place == m_chosen);
  layout()->addWidget(tab);
  m_tabs << tab;
  connect(tab, &QAbstractButton::clicked, this, [this, place] {
    choose(m_chosen); // a press alone changes nothing: whoever is asked does
    emit wanted(place);
  });
  return place;
}

void Tabs::choose(int place) {
  m_chosen = place;
  for (qsizetype i = 0; i < m_tabs.size(); ++i) m_tabs[i]->setChecked(i == place);
}

void Tabs::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
  for (int to = m_chosen + way; way != 0 && to >= 0 && to < count(); to += way)
    if (m_tabs[to]->isEnabled() && !m_tabs[to]->isHidden()) {
      m_tabs[to]->setFocus(Qt::TabFocusReason);
      emit wanted(to);
      return;
    }
  QWidget::keyPressEvent(event);
}

} // namespace tuvvo
