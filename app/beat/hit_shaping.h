// What shapes several chosen hits together, in a panel under a button.
#pragma once

#include "beat/hit_choice.h"

namespace tuvvo {

class Button;
class Combo;
class MorePanel;
class Slide;

class HitShaping : public QObject {
  Q_OBJECT
public:
  /// @param button  opens it
  HitShaping(Panel& panel, HitChoice& choice, Button* button);

private:
  using Shape = std::function<HitClip(HitClip)>;
  Slide* slide(const QString& id, const QString& label, double low, double high, double usual,
               const QString& unit, const QString& tip, const QString& name, Shape shape);
  void button(const QString& text, const QString& tip, const std::function<void()>& run);
  void lay(const QString& name, const Shape& shape, bool settled);

  Panel& m_panel;
  HitChoice& m_choice;
  QWidget* m_parent;
  MorePanel* m_more;
  Combo* m_velocities;
  Slide *m_strum, *m_depth, *m_timing, *m_variation, *m_width;
  std::uint64_t m_seed = 0;
};

} // namespace tuvvo
