#include "widgets/slide.h"

#include "listen/spelling.h"
#include "model/typed.h"
#include "theme/plate.h"

#include <QAccessibleWidget>
#include <QFontMetricsF>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QToolTip>
#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

/// A slide as screen readers know it.
class SlideForReaders : public QAccessibleWidget, public QAccessibleValueInterface {
public:
  explicit SlideForReaders(Slide* slide)
      : QAccessibleWidget(slide, QAccessible::Slider), m_slide(slide) {}
  void* interface_cast(QAccessible::InterfaceType type) override {
    if (type == QAccessible::ValueInterface) return static_cast<QAccessibleValueInterface*>(this);
    return QAccessibleWidget::interface_cast(type);
  }
  [[nodiscard]] QVariant currentValue() const override { return m_slide->value(); }
  void setCurrentValue(const QVariant& value) override { m_slide->moveTo(value.toDouble()); }
  [[nodiscard]] QVariant minimumValue() const override { return m_slide->range().low; }
  [[nodiscard]] QVariant maximumValue() const override { return m_slide->range().high; }
  [[nodiscard]] QVariant minimumStepSize() const override { return m_slide->range().step; }

private:
  Slide* m_slide;
};

QAccessibleInterface* forReaders(const QString&, QObject* object) {
  auto* slide = qobject_cast<Slide*>(object);
  return slide ? new SlideForReaders(slide) : nullptr;
}

} // namespace

Slide::Slide(const QString& label, const Range& range, const QString& unit, QWidget* parent)
    : QWidget(parent), m_label(label), m_unit(unit), m_range(range), m_value(range.usual) {
  for (Unit each :
       {Unit::Decibels, Unit::Hertz, Unit::Milliseconds, Unit::Seconds, Unit::Semitones,
        Unit::Cents, Unit::Octaves, Unit::Beats, Unit::Ticks, Unit::Bars, Unit::Percent})
    if (unit == QLatin1String(symbolOf(each).data(), qsizetype(symbolOf(each).size())))
      m_typed = each;
  static const bool known = (QAccessible::installFactory(forReaders), true);
  Q_UNUSED(known)
  setAccessibleName(label);
  setToolTip(tr("%1: drag, wheel or arrow keys; Enter to type; double-click for %2")
                 .arg(label, QString::number(range.usual, 'f', range.decimals) +
                                 (unit.isEmpty() ? QString() : QStringLiteral(" ") + unit)));
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::SizeHorCursor);
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

QSize Slide::sizeHint() const { return {theme::px(116), theme::px(m_label.isEmpty() ? 24 : 40)}; }
QSize Slide::minimumSizeHint() const { return {theme::px(76), sizeHint().height()}; }

QRectF Slide::bar() const {
  return QRectF(0.5, height() - theme::px(22) - 0.5, width() - 1, theme::px(22));
}

QString Slide::figure() const {
  if (m_format) return m_format(m_value);
  QString text = QString::number(m_value, 'f', m_range.decimals);
  if (m_range.low < 0 && m_value > 0) text.prepend(QLatin1Char('+'));
  text.replace(QLatin1Char('-'), QChar(0x2212));
  return m_unit.isEmpty() ? text : text + QLatin1Char(' ') + m_unit;
}

void Slide::setValue(double value) {
  const double held = std::clamp(value, m_range.low, m_range.high);
  if (held == m_value && !accessibleDescription().isEmpty()) return;
  m_value = held;
  setAccessibleDescription(figure());
  if (QAccessible::isActive()) {
    QAccessibleValueChangeEvent event(this, m_value);
    QAccessible::updateAccessibility(&event);
  }
  update();
}

/// Where a value stands between the ends, 0 to 1, and back.
double Slide::shareOf(double value) const {
  if (m_range.octaves) return std::log(value / m_range.low) / std::log(m_range.high / m_range.low);
  return (value - m_range.low) / (m_range.high - m_range.low);
}

double Slide::valueAt(double share) const {
  if (m_range.octaves) return m_range.low * std::pow(m_range.high / m_range.low, share);
  return m_range.low + share * (m_range.high - m_range.low);
}

double Slide::stepped(double value, int steps) const {
  return m_range.octaves ? value * std::exp2(steps / 12.0) : value + steps * m_range.step;
}

void Slide::move(double value, bool settled) {
  const double before = m_value;
  setValue(value);
  if (m_value != before || settled) emit changed(m_value, settled);
}

