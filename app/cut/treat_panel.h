// Treatments in a row: what is done to the chosen slices, or to the whole source.
#pragma once

#include "panel/panel.h"
#include "parts/treatment_row.h"
#include "session/source_service.h"

#include <QWidget>

namespace tuvvo {

class Button;
class ControlRow;
class Label;

class TreatPanel : public Panel {
  Q_OBJECT
public:
  TreatPanel(Panel& host, SourceService& sources, QWidget* parent);
  void offerKinds();
  /// Puts a treatment after the others.
  void add(const TreatmentType& type);

private:
  [[nodiscard]] std::vector<Treatment> shown() const;
  void change(const QString& name, const TreatmentRow::Change& what, const QString& merge = {});
  void refresh();
  [[nodiscard]] std::vector<int> orderAt(std::size_t at) const;

  SourceService& m_sources;
  ControlRow* m_row;
  Label* m_subject;
  Button *m_add, *m_bounce;
  TreatmentRow* m_list;
  Id m_source = 0, m_cut = 0;
};

} // namespace tuvvo
