// How the part of the chosen key steps back while another part is struck.
#pragma once

#include "model/bus_parameters.h"
#include "panel/panel.h"
#include "widgets/combo.h"
#include "widgets/slide.h"

namespace tuvvo {

class Label;

class DuckRow : public Panel {
  Q_OBJECT
public:
  DuckRow(Panel& host, QWidget* parent);
  /// @param part  null: there is none
  void show(const Part* part);

private:
  void choose(int place);
  void change(const QString& name, const std::function<void(Duck&)>& change,
              const QString& merge = {});

  std::vector<Label*> m_words;
  Combo* m_by;
  std::vector<std::pair<Slide*, const DuckParameter*>> m_slides;
  Id m_part = 0;
};

} // namespace tuvvo
