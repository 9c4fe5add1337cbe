#include "widgets/combo.h"

#include "theme/theme.h"
#include "widgets/signs.h"

#include <QCompleter>
#include <QLineEdit>

namespace tuvvo {

Combo::Combo(const QString& name, const QString& tip, QWidget* parent) : QComboBox(parent) {
  setAccessibleName(name);
  setToolTip(tip.isEmpty() ? name : tip);
  setFocusPolicy(Qt::TabFocus);
}

void Combo::setTyped() {
  setEditable(true);
  setInsertPolicy(NoInsert);
  setCompleter(nullptr);
  lineEdit()->setFocusPolicy(Qt::ClickFocus);
  lineEdit()->setAccessibleName(accessibleName());
  connect(lineEdit(), &QLineEdit::textChanged, this, [this] {
    if (!lineEdit()->hasFocus()) lineEdit()->setCursorPosition(0);
  });
}

void Combo::paintEvent(QPaintEvent* event) {
  QComboBox::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  if (!isEnabled()) { // what cannot be chosen steps back
    QColor veil = theme::colours().ground;
    veil.setAlphaF(0.55f);
    p.fillRect(rect(), veil);
  }
  drawOpensSign(p, QPointF(width() - theme::px(13), height() / 2.0), theme::colours().quiet);
}

QString counted(qint64 count, const QString& one, const QString& many) {
  return QStringLiteral("%1 %2").arg(count).arg(count == 1 ? one : many);
}

} // namespace tuvvo
