// On or off: a word with a box.
#pragma once

#include "widgets/press.h"

namespace tuvvo {

/// The box holds a tick where it is on, so that it is read without colour.
class Tick : public Press {
  Q_OBJECT
public:
  explicit Tick(const QString& text, const QString& tip = {}, QWidget* parent = nullptr);

protected:
  [[nodiscard]] int padding() const override { return theme::px(26); }
  void paintEvent(QPaintEvent*) override;
};

} // namespace tuvvo
