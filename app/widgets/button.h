// Does something, or opens something.
#pragma once

#include "widgets/press.h"

namespace tuvvo {

/// A raised button with a verb. What opens a menu ends in an arrow; what opens a window says so
/// with an ellipsis in its text.
class Button : public Press {
  Q_OBJECT
  Q_PROPERTY(QString look READ look)
public:
  enum class Weight {
    Plain,
    Next,  ///< the one next step of what is shown: filled
    Danger ///< takes away or records: a coral rim; it can be undone
  };
  explicit Button(const QString& text, const QString& tip = {}, QWidget* parent = nullptr);
  Button(Sign sign, const QString& text, const QString& tip, QWidget* parent);
  void setWeight(Weight weight) {
    m_weight = weight;
    update();
  }
  [[nodiscard]] Weight weight() const { return m_weight; }
  /// It opens a menu, or a panel under it.
  void setOpens(bool opens) {
    m_opens = opens;
    updateGeometry();
    update();
  }
  [[nodiscard]] bool opens() const { return m_opens; }
  [[nodiscard]] QString look() const;

protected:
  [[nodiscard]] int padding() const override;
  void paintEvent(QPaintEvent*) override;

private:
  Weight m_weight = Weight::Plain;
  bool m_opens = false;
};

} // namespace tuvvo
