// Every source as a dot: across how far its tempo must move to meet the beat, up how far its key
// is.
#pragma once

#include "session/session.h"

#include <QWidget>

namespace tuvvo {

class ReachMap : public QWidget {
  Q_OBJECT
public:
  ReachMap(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;

private:
  struct Dot {
    Id source;
    QPointF at;
    bool tempo, key; ///< known
  };
  [[nodiscard]] std::vector<Dot> dots() const;
  [[nodiscard]] QRectF field() const;

  Session& m_session;
};

} // namespace tuvvo
