// A value as a short horizontal bar with the figure written in it.
#pragma once

#include "model/parameter.h"
#include "theme/theme.h"

#include <QWidget>
#include <algorithm>
#include <functional>

class QLineEdit;

namespace tuvvo {

/// Drag, wheel, arrow keys, type (Enter opens the figure), double-click for the usual value. What
/// is typed is read as people write it (model/typed.h); note values in times go by the property
/// "bpm" of the window.
class Slide : public QWidget {
  Q_OBJECT
public:
  struct Range {
    double low, high, usual, step;
    int decimals = 0;
    bool octaves = false; ///< every octave takes as much room; low is above 0, a step a semitone
  };
  Slide(const QString& label, const Range& range, const QString& unit, QWidget* parent = nullptr);

  [[nodiscard]] double value() const { return m_value; }
  [[nodiscard]] const Range& range() const { return m_range; }
  /// As a drag that ends here.
  void moveTo(double value) { move(value, true); }
  /// Does not signal.
  void setValue(double value);
  /// Other ends and another usual value; the value is brought between them without a signal.
  void setRange(const Range& range) {
    m_range = range;
    setValue(m_value);
  }
  /// What is written over the bar; empty where something else names it.
  void setLabel(const QString& label) {
    m_label = label;
    updateGeometry();
    update();
  }
  void setTone(theme::Ink tone) {
    m_tone = tone;
    update();
  }
  /// Writes the figure in words of its own ("off", "left 20").
  void setFormat(std::function<QString(double)> format) {
    m_format = std::move(format);
    update();
  }
  /// What is typed is a figure of this unit; without it, of the unit that is shown.
  void setTypedUnit(Unit unit) { m_typed = unit; }
  /// The figure is a note, MIDI; it can be typed by its name.
  void setNote() { m_isNote = true; }
  /// What a controller knows it by: a parameter's id, whatever the language. Empty: no controller
  /// moves it.
  void setId(const QString& id) { m_id = id; }
  [[nodiscard]] QString id() const { return m_id; }
  /// A controller moves it to a share of the way between its ends; signals like a drag.
  void moveToShare(double share) { move(valueAt(std::clamp(share, 0.0, 1.0)), false); }
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override;

signals:
  /// @param settled  the gesture is over: the next change is another step of undo
  void changed(double value, bool settled);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;

private:
  [[nodiscard]] QRectF bar() const;
  [[nodiscard]] double shareOf(double value) const;
  [[nodiscard]] double valueAt(double share) const;
  [[nodiscard]] double stepped(double value, int steps) const;
  [[nodiscard]] QString figure() const;
  void move(double value, bool settled);
  void type();
  [[nodiscard]] std::optional<double> read(const QString& text) const;

  QString m_label, m_unit, m_id;
  Range m_range;
  double m_value, m_pressedValue = 0, m_pressedX = 0;
  bool m_dragging = false, m_isNote = false;
  Unit m_typed = Unit::None;
  theme::Ink m_tone = theme::Ink::Slate;
  std::function<QString(double)> m_format;
};

} // namespace tuvvo
