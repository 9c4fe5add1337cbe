// One of several ways, or a choice among several kinds: one frame of joined segments.
#pragma once

#include "model/project.h"
#include "widgets/press.h"

#include <QList>

namespace tuvvo {

class Segments : public QWidget {
  Q_OBJECT
  Q_PROPERTY(QString look READ look)
public:
  enum class Picks { One, Several };
  explicit Segments(const QString& name, Picks picks = Picks::One, QWidget* parent = nullptr);
  /// @returns its place
  int add(const QString& text, const QString& tip);
  /// One with the sign of a hit before its word.
  int add(HitClass hit, const QString& text, const QString& tip);
  /// Of Picks::One; −1 where none is.
  [[nodiscard]] int chosen() const { return m_chosen; }
  /// Does not signal. @param place  −1 for none
  void choose(int place);
  /// Of Picks::Several.
  [[nodiscard]] bool isOn(int place) const { return m_segments[place]->isChecked(); }
  void setOn(int place, bool on) { m_segments[place]->setChecked(on); }
  [[nodiscard]] Press* segment(int place) const { return m_segments[place]; }
  [[nodiscard]] int count() const { return int(m_segments.size()); }
  [[nodiscard]] QString look() const {
    return m_picks == Picks::One ? QStringLiteral("one") : QStringLiteral("several");
  }

signals:
  /// Somebody pressed one; among several it is on or off already.
  void wanted(int place);

protected:
  void paintEvent(QPaintEvent*) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  int join(Press* segment);
  QList<Press*> m_segments;
  Picks m_picks;
  int m_chosen = -1;
};

} // namespace tuvvo
