// Treatments in a row: what is done to the chosen slices, or to the whole source.
#pragma once

#include "panel/panel.h"
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
  void change(const QString& name, const std::function<void(std::vector<Treatment>&)>& what,
              const QString& merge = {});
  void refresh();
  void rebuild(const std::vector<Treatment>& list);
  void addFigures(const Treatment& open);
  void addOrder();
  void addActs(const Treatment& open);
  void put(QWidget* widget);
  [[nodiscard]] std::vector<int> orderAt(std::size_t at) const;

  SourceService& m_sources;
  ControlRow* m_row;
  Label* m_subject;
  Button *m_add, *m_bounce;
  std::vector<QWidget*> m_made; ///< widgets of the list and of the open one
  std::vector<Treatment> m_list;
  std::vector<std::function<void(const Treatment&)>> m_follow; ///< figures take their values
  std::size_t m_open = 0;
  Id m_source = 0, m_cut = 0;
};

} // namespace tuvvo
