// The ways to cut: a chip each, and what the chosen one can be told.
#pragma once

#include "model/project.h"
#include "widgets/chip.h"
#include "widgets/slide.h"

#include <functional>

namespace tuvvo {

class FlowRow;

class CutModes : public QWidget {
  Q_OBJECT
public:
  static constexpr std::size_t kWays = 7;
  explicit CutModes(QWidget* parent);
  /// @param source  null for none
  void show(const Source* source);
  /// "Cut by hits", in the order of CutWay.
  [[nodiscard]] static QString commandText(CutMode way);

  /// While a source is tapped along to, "Tap" stands there and the rest rests.
  void setTapping(bool on);
  [[nodiscard]] QWidget* loopsChip() const;

signals:
  void tapAlong(bool on);
  void tapped();
  void loopsWanted();
  /// @param merge  edits with the same text become one step; empty: a step of its own
  void wanted(const std::function<void(CutSettings&)>& change, const QString& merge);

private:
  void addFigures(FlowRow& row);
  void addClasses(FlowRow& row);
  void addActs(FlowRow& row);

  std::array<Chip*, kWays> m_ways{};
  std::array<Chip*, 4> m_classes{};
  Chip *m_fromBar, *m_decay, *m_along, *m_tap, *m_loops;
  Slide *m_sensitivity, *m_perBeat, *m_barsEach, *m_parts;
};

} // namespace tuvvo