void Slide::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QRectF box = bar();
  if (!m_label.isEmpty())
    theme::drawText(painter, QRectF(1, 0, width() - 2, box.top() - 1),
                    Qt::AlignLeft | Qt::AlignVCenter, m_label, theme::Type::Small, c.quiet);
  const QColor tone = theme::ink(m_tone);
  theme::drawPlate(painter, box, 4, c.ground);
  painter.setPen(Qt::NoPen);
  const double at = box.left() + box.width() * shareOf(m_value);
  const double zero =
      m_range.low < 0 && m_range.high > 0 ? box.left() + box.width() * shareOf(0) : box.left();
  painter.save();
  painter.setClipRect(box);
  painter.setBrush(theme::mixed(tone, c.ground, isEnabled() ? 0.42 : 0.15));
  painter.drawRoundedRect(
      QRectF(QPointF(std::min(zero, at), box.top()), QPointF(std::max(zero, at), box.bottom())), 3,
      3);
  // The figure stands on the right, or on the left where the mark would run through it; where it
  // would on both sides the mark leaves room for it.
  const double written = QFontMetricsF(theme::font(theme::Type::Small)).horizontalAdvance(figure());
  const bool right = at <= box.right() - written - 10, left = at - box.left() > written + 12;
  const QRectF mark(std::clamp(at - 1, box.left(), box.right() - 2), box.top(), 2, box.height());
  painter.setBrush(tone);
  if (right || left) {
    painter.drawRect(mark);
  } else {
    painter.drawRect(mark.adjusted(0, 0, 0, 4 - mark.height()));
    painter.drawRect(mark.adjusted(0, mark.height() - 4, 0, 0));
  }
  painter.restore();
  theme::drawPlate(painter, box, 4, Qt::transparent, hasFocus() ? c.brass : c.line,
                   hasFocus() ? 1.5 : 1);
  const auto side = !right && left ? Qt::AlignLeft : Qt::AlignRight;
  theme::drawText(painter, box.adjusted(6, 0, -7, 0), side | Qt::AlignVCenter, figure(),
                  theme::Type::Small, isEnabled() ? c.text : c.quiet);
}

void Slide::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  m_dragging = true;
  m_pressedX = event->position().x();
  m_pressedValue = m_value;
}

void Slide::mouseMoveEvent(QMouseEvent* event) {
  if (!m_dragging) return;
  // A pixel is a pixel of the bar; with Shift a tenth of it.
  const double fine = event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
  const double raw = valueAt(shareOf(m_pressedValue) +
                             (event->position().x() - m_pressedX) / bar().width() * fine);
  const double step = m_range.step * (fine < 1 ? 0.1 : 1.0);
  move(std::round(raw / step) * step, false);
}

void Slide::mouseReleaseEvent(QMouseEvent*) {
  if (m_dragging && m_value != m_pressedValue) emit changed(m_value, true);
  m_dragging = false;
}

void Slide::mouseDoubleClickEvent(QMouseEvent*) { move(m_range.usual, true); }

void Slide::wheelEvent(QWheelEvent* event) {
  move(stepped(m_value, event->angleDelta().y() > 0 ? 1 : -1), true);
  event->accept();
}

bool Slide::event(QEvent* event) {
  // The keys that move it are its own, whatever the stage around it uses them for.
  if (event->type() == QEvent::ShortcutOverride) switch (static_cast<QKeyEvent*>(event)->key()) {
    case Qt::Key_Left:
    case Qt::Key_Right:
    case Qt::Key_Up:
    case Qt::Key_Down:
    case Qt::Key_Home:
      event->accept();
      return true;
    default:
      break;
    }
  return QWidget::event(event);
}

void Slide::keyPressEvent(QKeyEvent* event) {
  const int steps = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
  switch (event->key()) {
  case Qt::Key_Right:
  case Qt::Key_Up:
    move(stepped(m_value, steps), true);
    break;
  case Qt::Key_Left:
  case Qt::Key_Down:
    move(stepped(m_value, -steps), true);
    break;
  case Qt::Key_Home:
    move(m_range.usual, true);
    break;
  case Qt::Key_Return:
  case Qt::Key_Enter:
    type();
    break;
  default:
    QWidget::keyPressEvent(event);
  }
}

void Slide::type() {
  auto* edit = new QLineEdit(QString::number(m_value, 'f', m_range.decimals), this);
  edit->setAccessibleName(m_label);
  edit->setGeometry(bar().toRect());
  edit->selectAll();
  edit->show();
  edit->setFocus();
  connect(edit, &QLineEdit::editingFinished, this, [this, edit] {
    const QString text = edit->text();
    edit->deleteLater();
    setFocus();
    if (const auto value = read(text)) return move(*value, true);
    QToolTip::showText(
        mapToGlobal(QPoint(0, height())),
        tr("“%1” is no figure here. Write a number, with its unit or without.").arg(text.left(24)),
        this);
  });
}

std::optional<double> Slide::read(const QString& text) const {
  if (m_isNote)
    if (const auto note = noteFromName(text.trimmed().toStdString())) return *note;
  const QVariant bpm = window()->property("bpm");
  return typed(text.toStdString(), m_typed,
               bpm.isValid() ? std::optional(Bpm(bpm.toDouble())) : std::nullopt);
}

} // namespace tuvvo
