// A strip of bars over the ribbons; bars that hold the same pins have the same letter and shade.
#pragma once

#include "session/session.h"

#include <QWidget>

namespace tuvvo {

class RibbonsView;

class AlikeStrip : public QWidget {
  Q_OBJECT
public:
  AlikeStrip(Session& session, RibbonsView& ribbons, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  Session& m_session;
  RibbonsView& m_ribbons;
};

/// For each bar the first bar that is like it: 0 0 0 3 is A A A B.
[[nodiscard]] std::vector<int> barsAlike(const Pattern& pattern);

} // namespace tuvvo
