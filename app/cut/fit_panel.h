// Bringing the source to the beat: the three methods, the fit ruler, the best ways, the question
// turned round.
#pragma once

#include "cut/fit_ruler.h"
#include "panel/panel.h"

#include <QAbstractButton>

namespace tuvvo {

class Segments;

/// Two lines that can be pressed: what would be done, and what will be heard.
class FitWay : public QAbstractButton {
  Q_OBJECT
public:
  explicit FitWay(QWidget* parent);
  void show(const QString& first, const QString& second, bool chosen);
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  QString m_second;
  bool m_chosen = false;
};

class FitPanel : public Panel {
  Q_OBJECT
public:
  FitPanel(Panel& host, QWidget* parent);
  /// The best way of every method, and of moving the beat, in the order in which they stand.
  void takeWay(std::size_t place);
  static constexpr std::size_t kWays = 4;

protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override { showWays(); }

private:
  void refresh();
  /// As many ways as there is room for under the ruler.
  void showWays();

  Segments* m_methods;
  std::array<FitWay*, kWays> m_ways{};
  std::vector<std::function<void()>> m_takes; ///< what pressing a way does
};

} // namespace tuvvo
