// The ways to cut, and what the chosen one can be told.
#pragma once

#include "model/project.h"
#include "widgets/control_row.h"
#include "widgets/slide.h"

#include <functional>

namespace tuvvo {

class Label;
class Segments;
class Tick;

class CutModes : public ControlRow {
  Q_OBJECT
public:
  static constexpr std::size_t kWays = 7;
  explicit CutModes(QWidget* parent);
  /// @param source  null for none
  void show(const Source* source);
  /// "Cut by hits", in the order of CutMode.
  [[nodiscard]] static QString commandText(CutMode way);

  /// While a source is tapped along to, "Tap" stands there and the rest rests.
  void setTapping(bool on);
  [[nodiscard]] QWidget* loopsButton() const;

signals:
  void tapAlong(bool on);
  void tapped();
  void loopsWanted();
  /// One of the stage's commands, by its text.
  void commandWanted(const QString& text);
  /// @param merge  edits with the same text become one step; empty: a step of its own
  void wanted(const std::function<void(CutSettings&)>& change, const QString& merge);

private:
  void addFigures();
  void addClasses();
  void addActs();

  Segments *m_ways, *m_seldom, *m_classes;
  Label* m_says;
  Tick *m_fromBar, *m_decay;
  Button *m_along, *m_tap, *m_loops;
  Slide *m_sensitivity, *m_perBeat, *m_barsEach, *m_parts;
};

} // namespace tuvvo
